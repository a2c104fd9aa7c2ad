import { computed, type Ref } from "vue"
import { useQuery } from "@tanstack/vue-query"
import { api, result } from "../api/client"

/** Where a site's items came from, and which of their sources have changed since. */
export function useSources(site: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["sources", site.value]),
    queryFn: () =>
      result(api.GET("/api/v1/sites/{site}/sources", { params: { path: { site: site.value } } })),
  })
}
