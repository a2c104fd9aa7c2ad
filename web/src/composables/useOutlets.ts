import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"

/** Where a site is published by going live, and what can be done with it. */
export function useOutlets(site: Ref<string>) {
  const client = useQueryClient()
  const key = computed(() => ["outlets", site.value])
  const onSettled = () => client.invalidateQueries({ queryKey: key.value })
  const path = (outlet: string) => ({ params: { path: { site: site.value, outlet } } })
  const list = useQuery({
    queryKey: key,
    queryFn: () =>
      result(api.GET("/api/v1/sites/{site}/outlets", { params: { path: { site: site.value } } })),
  })
  const add = useMutation({
    mutationFn: (a: { name: string; body: Schemas["NewOutlet"] }) =>
      result(api.PUT("/api/v1/sites/{site}/outlets/{outlet}", { ...path(a.name), body: a.body })),
    onSettled,
  })
  const publish = useMutation({
    mutationFn: (a: { name: string; body: Schemas["PublishOutlet"] }) =>
      result(api.POST("/api/v1/sites/{site}/outlets/{outlet}", { ...path(a.name), body: a.body })),
    onSettled,
  })
  const remove = useMutation({
    mutationFn: (name: string) => result(api.DELETE("/api/v1/sites/{site}/outlets/{outlet}", path(name))),
    onSettled,
  })
  return { list, add, publish, remove }
}
