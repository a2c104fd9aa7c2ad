<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from "vue"
import { ChevronDownIcon, ChevronRightIcon } from "@heroicons/vue/20/solid"
import { elementWords, type Element, type useOutline } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// The elements of the page as a tree (WAI-ARIA, tree view): arrows go through it, Alt with arrows moves, Delete
// removes; they can be dragged, too.
const props = defineProps<{
  outline: ReturnType<typeof useOutline>
  chosen: Element | null
  hidden: number[]
  acts: PageActs
  keeper: boolean
}>()
const emit = defineEmits<{ choose: [e: Element]; type: [e: Element] }>()
const shut = ref(new Set<string>())
const tree = ref<HTMLElement>()
const dragged = ref<Element | null>(null)
const over = ref<{ number: number; place: "before" | "after" } | null>(null)
interface Row {
  e: Element
  depth: number
  kids: boolean
}
const rows = computed<Row[]>(() => {
  const all = (props.outline.outline.value?.elements ?? []).filter((e) => e.kind !== "inline")
  const kids = new Map<number, Element[]>()
  for (const e of all) {
    const list = kids.get(e.parent)
    if (list) list.push(e)
    else kids.set(e.parent, [e])
  }
  const out: Row[] = []
  const add = (e: Element, depth: number) => {
    const below = e.made && e.kind !== "part" ? [] : (kids.get(e.number) ?? [])
    out.push({ e, depth, kids: below.length > 0 })
    if (!shut.value.has(e.path)) for (const c of below) add(c, depth + 1)
  }
  for (const e of kids.get(-1) ?? []) add(e, 0)
  return out
})
// Of a long page a part is listed, around what is chosen; more of it by a button.
const most = 300
const from = ref(0)
const shown = computed(() => rows.value.slice(from.value, from.value + most))
const current = computed(() => {
  const numbers = new Set(rows.value.map((r) => r.e.number))
  if (!props.chosen) return rows.value[0]?.e.number
  if (numbers.has(props.chosen.number)) return props.chosen.number
  return props.outline
    .around(props.chosen)
    .reverse()
    .find((e) => numbers.has(e.number))?.number
})
watch(
  [current, rows],
  () => {
    const i = rows.value.findIndex((r) => r.e.number === current.value)
    if (i >= 0 && (i < from.value || i >= from.value + most)) from.value = Math.max(0, i - most / 2)
  },
  { flush: "sync" },
)
const rowOf = () => tree.value?.querySelector<HTMLElement>(`[data-element="${current.value}"]`)
watch(current, () => {
  const focused = tree.value?.contains(document.activeElement)
  nextTick(() => {
    if (props.chosen) rowOf()?.scrollIntoView({ block: "nearest" })
    if (focused) rowOf()?.focus({ preventScroll: true })
  })
})
// The panel above grows as what it tells of the chosen element comes, and the list gets smaller by it.
const sized = new ResizeObserver(() => {
  if (props.chosen) rowOf()?.scrollIntoView({ block: "nearest" })
})
onMounted(() => {
  const list = tree.value?.parentElement
  if (list) sized.observe(list)
})
onBeforeUnmount(() => sized.disconnect())
function toggle(r: Row, open?: boolean) {
  const next = new Set(shut.value)
  if (open ?? next.has(r.e.path)) next.delete(r.e.path)
  else next.add(r.e.path)
  shut.value = next
}
function key(ev: KeyboardEvent, r: Row) {
  const i = rows.value.indexOf(r)
  const open = r.kids && !shut.value.has(r.e.path)
  const to = (row?: Row) => {
    if (row) emit("choose", row.e)
  }
  if (ev.altKey || ev.key === "Delete" || (ev.ctrlKey && ev.key === "d")) {
    if (props.keeper) props.acts.key({ key: ev.key, alt: ev.altKey, ctrl: ev.ctrlKey })
  } else if (ev.key === "ArrowDown") to(rows.value[i + 1])
  else if (ev.key === "ArrowUp") to(rows.value[i - 1])
  else if (ev.key === "Home") to(rows.value[0])
  else if (ev.key === "End") to(rows.value.at(-1))
  else if (ev.key === "ArrowRight" && r.kids && !open) toggle(r, true)
  else if (ev.key === "ArrowRight") to(rows.value[i + 1])
  else if (ev.key === "ArrowLeft" && open) toggle(r, false)
  else if (ev.key === "ArrowLeft") to(rows.value.find((o) => o.e.number === r.e.parent))
  else if (ev.key === "Enter" && r.e.words && props.keeper) emit("type", r.e)
  else return
  ev.preventDefault()
}
function drop(r: Row, ev: DragEvent) {
  ev.preventDefault()
  const from = dragged.value
  const place = over.value?.place ?? "after"
  dragged.value = null
  over.value = null
  if (from && from.number !== r.e.number) void props.acts.moveTo(from, r.e, place)
}
const half = (ev: DragEvent) => {
  const box = (ev.currentTarget as HTMLElement).getBoundingClientRect()
  return ev.clientY < box.top + box.height / 2 ? ("before" as const) : ("after" as const)
}
</script>

