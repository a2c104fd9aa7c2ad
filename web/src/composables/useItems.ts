import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result, tagged, type Schemas } from "../api/client"
import { send } from "../api/send"

/** The items of a site, as a draft has them where one is named, or of the library. */
export function useItems(site: Ref<string>, draft?: Ref<number | null>) {
  return useQuery({
    queryKey: computed(() => ["items", site.value, ...(draft?.value ? [draft.value] : [])]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/items", {
          params: { path: { site: site.value }, query: { draft: draft?.value ?? undefined } },
        }),
      ),
    enabled: computed(() => site.value !== ""),
    placeholderData: (old) => (draft ? old : undefined),
  })
}

/** One item with what leans on what, and its ETag. */
export function useItem(site: Ref<string>, address: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["item", site.value, address.value]),
    queryFn: () =>
      tagged(
        api.GET("/api/v1/sites/{site}/item", {
          params: { path: { site: site.value }, query: { address: address.value } },
        }),
      ),
    enabled: computed(() => address.value !== ""),
  })
}

/** Which parts surround a page, and why. */
export function useSurround(site: Ref<string>, path: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["surround", site.value, path.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/surround", {
          params: { path: { site: site.value }, query: { path: path.value } },
        }),
      ),
    enabled: computed(() => path.value !== "" && site.value !== "library"),
  })
}

/** Where a line of a page comes from. */
export function usePageSource(site: Ref<string>, path: Ref<string>, line: Ref<number>) {
  return useQuery({
    queryKey: computed(() => ["source", site.value, path.value, line.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/source", {
          params: { path: { site: site.value }, query: { path: path.value, line: line.value } },
        }),
      ),
    enabled: computed(() => path.value !== "" && line.value > 0),
    placeholderData: (old) => old,
  })
}

/** The library as a search narrows it down. */
export function useLibrary(words: Ref<string>, kind: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["library", words.value, kind.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/library", {
          params: { query: { q: words.value || undefined, kind: kind.value || undefined } },
        }),
      ),
    placeholderData: (old) => old,
    refetchOnWindowFocus: "always",
  })
}

export function useSaveToLibrary() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas["AddToLibrary"]) => result(api.POST("/api/v1/library", { body })),
    onSuccess: () => {
      client.invalidateQueries({ queryKey: ["library"] })
      client.invalidateQueries({ queryKey: ["items", "library"] })
    },
  })
}

/** What a file is called as media of a site. */
export const mediaName = (file: File) =>
  "media/" +
  file.name
    .toLowerCase()
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .replace(/[^a-z0-9._-]+/g, "-")
    .replace(/^[-.]+|[-.]+$/g, "")

/** Lays a file into a draft under a name that is free, and gives its address. */
export async function putMedia(
  site: string,
  draft: number,
  file: File,
  progress: (share: number) => void = () => {},
): Promise<string> {
  const got = await result(
    api.GET("/api/v1/sites/{site}/items", { params: { path: { site }, query: { draft } } }),
  )
  const taken = new Set(got.items.map((i) => i.address))
  const name = mediaName(file)
  let address = name
  for (let n = 2; taken.has(address); n++) address = name.replace(/(\.[^.]*)?$/, (end) => `-${n}${end}`)
  await send<Schemas["Edited"]>({
    operation: "editMedia",
    method: "PUT",
    url: `/api/v1/sites/${encodeURIComponent(site)}/media?address=${encodeURIComponent(address)}&draft=${draft}`,
    type: "application/octet-stream",
    file,
    progress,
  })
  return address
}

/** Lays a file as media of a site into a draft. */
export function usePutMedia() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (e: {
      site: string
      address: string
      etag?: string
      file: File
      progress: (share: number) => void
    }) =>
      send<Schemas["Edited"]>({
        operation: "editMedia",
        method: "PUT",
        url: `/api/v1/sites/${encodeURIComponent(e.site)}/media?address=${encodeURIComponent(e.address)}`,
        type: "application/octet-stream",
        file: e.file,
        headers: e.etag ? { "If-Match": e.etag } : undefined,
        progress: e.progress,
      }),
    onSuccess: (_d, e) => {
      client.invalidateQueries({ queryKey: ["drafts", e.site] })
      client.invalidateQueries({ queryKey: ["sites"] })
    },
  })
}

/** Lays an edit of one item into a draft. */
export function useEditItem() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (e: { site: string; address: string; content: string; etag: string; draft?: number }) =>
      result(
        api.PUT("/api/v1/sites/{site}/item", {
          params: {
            path: { site: e.site },
            query: { address: e.address, draft: e.draft },
            header: { "If-Match": e.etag },
          },
          body: { content: e.content },
        }),
      ),
    onSuccess: (_d, e) => {
      client.invalidateQueries({ queryKey: ["drafts", e.site] })
      client.invalidateQueries({ queryKey: ["sites"] })
    },
  })
}
