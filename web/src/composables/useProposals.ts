import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"
import { send } from "../api/send"

/** What repeats on a site. */
export function useProposals(site: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["proposals", site.value]),
    queryFn: () =>
      result(api.GET("/api/v1/sites/{site}/proposals", { params: { path: { site: site.value } } })),
  })
}

/** Puts accepted proposals into a draft. */
export function useAccept(site: Ref<string>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (accept: string[]) =>
      result(
        api.POST("/api/v1/sites/{site}/proposals", {
          params: { path: { site: site.value } },
          body: { accept },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["drafts", site.value] }),
  })
}

/** The report of a site that was adopted in this visit. */
export function useAdopted(site: Ref<string>) {
  const client = useQueryClient()
  return computed(() => client.getQueryData<Schemas["Adopted"]>(["adopted", site.value]))
}

/** Compares a zipped folder with its site. */
export function useAdoptAgain(site: Ref<string>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (a: { file: File; shared: Schemas["SharedEdits"]; progress: (share: number) => void }) =>
      send<Schemas["AdoptedAgain"]>({
        operation: "adoptAgain",
        method: "POST",
        url: `/api/v1/sites/${encodeURIComponent(site.value)}/folder?shared=${a.shared}`,
        type: "application/zip",
        file: a.file,
        progress: a.progress,
      }),
    onSuccess: () => client.invalidateQueries({ queryKey: ["drafts", site.value] }),
  })
}
