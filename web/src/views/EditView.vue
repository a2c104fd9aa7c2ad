<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, toRef, watch } from "vue"
import { onBeforeRouteLeave, onBeforeRouteUpdate, useRouter } from "vue-router"
import { useQueryClient } from "@tanstack/vue-query"
import EditBar from "../components/edit/EditBar.vue"
import AroundPage from "../components/edit/AroundPage.vue"
import ElementPanel from "../components/edit/ElementPanel.vue"
import EditNotes from "../components/edit/EditNotes.vue"
import LinkedAsk from "../components/edit/LinkedAsk.vue"
import PageElements from "../components/edit/PageElements.vue"
import PageFrame, { type Names } from "../components/edit/PageFrame.vue"
import ShelfStrip from "../components/edit/ShelfStrip.vue"
import SourceEditor from "../components/edit/SourceEditor.vue"
import ProblemNote from "../components/ProblemNote.vue"
import { useMyDraft } from "../composables/useMyDraft"
import { useItems } from "../composables/useItems"
import { useSession } from "../composables/useSession"
import { useTitle } from "../composables/useTitle"
import { pageName } from "../composables/format"
import { useOutline, type Element } from "../composables/useOutline"
import { usePageEdits } from "../composables/usePageEdits"
import { usePageActs } from "../composables/usePageActs"
import type { Measures, Told } from "../composables/usePageFrame"
import type { Schemas } from "../api/client"

// A page as it looks, edited by pointing: in my draft, at three widths, with its elements beside it.
const props = defineProps<{
  site: string
  page: string
  asked?: number
  shelf?: boolean
  item?: string
  line?: number
  fault?: string
}>()
const router = useRouter()
const client = useQueryClient()
const site = toRef(props, "site")
const page = toRef(props, "page")
const keeper = useSession().may("keeper")
useTitle(() => [`Edit ${pageName(props.page)}`, props.site])
const live = useItems(site)
const { drafts, draft, known } = useMyDraft(site, props.asked)
const opened = ref(false)
// Where the page is shown: the draft's own origin, once that is known; until then what is shown stays.
const origin = ref("")
// Where it is edited: nothing of the site's own ever runs there.
const editing = ref("")
watch(
  [draft, () => drafts.data.value, () => live.data.value],
  ([id, list, site]) => {
    const found = id ? list?.drafts.find((d) => d.id === id) : site
    if (!found?.editing) return
    origin.value = found.preview
    editing.value = found.editing
  },
  { immediate: true },
)
const width = ref(window.innerWidth < 768 ? 390 : 1280)
const asVisitors = ref(false)
const source = ref(false)
const frame = ref<InstanceType<typeof PageFrame>>()
const outline = useOutline(site, page, draft)
const edits = usePageEdits(site, page, draft)
const chosen = shallowRef<Element | null>(null)
const measures = ref<Measures | null>(null)
const hidden = ref<number[]>([])
const lieOpen = ref(0)
const putAside = ref(0)
const scripts = ref(0)
const typing = ref(false)
const placing = ref(false)
const note = ref("")
const says = (words: string) => {
  note.value = words
}
// A piece that waits for answers is not forgotten by leaving without a word.
const waits = ref("")
let warned = ""
function stays() {
  if (!waits.value || warned === waits.value) return false
  warned = waits.value
  says(
    `“${waits.value}” is not on the page yet: answer its question below, or cancel it. Leave again to go without it.`,
  )
  return true
}
const acts = usePageActs({ site, page, keeper, draft, width, chosen, outline, edits, again, post, says })
const src = computed(() => (editing.value ? editing.value + props.page : ""))
function post(what: string, more: Record<string, unknown> = {}) {
  frame.value?.post(what, more)
}

// The outline is asked for while the page is on its way.
let early: ReturnType<typeof fetchOutline> | null = null
const fetchOutline = () =>
  outline.load().catch((e: unknown) => {
    edits.problem.value = e
    return null
  })

// What was typed and not sent, the last time this page was open here, is not lost.
watch(
  () => known.value && !!live.data.value,
  async (ready) => {
    if (opened.value || !ready) return
    opened.value = true
    if (!keeper.value || !(await edits.recover())) return
    says("What you typed last time was kept, and is in the draft.")
    again()
  },
  { immediate: true },
)

/**
 * What is known of a page that was loaded, once its outline is of the same. Only when the page comes into sight does
 * it count: until then, what is pointed at and typed is on the one before.
 */
