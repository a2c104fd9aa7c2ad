/** What an attribute such as data-fill or data-value binds: "text:title; href:tel:{phone}", each with its place. */
export function bindings(words: string | null): { place: string; name: string }[] {
  return (words ?? "").split(";").flatMap((one) => {
    const at = one.indexOf(":")
    if (at < 0) return []
    const rest = one.slice(at + 1)
    const name = (/\{([^}]*)\}/.exec(rest)?.[1] ?? rest).trim()
    return name ? [{ place: one.slice(0, at).trim(), name }] : []
  })
}

/** A blank of a section that a page can fill with a value of its own. */
export interface SectionBlank {
  name: string
  sample: string
}

/** The blanks of a section's markup that hold words, from its data-fill attributes. */
export function blanksOf(markup: string): SectionBlank[] {
  const out: SectionBlank[] = []
  const tree = new DOMParser().parseFromString(markup, "text/html")
  for (const e of tree.querySelectorAll("[data-fill]"))
    for (const { place, name } of bindings(e.getAttribute("data-fill"))) {
      if (out.some((b) => b.name === name)) continue
      const sample = place === "text" || place === "html" ? e.textContent : e.getAttribute(place)
      out.push({ name, sample: sample?.trim() ?? "" })
    }
  return out
}

/** An open region of a part, which a page can fill. */
export interface Region {
  part: string
  name: string
}

/** The names of the regions in a part's markup. */
export function regionsOf(part: string, markup: string): Region[] {
  const tree = new DOMParser().parseFromString(markup, "text/html")
  return [...tree.querySelectorAll("cp-region[name]")].map((e) => ({ part, name: e.getAttribute("name")! }))
}

/** What a page's markup has for a region; "" where it leaves the region to the part. */
export function fillOf(region: string, markup: string): string {
  const tree = new DOMParser().parseFromString(markup, "text/html")
  const e = [...tree.querySelectorAll("cp-fill[region]")].find((e) => e.getAttribute("region") === region)
  return e?.innerHTML.trim() ?? ""
}
