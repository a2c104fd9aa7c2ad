import type { Schemas } from "../api/client"

type Operation = Schemas["Operation"]

/** Words that are being typed: what a run of an element was when its page came, was sent as, and is by now. */
export interface Typing {
  page: string
  element: string
  /** From 1; 0 where the words stand alone and are written by the engine, as a title or a label. */
  run: number
  first: string
  sent: string
  now: string
}

/**
 * The operation that makes words of others. Only what differs is written, in characters (code points), so that
 * what stands around it keeps the form that its source has. The space that browsers write so as not to lose it
 * is a space.
 */
export function written(t: Pick<Typing, "page" | "element" | "run">, from: string, to: string): Operation {
  const op: Operation = { op: "text", page: t.page, element: t.element, value: plain(to) }
  if (!t.run) return op
  const a = Array.from(from)
  const b = Array.from(to)
  let start = 0
  while (start < a.length && start < b.length && a[start] === b[start]) start++
  let end = 0
  while (end < a.length - start && end < b.length - start && a[a.length - 1 - end] === b[b.length - 1 - end])
    end++
  return {
    ...op,
    run: t.run,
    from: start,
    to: a.length - end,
    value: plain(b.slice(start, b.length - end).join("")),
  }
}

/** The operation that writes all of a run, whatever stands there by then. */
export const whole = (t: Typing): Operation => ({
  op: "text",
  page: t.page,
  element: t.element,
  value: plain(t.now),
  ...(t.run ? { run: t.run } : {}),
})

const plain = (s: string) => s.replaceAll("\u00a0", " ")

/** What is kept in this browser until the service has it. */
export interface Kept {
  draft: number | null
  seen: string
  done: Operation[]
  operations: Operation[]
  at: number
}

const keyOf = (site: string, page: string) => `compact-parcel typing ${site} ${page}`

export function keep(site: string, page: string, k: Kept | null) {
  try {
    if (k) localStorage.setItem(keyOf(site, page), JSON.stringify(k))
    else localStorage.removeItem(keyOf(site, page))
  } catch {
    // a browser without room keeps nothing; the service has all but the last second
  }
}

export function kept(site: string, page: string): Kept | null {
  try {
    const k = JSON.parse(localStorage.getItem(keyOf(site, page)) ?? "null") as Kept | null
    if (!k || !Array.isArray(k.operations) || !k.operations.length) return null
    // An older console kept no moment: its words mean the page as it is now.
    return typeof k.seen === "string" ? k : { ...k, seen: "", done: [] }
  } catch {
    return null
  }
}
