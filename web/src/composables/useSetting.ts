import { computed, type Ref } from "vue"
import { parsed, useDraftItem } from "./useDraftItem"
import { useItems } from "./useItems"
import type { useSiteEdits } from "./useSiteEdits"

/** A setting of a site as a draft has it, and writing another value. */
export function useSetting<T>(
  site: Ref<string>,
  draft: Ref<number | null>,
  key: string,
  edits: ReturnType<typeof useSiteEdits>,
) {
  const items = useItems(site, draft)
  const head = computed(() => items.data.value?.items.find((i) => i.address === `setting/${key}`))
  const item = useDraftItem(
    site,
    computed(() => head.value?.address ?? ""),
    draft,
    computed(() => head.value?.state ?? ""),
  )
  const value = computed<T | null>(() => (head.value ? parsed<T>(item.data.value?.value.content) : null))
  const usedBy = computed(() => (head.value ? (item.data.value?.value.usedBy ?? []) : []))
  const write = (v: T) => edits.run([{ op: "set", item: `setting/${key}`, value: JSON.stringify(v) }])
  return { items, value, usedBy, write }
}
