import { keepPreviousData, useQuery } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result } from "../api/client"

/** The forms of a live site: who gets what is sent, and how much there is. */
export function useForms(site: Ref<string>) {
  return useQuery({
    queryKey: computed(() => ["forms", site.value]),
    queryFn: () => result(api.GET("/api/v1/sites/{site}/forms", { params: { path: { site: site.value } } })),
  })
}

/** What was sent with a form, the newest first. */
export function useFormEntries(
  site: Ref<string>,
  form: Ref<string>,
  words: Ref<string>,
  before: Ref<number>,
) {
  return useQuery({
    queryKey: computed(() => ["entries", site.value, form.value, words.value, before.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/forms/{form}/entries", {
          params: {
            path: { site: site.value, form: form.value },
            query: { words: words.value || undefined, before: before.value || undefined },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })
}
