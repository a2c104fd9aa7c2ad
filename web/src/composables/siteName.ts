const longest = 32

/** Why a site cannot be called so; "" when it can. The service holds the same rules, and has the last word. */
export function siteNameFault(name: string, taken: string[]): string {
  if (!name) return ""
  if (name.length > longest)
    return `A name has up to ${longest} letters: this one has ${name.length - longest} too many.`
  if (!/^[a-z0-9](-?[a-z0-9])*$/.test(name))
    return "A name has lower-case letters, digits and single dashes, as in larch-saddle."
  if (name === "library") return "The library is called so: choose another name."
  if (taken.includes(name)) return "There is already a site of this name: choose another."
  return ""
}