async function load(digest: string): Promise<(() => Names) | null> {
  let got = await early
  early = null
  if (got?.digest !== digest) got = await fetchOutline() // somebody did something while the page was on its way
  const of = got
  if (!of) return () => ({})
  return of.digest === digest ? () => shows(of) : null
}
function shows(of: Schemas["PageOutline"]): Names {
  const was = chosen.value
  outline.outline.value = of
  edits.shows(of.seen)
  chosen.value = acts.wanted(was) ?? led()
  const inline = (e: Element) => e.kind === "inline" || e.kind === "link" || e.kind === "picture"
  return Object.fromEntries(
    of.elements.map((e) => [
      e.number,
      {
        says: `${outline.called(e)} · ${outline.whose(e)}`,
        words: keeper.value && !!e.words,
        inline: inline(e),
        grips: keeper.value && !e.made && e.kind !== "inline",
        sample: !!e.sample,
      },
    ]),
  )
}
/** The element to which an address of this view leads: that of an item on or before a line. */
let leads = true
let revealing = false
const kindOfFault: Record<string, Element["kind"]> = {
  heading: "heading",
  alternative: "picture",
  link: "link",
  anchor: "link",
  name: "field",
}
function led(): Element | null {
  if (!leads || !props.item) return null
  leads = false
  revealing = true
  const of = outline.outline.value?.elements.filter((e) => e.item === props.item && e.line) ?? []
  const before = of.filter((e) => (e.line ?? 0) <= (props.line ?? Infinity))
  const last = Math.max(...before.map((e) => e.line ?? 0))
  const there = before.filter((e) => e.line === last)
  const meant = kindOfFault[props.fault ?? ""]
  return there.find((e) => e.kind === meant) ?? there[0] ?? of[0] ?? null
}
function again() {
  frame.value?.again()
}
function shown(n: number) {
  typing.value = false // nobody types on a page that has just come
  scripts.value = n
  const reveal = acts.reveal() || revealing
  revealing = false
  if (chosen.value) post("select", { number: chosen.value.number, reveal })
  acts.shown()
}
function told(m: Told) {
  const e = m.number === undefined ? undefined : outline.byNumber.value.get(m.number)
  switch (m.what) {
    case "select":
    case "selected":
      chosen.value = e ?? null
      measures.value = (m.measures as Measures) ?? null
      break
    case "hidden":
      hidden.value = m.list as number[]
      lieOpen.value = Number(m.open)
      putAside.value = Number(m.aside)
      break
    case "typing-begins":
      typing.value = true
      break
    case "typing-ends":
      typing.value = false
      edits.flush().then(again)
      break
    case "words":
      if (e) {
        acts.changed(e)
        edits.type(
          { page: props.page, element: e.path, run: Number(m.run), now: String(m.now) },
          String(m.before),
        )
      }
      break
    default:
      if (e) acts.told(e, m)
      else if (m.what === "key") acts.key(m)
  }
}
function choose(e: Element) {
  chosen.value = e
  post("select", { number: e.number, reveal: true })
}
function type(e: Element) {
  choose(e)
  frame.value?.focus()
  post("type", { number: e.number })
}
watch(placing, (on) => acts.place(on))

// Others work in the draft, too: what they do comes into sight when nobody types here.
const events = new EventSource(`/api/v1/events?kind=draft&site=${encodeURIComponent(props.site)}`)
let soon = 0
events.addEventListener("draft", () => {
  clearTimeout(soon)
  soon = window.setTimeout(async () => {
    client.invalidateQueries({ queryKey: ["drafts", props.site] })
    if (typing.value) return // it comes when the typing ends
    await edits.flush()
    const got = await outline.load().catch(() => null)
    if (got && got.seen !== outline.outline.value?.seen && got.digest !== outline.outline.value?.digest)
      again()
  }, 400)
})
const keys = (e: KeyboardEvent) => {
  const on = e.target as HTMLElement
  const meta = e.ctrlKey || e.metaKey
  if (
    !keeper.value ||
    !meta ||
    e.altKey ||
    /^(INPUT|TEXTAREA|SELECT)$/.test(on.tagName) ||
    on.isContentEditable
  )
    return
  const key = e.key.toLowerCase()
  if (key !== "z" && key !== "y") return
  e.preventDefault()
  acts.back(key === "y" || e.shiftKey ? "redo" : "undo")
}
const leaving = (e: BeforeUnloadEvent) => {
  if (edits.state.value === "offline" || waits.value) e.preventDefault()
}
onMounted(() => {
  window.addEventListener("keydown", keys)
  window.addEventListener("beforeunload", leaving)
})
onBeforeUnmount(() => {
  events.close()
  clearTimeout(soon)
  window.removeEventListener("keydown", keys)
  window.removeEventListener("beforeunload", leaving)
})
onBeforeRouteUpdate(async (to, from) => {
  if (to.path === from.path) return
  if (stays()) return false
  post("stop")
  await edits.flush()
})
onBeforeRouteLeave(() => {
  if (stays()) return false
  post("stop")
  void edits.flush()
})
// The panel of what is chosen begins at its top.
const panel = ref<HTMLElement>()
watch(
  () => chosen.value?.path,
  () => panel.value?.scrollTo?.({ top: 0 }),
  { flush: "post" },
)
watch(page, () => {
  chosen.value = null
  measures.value = null
})
watch(draft, (id) => {
  if (id && id !== props.asked)
    router
      .replace(`/sites/${props.site}/edit${props.page}?draft=${id}`)
      .then(() => client.invalidateQueries({ queryKey: ["drafts", props.site] }))
})
</script>

