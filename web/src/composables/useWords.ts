import { useQuery } from "@tanstack/vue-query"
import { computed } from "vue"
import { api, result } from "../api/client"

/** The words of the product with their explanations, declared once by the service. */
export function useWords() {
  const words = useQuery({ queryKey: ["words"], queryFn: () => result(api.GET("/api/v1/words")), staleTime: Infinity })
  const standing = (w: string) => words.data.value?.standings.find((s) => s.standing === w)?.says ?? ""
  const decision = (w: string) => words.data.value?.decisions.find((d) => d.decision === w)?.says ?? ""
  const kinds = computed(() => words.data.value?.kinds ?? [])
  const policies = computed(() => words.data.value?.policies ?? [])
  return { words, standing, decision, kinds, policies }
}
