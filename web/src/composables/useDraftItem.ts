import { useQueries, useQuery } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, tagged } from "../api/client"

/** One item as a draft has it at a step, with its ETag. */
export function useDraftItem(
  site: Ref<string>,
  address: Ref<string>,
  draft: Ref<number | null>,
  step: Ref<number | string>,
) {
  return useQuery({
    queryKey: computed(() => ["draft-item", site.value, address.value, draft.value, step.value]),
    queryFn: () =>
      tagged(
        api.GET("/api/v1/sites/{site}/item", {
          params: {
            path: { site: site.value },
            query: { address: address.value, draft: draft.value ?? undefined },
          },
        }),
      ),
    enabled: computed(() => address.value !== ""),
    placeholderData: (old) => old,
  })
}

/** The contents of several items as a draft has them, in their order; undefined while one is not known yet. */
export function useDraftItems(
  site: Ref<string>,
  list: Ref<{ address: string; state: number | string }[]>,
  draft: Ref<number | null>,
) {
  const got = useQueries({
    queries: computed(() =>
      list.value.map((i) => ({
        queryKey: ["draft-item", site.value, i.address, draft.value, i.state],
        queryFn: () =>
          tagged(
            api.GET("/api/v1/sites/{site}/item", {
              params: {
                path: { site: site.value },
                query: { address: i.address, draft: draft.value ?? undefined },
              },
            }),
          ),
      })),
    ),
  })
  return computed(() => got.value.map((c) => c.data?.value.content))
}

/** The content of an item as JSON; null where it is none. */
export function parsed<T>(content: string | undefined): T | null {
  try {
    return content ? (JSON.parse(content) as T) : null
  } catch {
    return null
  }
}
