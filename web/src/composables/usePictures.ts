import { computed, onScopeDispose, reactive, ref, watch, type Ref } from "vue"
import { useQuery } from "@tanstack/vue-query"
import { api, result, type Schemas } from "../api/client"

/** What is known of a picture: `asked` until the service has answered. */
export type Picture = Schemas["PictureRef"] | { state: "asked" }

const found = reactive(new Map<string, Picture>())
const looked = new Map<string, { at: string; width: number; by: number }>()
const hasBrowser = ref(true)
let timer = 0
let pause = 0

const keyOf = (at: string, width: number) => `${width} ${at}`
const waits = (key: string) => {
  const state = found.get(key)?.state
  return state === undefined || state === "asked" || state === "waiting"
}

/** The most pictures that one request asks for. */
const most = 100

/** Asks for all that is looked at and not made yet: what came into sight last first. */
async function ask() {
  timer = 0
  const list = [...looked.entries()].filter(([key]) => waits(key)).reverse()
  if (!list.length) return
  const pictures = list.slice(0, most).map(([, w]) => ({ at: w.at, width: w.width as 1280 | 768 | 390 }))
  try {
    const got = await result(api.POST("/api/v1/pictures", { body: { pictures } }))
    hasBrowser.value = got.browser
    for (const p of got.pictures) found.set(keyOf(p.at, p.width), p.picture)
  } catch {
    for (const p of pictures) found.set(keyOf(p.at, p.width), { state: "none" }) // it is shown live
  }
  pause = Math.min(Math.max(700, pause * 1.4), 6000)
  if (list.some(([key]) => waits(key))) timer = window.setTimeout(ask, pause)
}

function look(at: string, width: number) {
  const key = keyOf(at, width)
  const known = looked.get(key)
  looked.delete(key)
  looked.set(key, { at, width, by: (known?.by ?? 0) + 1 })
  if (found.get(key)?.state === "none") found.delete(key)
  if (!found.has(key)) found.set(key, { state: "asked" })
  if (!waits(key)) return
  pause = 0
  clearTimeout(timer)
  timer = window.setTimeout(ask, 30)
}

function lookAway(at: string, width: number) {
  const key = keyOf(at, width)
  const known = looked.get(key)
  if (known && --known.by <= 0) looked.delete(key)
}

/**
 * The picture of what a preview shows at an address, made by the service when it is looked at. Nothing waits
 * for it: until it is there the state says so, and `none` where no browser makes pictures.
 */
export function usePicture(at: Ref<string>, width: number, inSight: Ref<boolean>) {
  let now = ""
  const leave = () => {
    if (now) lookAway(now, width)
    now = ""
  }
  watch(
    [at, inSight],
    () => {
      leave()
      if (inSight.value && at.value) look((now = at.value), width)
    },
    { immediate: true },
  )
  onScopeDispose(leave)
  return computed<Picture>(() => found.get(keyOf(at.value, width)) ?? { state: "asked" })
}

/** Asks anew for a picture whose file is not there any more. */
export function lost(at: string, width: number) {
  const key = keyOf(at, width)
  found.set(key, { state: "asked" })
  if (!looked.has(key)) return
  pause = 0
  clearTimeout(timer)
  timer = window.setTimeout(ask, 500)
}

/** Where the file of a picture lies. */
export const pictureFile = (picture: string, small = false) =>
  `/api/v1/pictures/${picture}${small ? "?small=true" : ""}`

/** Pages before and after, of a draft or a delivery; asked again while pictures wait. */
export function useBeforeAfter(
  of: Ref<{ site: string; draft: number } | { delivery: number }>,
  from: Ref<number>,
) {
  return useQuery({
    queryKey: computed(() => ["before-after", of.value, from.value]),
    queryFn: () => {
      const query = { from: from.value }
      return "delivery" in of.value
        ? result(
            api.GET("/api/v1/deliveries/{id}/before-after", {
              params: { path: { id: of.value.delivery }, query },
            }),
          )
        : result(
            api.GET("/api/v1/sites/{site}/drafts/{id}/before-after", {
              params: { path: { site: of.value.site, id: of.value.draft }, query },
            }),
          )
    },
    refetchInterval: (q) => (q.state.data?.browser && q.state.data.waiting > 0 ? 1500 : false),
  })
}
