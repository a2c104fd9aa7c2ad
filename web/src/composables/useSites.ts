import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"
import { send } from "../api/send"

export function useSites() {
  return useQuery({ queryKey: ["sites"], queryFn: () => result(api.GET("/api/v1/sites")) })
}

export function useDrafts(site: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["drafts", site.value]),
    queryFn: () => result(api.GET("/api/v1/sites/{site}/drafts", { params: { path: { site: site.value } } })),
  })
}

export function useHistory(site: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["history", site.value]),
    queryFn: () =>
      result(api.GET("/api/v1/sites/{site}/revisions", { params: { path: { site: site.value } } })),
  })
}

export function useDraftActs(site: Ref<string>) {
  const client = useQueryClient()
  const settle = () => client.invalidateQueries()
  const live = useMutation({
    mutationFn: (id: number) =>
      result(
        api.POST("/api/v1/sites/{site}/drafts/{id}/live", { params: { path: { site: site.value, id } } }),
      ),
    onSettled: settle,
  })
  const discard = useMutation({
    mutationFn: (id: number) =>
      result(api.DELETE("/api/v1/sites/{site}/drafts/{id}", { params: { path: { site: site.value, id } } })),
    onSettled: settle,
  })
  const back = (word: "undo" | "redo") =>
    useMutation({
      mutationFn: (id: number) =>
        result(
          api.POST(`/api/v1/sites/{site}/drafts/{id}/${word}`, {
            params: { path: { site: site.value, id } },
          }),
        ),
      onSettled: settle,
    })
  return { live, discard, undo: back("undo"), redo: back("redo") }
}

/** A draft with what differs from live, and what was done in it. */
export function useDraft(site: Ref<string>, id: Ref<number>) {
  const params = () => ({ params: { path: { site: site.value, id: id.value } } })
  return {
    detail: useQuery({
      queryKey: computed(() => ["draft", site.value, id.value]),
      queryFn: () => result(api.GET("/api/v1/sites/{site}/drafts/{id}", params())),
    }),
    steps: useQuery({
      queryKey: computed(() => ["draft-steps", site.value, id.value]),
      queryFn: () => result(api.GET("/api/v1/sites/{site}/drafts/{id}/steps", params())),
    }),
  }
}

/** Adopts a zipped folder as a new site, telling how far the sending is (0 to 1). */
export function useAdopt() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (a: { name: string; parts: string; file: File; progress: (share: number) => void }) =>
      send<Schemas["Adopted"]>({
        operation: "adoptSite",
        method: "PUT",
        url: `/api/v1/sites/${encodeURIComponent(a.name)}?parts=${a.parts}`,
        type: "application/zip",
        file: a.file,
        progress: a.progress,
      }),
    onSuccess: (got) => {
      client.setQueryData(["adopted", got.site.name], got)
      return client.invalidateQueries({ queryKey: ["sites"] })
    },
  })
}

/** Makes a site of a backup file; what is sealed in it needs its pass phrase, and is left out without one. */
export function useRestore() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (a: { name: string; passphrase: string; file: File; progress: (share: number) => void }) => {
      const phrase = btoa(String.fromCharCode(...new TextEncoder().encode(a.passphrase)))
      return send<Schemas["SiteRestored"]>({
        operation: "restoreSite",
        method: "PUT",
        url: `/api/v1/sites/${encodeURIComponent(a.name)}/archive${a.passphrase ? "" : "?leave=true"}`,
        type: "application/zip",
        file: a.file,
        headers: a.passphrase ? { "Archive-Passphrase": phrase } : undefined,
        progress: a.progress,
      })
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["sites"] }),
  })
}
