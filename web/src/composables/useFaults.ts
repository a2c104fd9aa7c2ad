import { computed, type Ref } from "vue"
import { keepPreviousData, useQuery } from "@tanstack/vue-query"
import { api, result } from "../api/client"

/** What visitors of a site, or of a draft of it, would trip over. */
export function useSiteFaults(site: Ref<string>, draft: Ref<number | undefined>, widths: Ref<boolean>) {
  return useQuery({
    queryKey: computed(() => ["faults", site.value, draft.value ?? 0, widths.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/faults", {
          params: { path: { site: site.value }, query: { draft: draft.value, widths: widths.value } },
        }),
      ),
    placeholderData: keepPreviousData,
    refetchInterval: (q) => (q.state.data?.widths?.waiting ? 3000 : false),
  })
}

/** What visitors would trip over in a kit. */
export function useKitFaults(kit: Ref<string>, version: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["kit-faults", kit.value, version.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/kits/{kit}/{version}/faults", {
          params: { path: { kit: kit.value, version: version.value } },
        }),
      ),
  })
}
