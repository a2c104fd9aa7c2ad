import { keepPreviousData, useQuery } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result } from "../api/client"

/** The media of a site in a draft, found by name, with their size and what uses them. */
export function useMedia(site: Ref<string>, draft: Ref<number | null>, words: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["media", site.value, draft.value, words.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/pictures", {
          params: {
            path: { site: site.value },
            query: { draft: draft.value ?? undefined, words: words.value || undefined },
          },
        }),
      ),
    placeholderData: keepPreviousData,
  })
}
