/** A weight in bytes for people. */
export function weight(n: number): string {
  if (n >= 1 << 20) return `${(n / (1 << 20)).toFixed(1)} MB`
  if (n >= 1 << 10) return `${(n / (1 << 10)).toFixed(1)} KB`
  return `${n} B`
}

/** A moment, in the reader's own zone. */
export function moment(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" })
}

export const short = (digest: string) => digest.slice(0, 12)

/** Where one piece stands alone, below the origin of its previews. */
export const alone = (preview: string, address: string) => `${preview}/_cp/alone/${address}`

/** Kinds that can be shown as a page. */
export const showable = (address: string) =>
  ["page", "section", "block", "part", "menu", "form", "media", "record"].includes(address.split("/")[0])

const firstKinds = ["page", "section", "part", "block"]
/** Items with the pages first, then what else is seen, then the rest, each as they came. */
export function pagesFirst<T extends { address: string }>(list: T[]): T[] {
  const rank = (i: T) => {
    const at = firstKinds.indexOf(i.address.split("/")[0])
    return at < 0 ? firstKinds.length : at
  }
  return list.toSorted((a, b) => rank(a) - rank(b))
}

/** What people call an item: its title, or its name in words. */
export function titleOf(i: { address: string; meta: { title?: string } }): string {
  const name = i.address.split("/").at(-1) ?? ""
  return i.meta.title || (name.includes(".") ? name : anyCase(name.replaceAll("-", " ")))
}
const anyCase = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)

/** A page's address for people; the not-found page has a name of its own. */
export const pageName = (slug: string) => (slug === "/404.html" ? "the not-found page" : slug)

/** Whether media are shown as a picture. */
export const isPicture = (address: string) => /^media\/.*\.(jpe?g|png|webp|avif|gif|svg)$/i.test(address)

/** Words as an anchor or a part of an address. */
export const anchorOf = (words: string) =>
  words
    .toLowerCase()
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "") || "place"

/** What a browser calls itself, for people. */
export function browserName(agent: string): string {
  const name = [
    ["Firefox/", "Firefox"],
    ["Edg/", "Edge"],
    ["HeadlessChrome/", "Chromium, without a screen"],
    ["Chrome/", "Chrome or Chromium"],
    ["Safari/", "Safari"],
  ].find(([mark]) => agent.includes(mark))
  const system = [
    ["Windows", "Windows"],
    ["Android", "Android"],
    ["iPhone", "iPhone"],
    ["Mac OS", "macOS"],
    ["Linux", "Linux"],
  ].find(([mark]) => agent.includes(mark))
  if (!name) return agent ? agent.slice(0, 40) : "An unknown browser"
  return system ? `${name[1]} on ${system[1]}` : name[1]
}
