import { computed, shallowRef, watchEffect, type Ref } from "vue"
import { parsed, useDraftItem, useDraftItems } from "./useDraftItem"
import { useItems } from "./useItems"

/** A token: a value of a site's look that has a name. */
export interface LookToken {
  item: string
  path: string
  type: string
  value: string
  /** Another token that it stands for; its own value is that one's. */
  alias: boolean
}

/** The look of a site in a draft: its tokens (Design Tokens Format Module), and the looks that it keeps, by name. */
export function useLook(site: Ref<string>, draft: Ref<number | null>) {
  const items = useItems(site, draft)
  const all = computed(() => items.data.value?.items ?? [])
  const holders = computed(() => all.value.filter((i) => i.address.startsWith("tokens/")))
  const contents = useDraftItems(site, holders, draft)
  // What was known stays until what comes is there as a whole: nothing goes from sight meanwhile.
  const tokens = shallowRef<LookToken[]>([])
  watchEffect(() => {
    const texts = contents.value
    if (!items.data.value || texts.length !== holders.value.length || texts.some((t) => t === undefined))
      return
    tokens.value = holders.value.flatMap((h, i) =>
      read(h.address, parsed<Record<string, unknown>>(texts[i]) ?? {}, [], ""),
    )
  })
  const kept = computed(() => all.value.find((i) => i.address === "setting/looks"))
  const looks = useDraftItem(
    site,
    computed(() => kept.value?.address ?? ""),
    draft,
    computed(() => kept.value?.state ?? ""),
  )
  const names = computed(() =>
    kept.value ? Object.keys(parsed<Record<string, unknown>>(looks.data.value?.value.content) ?? {}) : [],
  )
  return { items, tokens, names }
}

/** The value of a token with its aliases followed, within one document; as it stands where one leads nowhere. */
export function resolve(value: string, all: LookToken[]): string {
  for (let n = 0; n < 32; n++) {
    const to = /^\{(.*)\}$/.exec(value)?.[1]
    const next = to === undefined ? undefined : all.find((t) => t.path === to)
    if (!next) break
    value = next.value
  }
  return value
}

function read(item: string, node: Record<string, unknown>, path: string[], type: string): LookToken[] {
  const t = typeof node.$type === "string" ? node.$type : type
  if (node.$value !== undefined) {
    const value = written(node.$value)
    return [{ item, path: path.join("."), type: t, value, alias: /^\{.*\}$/.test(value) }]
  }
  return Object.entries(node).flatMap(([k, v]) =>
    v && typeof v === "object" && !k.startsWith("$")
      ? read(item, v as Record<string, unknown>, [...path, k], t)
      : [],
  )
}

function written(v: unknown): string {
  if (v && typeof v === "object" && "value" in v) return `${v.value}${"unit" in v ? v.unit : ""}`
  return Array.isArray(v) ? v.join(", ") : typeof v === "object" ? JSON.stringify(v) : String(v)
}
