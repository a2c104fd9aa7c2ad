import { useQuery } from "@tanstack/vue-query"
import { computed } from "vue"
import { api, result } from "../api/client"

/** The words of the product with their explanations, declared once by the service. */
export function useVocabulary() {
  const vocabulary = useQuery({
    queryKey: ["vocabulary"],
    queryFn: () => result(api.GET("/api/v1/vocabulary")),
    staleTime: Infinity,
  })
  const standing = (w: string) =>
    vocabulary.data.value?.standings.find((s) => s.standing === w)?.description ?? ""
  const decision = (w: string) =>
    vocabulary.data.value?.decisions.find((d) => d.decision === w)?.description ?? ""
  const kinds = computed(() => vocabulary.data.value?.kinds ?? [])
  const roles = computed(() => vocabulary.data.value?.roles ?? [])
  const policies = computed(() => vocabulary.data.value?.policies ?? [])
  return { vocabulary, standing, decision, kinds, roles, policies }
}
