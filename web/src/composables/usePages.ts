import { computed, type Ref } from "vue"
import { pageName } from "./format"
import { useItems } from "./useItems"

/**
 * The pages of a site as a draft has them, the home page first. The slug of the home page is /, where visitors find it,
 * whatever its own address is.
 */
export function usePages(site: Ref<string>, draft?: Ref<number | null>) {
  const items = useItems(site, draft)
  const home = computed(() => items.data.value?.home ?? "")
  const pages = computed(() =>
    (items.data.value?.items ?? [])
      .filter((i) => i.address.startsWith("page/") && i.meta.slug)
      .map((item) => {
        const slug = item.address === home.value ? "/" : (item.meta.slug ?? "")
        return { item, slug, title: item.meta.title || pageName(slug) }
      })
      .sort((a, b) => a.slug.localeCompare(b.slug)),
  )
  /** The page that is shown at an address. */
  const at = (slug: string) =>
    pages.value.find((p) => p.slug === slug) ?? pages.value.find((p) => p.item.meta.slug === slug)
  return { items, pages, home, at }
}
