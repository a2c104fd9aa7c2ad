import { ref, type Ref } from "vue"
import { api, Problem, result, type Schemas } from "../api/client"
import type { useSiteEdits } from "./useSiteEdits"

type Asked = Schemas["UsePiece"]

/** Brings pieces into my draft of a site as one act; true questions are asked where it happens. */
export function useBringing(site: Ref<string>, edits: ReturnType<typeof useSiteEdits>) {
  const asked = ref<Schemas["Question"][]>([])
  let pending: Asked | null = null
  let brought: (() => void) | undefined
  function bring(body: Asked, then?: () => void) {
    pending = { decisions: {}, fills: {}, ...body }
    brought = then
    return send()
  }
  async function send() {
    const body = pending
    if (!body) return false
    asked.value = []
    const ok = await edits.act(async (draft) => {
      const got = await result(
        api.POST("/api/v1/sites/{site}/uses", {
          params: { path: { site: site.value } },
          body: { ...body, draft },
        }),
      )
      return got.says.map((s) => s.charAt(0).toUpperCase() + s.slice(1)).join(". ")
    })
    if (ok) {
      pending = null
      brought?.()
      return true
    }
    const e = edits.problem.value
    if (e instanceof Problem && e.type === "waits-for-decisions" && Array.isArray(e.details)) {
      asked.value = e.details as Schemas["Question"][]
      edits.problem.value = null
    }
    return false
  }
  /** Answers a question; they come when the last is answered. */
  function answer(q: Schemas["Question"], word: string) {
    if (!pending) return
    if (q.kind === "fill") pending.fills = { ...pending.fills, [q.key.replace(/^fill[/:]/, "")]: word }
    else pending.decisions = { ...pending.decisions, [q.key]: word }
    asked.value = asked.value.filter((o) => o.key !== q.key)
    if (!asked.value.length) void send()
  }
  function cancel() {
    pending = null
    asked.value = []
  }
  return { asked, bring, answer, cancel }
}
