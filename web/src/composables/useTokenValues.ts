import { computed, type Ref } from "vue"
import { useItems } from "./useItems"
import { parsed, useDraftItem } from "./useDraftItem"

/** A value of the site's look, by the custom property that carries it. */
export interface TokenValue {
  property: string
  value: string
  type: string
}

/** The values of a site's look (Design Tokens Format Module): colours and lengths. */
export function useTokenValues(site: Ref<string>, draft: Ref<number | null>, step: Ref<number>) {
  const items = useItems(site, draft)
  const address = computed(
    () => items.data.value?.items.find((i) => i.address.startsWith("tokens/"))?.address ?? "",
  )
  const tokens = useDraftItem(site, address, draft, step)
  const values = computed(() => {
    const out: TokenValue[] = []
    const read = (node: Record<string, unknown>, path: string[], type: string) => {
      const t = typeof node.$type === "string" ? node.$type : type
      if (node.$value !== undefined)
        out.push({ property: `--${path.join("-")}`, value: written(node.$value), type: t })
      else
        for (const [k, v] of Object.entries(node))
          if (v && typeof v === "object" && !k.startsWith("$"))
            read(v as Record<string, unknown>, [...path, k], t)
    }
    read(parsed<Record<string, unknown>>(tokens.data.value?.value.content) ?? {}, [], "")
    return out
  })
  return {
    colours: computed(() => values.value.filter((v) => v.type === "color").slice(0, 16)),
    lengths: computed(() => values.value.filter((v) => v.type === "dimension")),
  }
}

function written(v: unknown): string {
  if (v && typeof v === "object" && "value" in v) return `${v.value}${"unit" in v ? v.unit : ""}`
  return Array.isArray(v) ? v.join(", ") : String(v)
}
