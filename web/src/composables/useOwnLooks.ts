import { computed, type Ref } from "vue"
import { useItems } from "./useItems"
import { parsed, useDraftItem } from "./useDraftItem"

/** The looks that a site keeps, and which of them is worn by what has a look of its own. */
export function useOwnLooks(site: Ref<string>, draft: Ref<number | null>) {
  const items = useItems(site, draft)
  const item = (address: string) => {
    const head = computed(() => items.data.value?.items.find((i) => i.address === address))
    const got = useDraftItem(
      site,
      computed(() => head.value?.address ?? ""),
      draft,
      computed(() => head.value?.state ?? ""),
    )
    return computed(() => (head.value ? (got.data.value?.value.content ?? "") : ""))
  }
  const kept = item("setting/looks")
  const sheet = item("stylesheet/appearance")
  const names = computed(() => Object.keys(parsed<Record<string, unknown>>(kept.value) ?? {}))
  const byClass = computed(() => looksByClass(sheet.value))
  return {
    names,
    wornBy: (classes: string[]) => classes.map((c) => byClass.value.get(c)).find(Boolean) ?? "",
  }
}

/** The name of the look that each class of the sheet of appearances gives, from its rules' --look. */
export function looksByClass(sheet: string): Map<string, string> {
  const out = new Map<string, string>()
  for (const m of sheet.matchAll(/(own-\d+)[^{}]*\{[^{}]*?--look:\s*("(?:[^"\\]|\\.)*")/g))
    out.set(m[1], parsed<string>(m[2]) ?? "")
  return out
}
