import { ref, type Ref } from "vue"
import { useQueryClient } from "@tanstack/vue-query"
import { api, result, type Schemas } from "../api/client"

type Operation = Schemas["Operation"]

/** Does operations in my draft of a site, and takes the last back: for views that show no page. */
export function useSiteEdits(site: Ref<string>, draft: Ref<number | null>) {
  const client = useQueryClient()
  const says = ref("")
  const problem = ref<unknown>(null)
  const busy = ref(false)
  async function inDraft(): Promise<number> {
    if (draft.value) return draft.value
    const d = await result(
      api.POST("/api/v1/sites/{site}/drafts", { params: { path: { site: site.value } }, body: {} }),
    )
    draft.value = d.id
    return d.id
  }
  async function act(does: (draft: number) => Promise<string>): Promise<boolean> {
    problem.value = null
    busy.value = true
    try {
      says.value = await does(await inDraft())
      await client.invalidateQueries()
      return true
    } catch (e) {
      problem.value = e
      return false
    } finally {
      busy.value = false
    }
  }
  const run = (operations: Operation[]) =>
    act(async (id) => {
      const got = await result(
        api.POST("/api/v1/sites/{site}/edits", {
          params: { path: { site: site.value } },
          body: { draft: id, operations },
        }),
      )
      return got.says.map((s) => s.charAt(0).toUpperCase() + s.slice(1)).join(". ")
    })
  const undo = () =>
    act(async (id) => {
      await result(
        api.POST("/api/v1/sites/{site}/drafts/{id}/undo", { params: { path: { site: site.value, id } } }),
      )
      return "Undone"
    })
  /** Takes away what was told. */
  function close() {
    says.value = ""
    problem.value = null
  }
  return { says, problem, busy, act, run, undo, close, inDraft }
}
