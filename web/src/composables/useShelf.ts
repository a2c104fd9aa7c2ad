import { computed, type Ref } from "vue"
import { useQueries } from "@tanstack/vue-query"
import { api, result } from "../api/client"
import { useItems } from "./useItems"
import { useKits } from "./useKits"
import { alone } from "./format"
import type { Piece } from "./useUsePiece"

const kinds = ["section", "block", "part", "page", "form", "menu"]
const kindOf = (address: string) => address.split("/")[0]

/** All pieces that can be put on a page: of the library, of sealed kits, of this site. */
export function useShelf(site: Ref<string>, draft: Ref<number | null>, open: Ref<boolean>) {
  const library = useItems(computed(() => (open.value ? "library" : "")))
  const own = useItems(site, draft)
  const kits = useKits()
  const newest = computed(() => {
    const out = new Map<string, string>()
    for (const k of kits.data.value?.kits ?? [])
      if (k.state === "sealed" && !out.has(k.name)) out.set(k.name, k.version)
    return [...out].slice(0, 30)
  })
  const contents = useQueries({
    queries: computed(() =>
      newest.value.map(([kit, version]) => ({
        queryKey: ["kit-pieces", kit, version],
        queryFn: () =>
          result(api.GET("/api/v1/kits/{kit}/{version}", { params: { path: { kit, version } } })),
        enabled: open.value,
        staleTime: Infinity,
      })),
    ),
  })
  const piece = (from: string, preview: string, address: string, title?: string): Piece => ({
    from,
    address,
    title: title || address.slice(address.indexOf("/") + 1),
    preview: alone(preview, address),
  })
  return computed(() => {
    const out: (Piece & { source: "library" | "kits" | "site" })[] = []
    const list = library.data.value
    for (const i of list?.items ?? [])
      if (kinds.includes(kindOf(i.address)))
        out.push({ ...piece("library", list!.preview, i.address, i.meta.title), source: "library" })
    for (const c of contents.value) {
      const kit = c.data
      for (const i of kit?.items ?? [])
        if (kinds.includes(kindOf(i.address)))
          out.push({
            ...piece(`kit ${kit!.name}@${kit!.version}`, kit!.preview, i.address, i.title),
            source: "kits",
          })
    }
    const here = own.data.value
    for (const i of here?.items ?? [])
      if (["section", "block", "form", "menu"].includes(kindOf(i.address)))
        out.push({ ...piece("", here!.preview, i.address, i.meta.title), source: "site" })
    return out
  })
}
