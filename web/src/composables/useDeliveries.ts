import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, tagged, type Schemas } from "../api/client"

export function useDeliveries() {
  return useQuery({ queryKey: ["deliveries"], queryFn: () => result(api.GET("/api/v1/deliveries")), refetchOnWindowFocus: "always" })
}

export function useOpenDelivery() {
  const client = useQueryClient()
  return useMutation({ mutationFn: (body: Schemas["OpenDelivery"]) => result(api.POST("/api/v1/deliveries", { body })), onSuccess: () => client.invalidateQueries({ queryKey: ["deliveries"] }) })
}

/** One delivery with its ETag, and the acts that move it on. */
export function useDelivery(id: Ref<number>) {
  const client = useQueryClient()
  const key = computed(() => ["delivery", id.value])
  const path = () => ({ id: id.value })
  const delivery = useQuery({ queryKey: key, queryFn: () => tagged(api.GET("/api/v1/deliveries/{id}", { params: { path: path() } })) })
  const keep = (v: { value: Schemas["Delivery"]; etag: string }) => {
    client.setQueryData(key.value, v)
    for (const k of ["deliveries", "sites", "items", "drafts", "history"]) client.invalidateQueries({ queryKey: [k] })
  }
  const decide = useMutation({
    mutationFn: (e: { body: Schemas["Answers"]; etag: string }) => tagged(api.PATCH("/api/v1/deliveries/{id}", { params: { path: path(), header: { "If-Match": e.etag } }, body: e.body })),
    onSuccess: keep,
  })
  const replan = useMutation({ mutationFn: () => tagged(api.POST("/api/v1/deliveries/{id}/plan", { params: { path: path() } })), onSuccess: keep })
  const stage = useMutation({ mutationFn: (plan: string) => tagged(api.POST("/api/v1/deliveries/{id}/stage", { params: { path: path(), query: { plan } } })), onSuccess: keep })
  const live = useMutation({ mutationFn: () => tagged(api.POST("/api/v1/deliveries/{id}/live", { params: { path: path() } })), onSuccess: keep })
  const undo = useMutation({ mutationFn: (keepEdited: boolean) => tagged(api.POST("/api/v1/deliveries/{id}/undo", { params: { path: path(), query: { keepEdited } } })), onSuccess: keep })
  return { delivery, decide, replan, stage, live, undo }
}
