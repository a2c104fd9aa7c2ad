import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, tagged, type Schemas } from "../api/client"
import { send } from "../api/send"

export function useKits() {
  return useQuery({ queryKey: ["kits"], queryFn: () => result(api.GET("/api/v1/kits")) })
}

/** One version of a kit with its ETag, and all that can be done with it. */
export function useKit(name: Ref<string>, version: Ref<string>) {
  const client = useQueryClient()
  const key = computed(() => ["kit", name.value, version.value])
  const path = () => ({ kit: name.value, version: version.value })
  const kit = useQuery({
    queryKey: key,
    enabled: () => name.value !== "" && !!version.value,
    queryFn: () => tagged(api.GET("/api/v1/kits/{kit}/{version}", { params: { path: path() } })),
  })
  const keep = (v: { value: Schemas["Kit"]; etag: string }) => {
    client.setQueryData(key.value, v)
    client.invalidateQueries({ queryKey: ["kits"] })
  }
  const scope = { id: "picks" } // one after the other, however fast they are ticked
  const add = useMutation({
    scope,
    mutationFn: (body: Schemas["Picks"]) =>
      tagged(api.POST("/api/v1/kits/{kit}/{version}/picks", { params: { path: path() }, body })),
    onSuccess: keep,
  })
  const exclude = useMutation({
    scope,
    mutationFn: (query: { address: string; optional?: boolean }) =>
      tagged(api.DELETE("/api/v1/kits/{kit}/{version}/picks", { params: { path: path(), query } })),
    onSuccess: keep,
  })
  const describe = useMutation({
    mutationFn: (e: { body: Schemas["KitMetadata"]; etag: string }) =>
      tagged(
        api.PATCH("/api/v1/kits/{kit}/{version}", {
          params: { path: path(), header: { "If-Match": e.etag } },
          body: e.body,
        }),
      ),
    onSuccess: keep,
  })
  // Asked anew whenever what is in the kit changes.
  const nextVersion = useQuery({
    queryKey: computed(() => ["next-version", name.value, version.value, kit.data.value?.etag]),
    queryFn: () => result(api.GET("/api/v1/kits/{kit}/{version}/next-version", { params: { path: path() } })),
    enabled: computed(() => (kit.data.value?.value.items.length ?? 0) > 0),
  })
  const seal = useMutation({
    mutationFn: (e: { etag: string; because?: string }) =>
      tagged(
        api.POST("/api/v1/kits/{kit}/{version}/seal", {
          params: {
            path: path(),
            query: { because: e.because || undefined },
            header: { "If-Match": e.etag },
          },
        }),
      ),
    onSuccess: keep,
  })
  return { kit, add, exclude, describe, seal, nextVersion }
}

/** One item of a sealed kit; NAME@VERSION. */
export function useKitItem(kit: Ref<string>, address: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["kit-item", kit.value, address.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/kits/{kit}/{version}/item", {
          params: {
            path: { kit: kit.value.split("@")[0], version: kit.value.split("@")[1] },
            query: { address: address.value },
          },
        }),
      ),
    staleTime: Infinity,
    enabled: computed(() => address.value !== ""),
  })
}

export function useNewKit() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas["NewKit"]) => result(api.POST("/api/v1/kits", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["kits"] }),
  })
}

export function useImportKit() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (a: { file: File; progress: (share: number) => void }) =>
      send<Schemas["Intake"]>({
        operation: "importKit",
        method: "POST",
        url: `/api/v1/kit-files?name=${encodeURIComponent(a.file.name)}`,
        type: "application/octet-stream",
        file: a.file,
        progress: a.progress,
      }),
    onSuccess: (got) => {
      client.invalidateQueries({ queryKey: ["kits"] })
      for (const k of got.kits) client.invalidateQueries({ queryKey: ["kit", k.name, k.version] })
    },
  })
}
