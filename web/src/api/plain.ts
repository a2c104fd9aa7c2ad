const kinds = "page|section|block|part|stylesheet|tokens|media|menu|form|record-type|record|component|setting"
const address = new RegExp(`(?<![\\w/.-])(${kinds})/([\\w./-]*\\w)`, "g")
const isAddress = new RegExp(`^(\\S+ )?(${kinds})/[\\w./-]+$`)

/** Whether what a message is about is said in words of ours alone: an operation's number, a path of elements. */
const isInner = (subject: string) =>
  /^(done )?operation \d+ /.test(subject) ||
  /:scope|:nth-of-type| > /.test(subject) ||
  isAddress.test(subject)

/**
 * What the service says of a problem, as a keeper reads it: no selector, no number of an operation, no KIND/KEY. What
 * it is about is on the screen.
 */
export function plain(detail: string, subject?: string): string {
  let text = detail
  if (subject && isInner(subject) && text.startsWith(subject + ": ")) text = text.slice(subject.length + 2)
  text = text
    .replace(/["“]:scope[^"”]*["”]|:scope( > [\w-]+(:[\w-]+\([^)]*\))?)+/g, "what you pointed at")
    .replace(address, (_, kind: string, key: string) => `${kind} “${key}”`)
  return text
}
