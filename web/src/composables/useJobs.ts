import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed, onScopeDispose, type Ref } from "vue"
import { api, result } from "../api/client"

/** What the service does by itself; shown again whenever a job changes. */
export function useJobs(ended: Ref<boolean>) {
  const client = useQueryClient()
  const settle = () => client.invalidateQueries({ queryKey: ["jobs"] })
  const events = new EventSource("/api/v1/events?kind=job")
  let timer = 0
  const soon = () => {
    clearTimeout(timer)
    timer = window.setTimeout(settle, 200)
  }
  for (const kind of ["job", "reset"]) events.addEventListener(kind, soon)
  onScopeDispose(() => {
    events.close()
    clearTimeout(timer)
  })
  const list = useQuery({
    queryKey: computed(() => ["jobs", ended.value]),
    queryFn: () => result(api.GET("/api/v1/jobs", { params: { query: { ended: ended.value } } })),
  })
  const act = (word: "stop" | "go-on") =>
    useMutation({
      mutationFn: (id: number) => result(api.POST(`/api/v1/jobs/{id}/${word}`, { params: { path: { id } } })),
      onSettled: settle,
    })
  return { list, stop: act("stop"), goOn: act("go-on") }
}
