import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, tagged, type Schemas } from "../api/client"

export function useDeliveries() {
  return useQuery({
    queryKey: ["deliveries"],
    queryFn: () => result(api.GET("/api/v1/deliveries")),
    refetchOnWindowFocus: "always",
  })
}

export function useOpenDelivery() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas["OpenDelivery"]) => result(api.POST("/api/v1/deliveries", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["deliveries"] }),
  })
}

/** One delivery with its ETag, and the acts that move it on. */
export function useDelivery(id: Ref<number>) {
  const client = useQueryClient()
  const key = computed(() => ["delivery", id.value])
  const path = () => ({ id: id.value })
  const delivery = useQuery({
    queryKey: key,
    queryFn: () => tagged(api.GET("/api/v1/deliveries/{id}", { params: { path: path() } })),
  })
  const keep = (v: { value: Schemas["Delivery"]; etag: string }) => {
    client.setQueryData(key.value, v)
    for (const k of ["deliveries", "sites", "items", "drafts", "history"])
      client.invalidateQueries({ queryKey: [k] })
  }
  const decide = useMutation({
    mutationFn: (e: { body: Schemas["Answers"]; etag: string }) =>
      tagged(
        api.PATCH("/api/v1/deliveries/{id}", {
          params: { path: path(), header: { "If-Match": e.etag } },
          body: e.body,
        }),
      ),
    onSuccess: keep,
  })
  const replan = useMutation({
    mutationFn: () => tagged(api.POST("/api/v1/deliveries/{id}/plan", { params: { path: path() } })),
    onSuccess: keep,
  })
  const stage = useMutation({
    mutationFn: (plan: string) =>
      tagged(api.POST("/api/v1/deliveries/{id}/stage", { params: { path: path(), query: { plan } } })),
    onSuccess: keep,
  })
  const live = useMutation({
    mutationFn: (body: Schemas["GoLiveRequest"]) =>
      tagged(api.POST("/api/v1/deliveries/{id}/live", { params: { path: path() }, body })),
    onSuccess: keep,
  })
  const undo = useMutation({
    mutationFn: (body: Schemas["UndoRequest"]) =>
      tagged(api.POST("/api/v1/deliveries/{id}/undo", { params: { path: path() }, body })),
    onSuccess: keep,
  })
  return { delivery, decide, replan, stage, live, undo }
}

/** The texts of one item's sides in a delivery; etag makes it ask again when the plan is another. */
export function useComparison(id: Ref<number>, address: Ref<string>, etag: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["comparison", id.value, address.value, etag.value]),
    enabled: computed(() => address.value !== ""),
    queryFn: () => {
      const [kind, ...rest] = address.value.split("/")
      return result(
        api.GET("/api/v1/deliveries/{id}/comparison/{kind}/{key}", {
          params: { path: { id: id.value, kind, key: rest.join("/") } },
        }),
      )
    },
  })
}
