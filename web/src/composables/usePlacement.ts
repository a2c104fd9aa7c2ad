import { keepPreviousData, useQuery } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result } from "../api/client"

/** Where a part appears in a draft; by another placement, where one is given. */
export function usePlacement(
  site: Ref<string>,
  part: Ref<string>,
  draft: Ref<number | null>,
  where: Ref<string | null>,
) {
  return useQuery({
    queryKey: computed(() => ["placement", site.value, part.value, draft.value, where.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/placement", {
          params: {
            path: { site: site.value },
            query: { part: part.value, draft: draft.value ?? undefined, where: where.value ?? undefined },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: computed(() => part.value !== ""),
  })
}
