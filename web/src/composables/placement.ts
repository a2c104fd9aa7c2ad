/** Where a part appears: targets, and those on which it does not. */
export interface Placement {
  where: string[]
  unless: string[]
}

/** Names of pages and of types, for sentences. */
export interface Names {
  page: (path: string) => string
  type: (type: string) => string
}

/** A placement as the operation part-where takes it. */
export const writtenPlacement = (p: Placement) =>
  [...p.where, ...(p.unless.length ? ["except", ...p.unless] : [])].join(" ")

/** A target in words. */
export function targetWords(target: string, names: Names): string {
  const [word, rest = ""] = target.includes(":") ? split(target, ":") : [target]
  const [type, category] = split(rest, "?category=")
  switch (word) {
    case "everywhere":
      return "all pages"
    case "home":
      return "the home page"
    case "search":
      return "the search results"
    case "not-found":
      return "the not-found page"
    case "page":
      return names.page(rest)
    case "under":
      return `all pages below ${names.page(rest)}`
    case "records":
      return `every ${names.type(type)}${category ? ` of ${category}` : ""}`
    case "listing":
      return `the lists of ${names.type(type)}${category ? `, ${category}` : ""}`
    default:
      return target
  }
}

/** A placement as one sentence, without its subject. */
export function placementWords(p: Placement, names: Names): string {
  const list = (targets: string[]) => joined(targets.map((t) => targetWords(t, names)))
  if (!p.where.length) return "appears nowhere"
  return `appears on ${list(p.where)}${p.unless.length ? ` except on ${list(p.unless)}` : ""}`
}

/** The placement after a target was pressed; `covered` says whether the part stands on its pages by another target. */
export function pressed(p: Placement, target: string, covered: boolean): Placement {
  const without = (list: string[]) => list.filter((t) => t !== target)
  if (target === "everywhere") return p.where.includes(target) ? { where: [], unless: [] } : all
  if (p.where.includes(target)) return { where: without(p.where), unless: p.unless }
  if (p.unless.includes(target)) return { where: p.where, unless: without(p.unless) }
  return covered
    ? { where: p.where, unless: [...p.unless, target] }
    : { where: [...p.where, target], unless: p.unless }
}
const all: Placement = { where: ["everywhere"], unless: [] }

const split = (s: string, at: string): [string, string] => {
  const i = s.indexOf(at)
  return i < 0 ? [s, ""] : [s.slice(0, i), s.slice(i + at.length)]
}
const joined = (words: string[]) =>
  words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`
