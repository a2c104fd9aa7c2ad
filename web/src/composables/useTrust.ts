import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"

/** The keys that teams trust. */
export function useTrustKeys() {
  const client = useQueryClient()
  const settle = () => client.invalidateQueries({ queryKey: ["trust"] })
  const keys = useQuery({ queryKey: ["trust"], queryFn: () => result(api.GET("/api/v1/trust/keys")) })
  const add = useMutation({
    mutationFn: (body: Schemas["NewTrustKey"]) => result(api.POST("/api/v1/trust/keys", { body })),
    onSuccess: settle,
  })
  const drop = useMutation({
    mutationFn: (id: number) => result(api.DELETE("/api/v1/trust/keys/{id}", { params: { path: { id } } })),
    onSuccess: settle,
  })
  return { keys, add, drop }
}

/** Whether kits for a site must be signed, and by whose keys. */
export function useSiteTrust(site: Ref<string>) {
  const client = useQueryClient()
  const key = computed(() => ["site-trust", site.value])
  const trust = useQuery({
    queryKey: key,
    queryFn: () => result(api.GET("/api/v1/sites/{site}/trust", { params: { path: { site: site.value } } })),
  })
  const set = useMutation({
    mutationFn: (body: Schemas["SiteTrust"]) =>
      result(api.PUT("/api/v1/sites/{site}/trust", { params: { path: { site: site.value } }, body })),
    onSuccess: (t) => client.setQueryData(key.value, t),
  })
  return { trust, set }
}
