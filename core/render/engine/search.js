// Answers a search on a published site from its index.
const place = document.querySelector("[data-cp-results]")
const asked = new URLSearchParams(location.search).get("q") ?? ""
for (const box of document.querySelectorAll('.cp-search input[name="q"]')) box.value = asked
if (place) {
  const words = asked.toLowerCase().match(/[\p{L}\p{N}]{2,}/gu) ?? []
  const base = new URL(place.dataset.cpRoot, location.href)
  const { pages, terms } = await (await fetch(new URL("_cp/search.json", base))).json()
  const all = Object.keys(terms)
  let hits = words.length ? pages.map((_, i) => i) : []
  for (const w of words) {
    const with_ = new Set(all.filter((t) => t.startsWith(w)).flatMap((t) => terms[t]))
    hits = hits.filter((i) => with_.has(i))
  }
  const [one, none] = place.querySelectorAll("template")
  const list = hits.map((i) => {
    const row = one.content.cloneNode(true)
    const value = { title: pages[i][0], url: new URL(pages[i][1].slice(1), base).href }
    for (const e of row.querySelectorAll("[data-field]")) for (const clause of e.dataset.field.split(";")) {
      const [target, name] = clause.split(":").map((s) => s.trim())
      if (!(name in value)) continue
      if (target === "text") e.textContent = value[name]
      else e.setAttribute(target, value[name])
    }
    return row
  })
  place.replaceWith(...(list.length ? list : [none.content.cloneNode(true)]))
}