<template>
  <section class="min-h-40 flex-1 py-2" aria-labelledby="elements-of-page">
    <h2 id="elements-of-page" class="px-4 pb-1 text-base">Elements of this page</h2>
    <button v-if="from" type="button" class="link px-4 text-sm" @click="from = Math.max(0, from - most)">
      Those before
    </button>
    <ul ref="tree" role="tree" aria-labelledby="elements-of-page" class="text-sm">
      <!-- eslint-disable-next-line vuejs-accessibility/interactive-supports-focus -- tabindex roves -->
      <li
        v-for="r in shown"
        :key="r.e.number"
        role="treeitem"
        :aria-level="r.depth + 1"
        :aria-selected="r.e.number === chosen?.number"
        :aria-expanded="r.kids ? !shut.has(r.e.path) : undefined"
        :tabindex="r.e.number === current ? 0 : -1"
        :data-element="r.e.number"
        :draggable="keeper && r.e.whole"
        class="flex cursor-pointer items-center gap-1 border-l-[3px] py-1 pr-3"
        :class="[
          r.e.number === current && chosen
            ? 'border-call bg-call-soft'
            : 'border-transparent hover:bg-slate-soft',
          over?.number === r.e.number &&
            (over.place === 'before' ? 'border-t-2 border-t-ink' : 'border-b-2 border-b-ink'),
        ]"
        :style="{ paddingLeft: `${0.6 + Math.min(r.depth, 9) * 0.8}rem` }"
        @click="emit('choose', r.e)"
        @keydown="key($event, r)"
        @dragstart="dragged = r.e"
        @dragend="((dragged = null), (over = null))"
        @dragover.prevent="over = { number: r.e.number, place: half($event) }"
        @drop="drop(r, $event)"
      >
        <component
          :is="shut.has(r.e.path) ? ChevronRightIcon : ChevronDownIcon"
          class="size-4 shrink-0"
          :class="!r.kids && 'invisible'"
          aria-hidden="true"
          @click.stop="toggle(r)"
        />
        <span class="min-w-0 truncate"
          ><b>{{ elementWords[r.e.kind] }}</b
          >{{ ` ${outline.nameOf(r.e) ?? ""}` }}</span
        >
        <span v-if="r.e.sample" class="shrink-0 rounded bg-amber-soft px-1 text-amber">sample</span>
        <span v-if="hidden.includes(r.e.number)" class="shrink-0 text-faded">hidden here</span>
        <span
          v-else-if="r.e.linked && (r.e.kind === 'section' || r.e.kind === 'part')"
          class="shrink-0 text-faded"
          >shared</span
        >
      </li>
    </ul>
    <button v-if="from + most < rows.length" type="button" class="link px-4 text-sm" @click="from += most">
      {{ rows.length - from - most }} more
    </button>
  </section>
</template>
