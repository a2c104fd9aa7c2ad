import { computed, onScopeDispose, reactive, ref, type Ref } from "vue"
import { useQueryClient } from "@tanstack/vue-query"
import { api, Problem, result, type Schemas } from "../api/client"
import { useRest } from "../underWay"
import { keep, kept, whole, written, type Typing } from "./typing"

type Operation = Schemas["Operation"]
type Edited = Schemas["SiteEdited"]

/** What could not be done since somebody else changed the same. */
export interface Clash {
  operations: Operation[]
  message: string
}

/** How long typing rests before it is sent, and how long a broken connection is left alone, in ms. */
const rests = 150
const again = 2000

/**
 * Sends what is done on a page, one thing after the other. What is typed is kept in this browser until the service
 * has it; where the connection breaks it is sent again. Each edit names the step that the page shows, and what was
 * done on it since, so that the service carries it through what others do meanwhile.
 */
export function usePageEdits(site: Ref<string>, page: Ref<string>, draft: Ref<number | null>) {
  const client = useQueryClient()
  const seen = ref("")
  const typing = reactive(new Map<string, Typing>())
  const busy = ref(0)
  const offline = ref(false)
  // What was done last, with all that was typed in one go, and whether it can still be taken elsewhere.
  let last: Operation[] = []
  const problem = ref<unknown>(null)
  const clash = ref<Clash | null>(null)
  let line: Promise<unknown> = Promise.resolve()
  const rest = useRest("drop")
  let over = false

  const unsent = () => [...typing.values()].filter((t) => t.now !== t.sent)
  const state = computed(() =>
    offline.value ? "offline" : busy.value || unsent().length ? "saving" : draft.value ? "saved" : "live",
  )
  // What is on its way is not done yet: what is kept begins with it.
  let underway: { done: Operation[]; operations: Operation[] } | null = null
  const store = () => {
    const typed = unsent().map((t) => written(t, t.sent, t.now))
    const operations = [...(underway?.operations ?? []), ...typed]
    const before = underway?.done ?? doneTyping()
    const k = { draft: draft.value, seen: seen.value, done: before, operations, at: Date.now() }
    keep(site.value, page.value, operations.length ? k : null)
  }
  const doneTyping = () =>
    [...typing.values()].filter((t) => t.sent !== t.first).map((t) => written(t, t.first, t.sent))

  /** A page came into sight: what was done on the one before is part of it. */
  function shows(moment: string) {
    seen.value = moment
    if (underway) return // whether the page has it is not known
    for (const [k, t] of typing) if (t.now === t.sent) typing.delete(k)
  }

  async function inDraft(): Promise<number> {
    if (draft.value) return draft.value
    const d = await result(
      api.POST("/api/v1/sites/{site}/drafts", { params: { path: { site: site.value } }, body: {} }),
    )
    draft.value = d.id
    return d.id
  }

  /** Names the draft that an act is for; the act makes one where there is none, and one that is refused makes none. */
  const ofDraft = () => (draft.value ? { draft: draft.value } : {})
  function made(id?: number) {
    if (!draft.value && id) draft.value = id
  }

  /** Waits its turn, and for the connection. */
  function inLine<T>(act: () => Promise<T>): Promise<T> {
    busy.value++
    const turn = line.then(async () => {
      for (;;) {
        try {
          const got = await act()
          offline.value = false
          return got
        } catch (e) {
          if (!(e instanceof Problem) || e.type !== "unavailable" || over) throw e
          offline.value = true
          await connection()
        }
      }
    })
    line = turn.catch(() => {}).finally(() => busy.value--)
    return turn
  }
  const connection = () =>
    new Promise<void>((go) => {
      const t = window.setTimeout(on, again)
      function on() {
        clearTimeout(t)
        window.removeEventListener("online", on)
        go()
      }
      window.addEventListener("online", on)
    })

  async function post(
    operations: Operation[],
    on: { seen: string; done: Operation[] } | null,
  ): Promise<Edited> {
    const got = await result(
      api.POST("/api/v1/sites/{site}/edits", {
        params: { path: { site: site.value } },
        body: { ...ofDraft(), operations, ...(on?.seen ? on : {}) },
      }),
    )
    made(got.draft)
    return got
  }

  /** Does operations that mean the page as it is shown. Where they cannot be done, null: it is told why. */
  async function edit(operations: Operation[]): Promise<Edited | null> {
    problem.value = null
    await flush()
    try {
      const got = await inLine(() => post(operations, { seen: seen.value, done: doneTyping() }))
      last = operations
      settle()
      return got
    } catch (e) {
      fail(e, operations)
      return null
    }
  }
  function fail(e: unknown, operations: Operation[]) {
    if (e instanceof Problem && e.type === "stale") clash.value = { operations, message: e.message }
    else problem.value = e
  }
  const settle = () => client.invalidateQueries({ queryKey: ["drafts", site.value] })

  /** Words are being typed in a run of an element. */
  function type(t: Omit<Typing, "first" | "sent">, before: string) {
    const key = `${t.element} ${t.run}`
    const was = typing.get(key)
    if (was) was.now = t.now
    else typing.set(key, { ...t, first: before, sent: before })
    store()
    rest.after(rests, flush)
  }

  /** Sends what is typed and not sent yet. */
  async function flush(): Promise<boolean> {
    rest.drop()
    while (underway) await line // one thing at a time is on its way
    const list = unsent()
    if (!list.length) {
      await line
      return true
    }
    problem.value = null
    const on = { seen: seen.value, done: doneTyping() }
    const operations = list.map((t) => written(t, t.sent, t.now))
    const was = list.map((t) => t.sent)
    for (const t of list) t.sent = t.now
    underway = { done: on.done, operations }
    store()
    try {
      await inLine(() => post(operations, on))
      last = [...typing.values()].filter((t) => t.first !== t.now).map(whole)
      underway = null
      settle()
      store()
      return true
    } catch (e) {
      underway = null
      list.forEach((t, i) => {
        if (e instanceof Problem) typing.delete(`${t.element} ${t.run}`)
        else t.sent = was[i]
      })
      fail(e, list.map(whole))
      store()
      return false
    }
  }

  /** Sends what an earlier visit left unsent. */
  async function recover(): Promise<boolean> {
    const k = kept(site.value, page.value)
    if (!k) return false
    if (k.draft) draft.value = k.draft
    try {
      await inLine(() => post(k.operations, { seen: k.seen, done: k.done }))
      keep(site.value, page.value, null)
      return true
    } catch (e) {
      keep(site.value, page.value, null)
      fail(e, k.operations)
      return false
    }
  }

  /** Takes the last act back, and does it again behind others, as one act: on a copy, say. */
  async function instead(operations: Operation[]): Promise<boolean> {
    await flush()
    const again = last
    if (!again.length || !(await back("undo"))) return false
    try {
      await inLine(() => post([...operations, ...again], null))
      settle()
      return true
    } catch (e) {
      fail(e, operations)
      return false
    }
  }

  async function back(word: "undo" | "redo"): Promise<boolean> {
    problem.value = null
    await flush()
    if (!draft.value) return false
    const id = draft.value
    try {
      await inLine(() =>
        result(
          api.POST(`/api/v1/sites/{site}/drafts/{id}/${word}`, {
            params: { path: { site: site.value, id } },
          }),
        ),
      )
      last = []
      settle()
      return true
    } catch (e) {
      problem.value = e
      return false
    }
  }

  /** Writes mine over what somebody else wrote meanwhile. */
  async function mine() {
    const c = clash.value
    clash.value = null
    if (!c) return false
    try {
      await inLine(() => post(c.operations, null))
      settle()
      return true
    } catch (e) {
      problem.value = e
      return false
    }
  }
  onScopeDispose(() => {
    over = true
  })
  return {
    seen,
    state,
    problem,
    clash,
    shows,
    edit,
    type,
    flush,
    recover,
    back,
    instead,
    mine,
    inLine,
    inDraft,
    ofDraft,
    made,
  }
}