<template>
  <div class="flex h-dvh flex-col max-md:h-auto max-md:min-h-dvh">
    <EditBar
      v-model:width="width"
      v-model:as-visitors="asVisitors"
      v-model:source="source"
      :site="site"
      :page="page"
      :draft="draft"
      :state="edits.state.value"
      :samples="outline.samples.value.length"
      :keeper="keeper"
      :origin="origin"
      @undo="acts.back('undo')"
      @redo="acts.back('redo')"
      @sample="acts.nextSample()"
    />
    <main id="content" class="flex min-h-0 flex-1 max-md:flex-col">
      <div class="flex min-h-0 min-w-0 flex-1 flex-col max-md:h-[70vh] max-md:flex-none">
        <ProblemNote :error="drafts.error.value ?? live.error.value" />
        <AroundPage
          side="above"
          :site="site"
          :page="page"
          :draft="draft"
          :step="outline.outline.value?.step ?? 0"
          :acts="acts"
        />
        <EditNotes
          :edits="edits"
          :note="note"
          :scripts="scripts"
          :open="lieOpen"
          :aside="putAside"
          @mine="edits.mine().then(again)"
          @theirs="((edits.clash.value = null), again())"
          @close="note = ''"
        />
        <SourceEditor
          v-if="source && outline.outline.value?.page"
          :site="site"
          :address="outline.outline.value.page"
          :draft="draft"
          :in-draft="edits.inDraft"
          @saved="again"
        />
        <iframe
          v-else-if="asVisitors && origin"
          :src="origin + page"
          title="The page as visitors see it"
          class="min-h-0 w-full flex-1 border-0 bg-white"
          sandbox="allow-scripts allow-same-origin allow-forms"
          referrerpolicy="no-referrer"
        />
        <PageFrame
          v-if="src && opened"
          v-show="!asVisitors && !source"
          ref="frame"
          :src="src"
          :width="width"
          :title="`The page ${page}, to be edited`"
          :load="load"
          @begins="early = fetchOutline()"
          @told="told"
          @shown="shown"
        >
          <LinkedAsk :acts="acts" />
        </PageFrame>
        <AroundPage
          side="below"
          :site="site"
          :page="page"
          :draft="draft"
          :step="outline.outline.value?.step ?? 0"
          :acts="acts"
        />
        <ShelfStrip
          v-if="keeper"
          v-model:placing="placing"
          v-model:waits="waits"
          :begin="shelf"
          :site="site"
          :page="page"
          :draft="draft"
          :acts="acts"
          :chosen="chosen"
        />
      </div>
      <aside class="beside-page" aria-label="What is chosen, and the elements of the page">
        <div v-if="chosen" ref="panel" class="chosen-panel">
          <ElementPanel
            :key="chosen.path + chosen.tag"
            :site="site"
            :page="page"
            :draft="draft"
            :element="chosen"
            :measures="measures"
            :hidden="hidden.includes(chosen.number)"
            :width="width"
            :typing="typing"
            :acts="acts"
          />
        </div>
        <p v-else class="border-b border-hair px-4 py-3 text-faded">
          <template v-if="keeper">
            Click on words to write others. Click on a picture, a link, a menu or anything else to change it.
          </template>
          <template v-else>Click on anything to see what it is.</template>
        </p>
        <PageElements
          :outline="outline"
          :chosen="chosen"
          :hidden="hidden"
          :acts="acts"
          :keeper="keeper"
          @choose="choose"
          @type="type"
        />
      </aside>
    </main>
    <p class="sr-only" role="status" aria-live="polite">{{ acts.announced.value }}</p>
  </div>
</template>
