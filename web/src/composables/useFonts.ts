import { keepPreviousData, useQuery } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"

/** The fonts of a site in a draft, then those that the library and kits have. */
export function useFonts(site: Ref<string>, draft: Ref<number | null>) {
  return useQuery({
    queryKey: computed(() => ["fonts", site.value, draft.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/fonts", {
          params: { path: { site: site.value }, query: { draft: draft.value ?? undefined } },
        }),
      ),
    placeholderData: keepPreviousData,
  })
}

/** The weights of a family's faces, as 400, 400 italic, 100 to 900. */
export const weightsOf = (faces: Schemas["FontFace"][]) =>
  faces.map((f) => f.weight.replace(" ", " to ") + (f.italic ? " italic" : "")).join(", ")

/** What a list of families begins with, without quotes. */
export const firstOf = (value: string) =>
  value
    .split(",")[0]
    .trim()
    .replace(/^["']|["']$/g, "")

/** A pair of fonts: all that the tokens of one place choose. */
export interface FontPair {
  from: string
  list: Schemas["FontChoice"][]
}

/** The pairs that other places chose and this site did not, each once. */
export function pairsOf(sources: Schemas["FontSource"][]): FontPair[] {
  const said = (list: Schemas["FontChoice"][]) => list.map((c) => `${c.token} ${c.value}`).join()
  const own = sources.find((s) => !s.from)?.chosen ?? []
  const seen = new Set([said(own)])
  const out: FontPair[] = []
  for (const s of sources) {
    const list = s.chosen.filter((c) => own.some((o) => o.token === c.token))
    if (!s.from || !list.length || seen.has(said(list))) continue
    seen.add(said(list))
    out.push({ from: s.from, list })
  }
  return out
}
