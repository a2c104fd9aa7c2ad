import { ref } from "vue"
import { api, Problem, result, type Schemas } from "../api/client"
import type { PageActs } from "./usePageActs"

/** A piece of the shelf: of the library, of a kit as "kit NAME@VERSION", or of this site. */
export interface Piece {
  from: string
  address: string
  title: string
  preview: string
}

/** Brings a piece into the draft at a place of the page; true questions are asked where it happens. */
export function useUsePiece(site: string, page: () => string, acts: PageActs) {
  const asked = ref<Schemas["Question"][]>([])
  const busy = ref(false)
  let pending: { piece: Piece; body: Schemas["UsePiece"] } | null = null
  async function use(piece: Piece, at: { beside?: string; place?: "before" | "after" | "inside" }) {
    asked.value = []
    return send(piece, {
      from: piece.from,
      piece: piece.address,
      page: page(),
      ownLook: true,
      ...at,
      decisions: {},
      fills: {},
    })
  }
  async function send(piece: Piece, body: Schemas["UsePiece"]): Promise<boolean> {
    busy.value = true
    acts.edits.problem.value = null
    try {
      await acts.edits.flush()
      const got = await acts.edits.inLine(() =>
        result(
          api.POST("/api/v1/sites/{site}/uses", {
            params: { path: { site } },
            body: { ...body, ...acts.edits.ofDraft() },
          }),
        ),
      )
      acts.edits.made(got.draft)
      pending = null
      asked.value = []
      acts.say(
        got.filled
          ? `${piece.title} stands in the place that the page had for it; Undo takes it back`
          : got.ownLook
            ? `${piece.title} is on the page, in its own look; “This site’s” under “Its look” changes that`
            : `${piece.title} is on the page; Undo takes it back`,
      )
      acts.again()
      return true
    } catch (e) {
      if (e instanceof Problem && e.type === "waits-for-decisions" && Array.isArray(e.details)) {
        pending = { piece, body }
        asked.value = e.details as Schemas["Question"][]
      } else acts.edits.problem.value = e
      return false
    } finally {
      busy.value = false
    }
  }
  /** Answers a question; the piece comes when the last is answered. */
  function answer(q: Schemas["Question"], word: string) {
    if (!pending) return
    if (q.kind === "fill")
      pending.body.fills = { ...pending.body.fills, [q.key.replace(/^fill[/:]/, "")]: word }
    else pending.body.decisions = { ...pending.body.decisions, [q.key]: word }
    asked.value = asked.value.filter((o) => o.key !== q.key)
    if (!asked.value.length) void send(pending.piece, pending.body)
  }
  function cancel() {
    pending = null
    asked.value = []
  }
  /** The piece that comes when its questions are answered. */
  const waiting = () => pending?.piece
  return { asked, busy, use, answer, cancel, waiting }
}
