<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import MenuArrivals from "./MenuArrivals.vue"
import MenuEntryRow from "./MenuEntryRow.vue"
import { entryRows, sibling, type Entry, type EntryRow } from "./menu"
import { parsed, useDraftItem } from "../../composables/useDraftItem"
import { usePages } from "../../composables/usePages"
import { anchorOf } from "../../composables/format"
import type { Schemas } from "../../api/client"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// The entries of a menu: words and targets in place, order and nesting by drag, buttons and keys.
const props = defineProps<{
  site: string
  page: string
  draft: number | null
  menu: string
  element: Element
  acts: PageActs
}>()
type Operation = Schemas["Operation"]
const step = computed(() => props.acts.outline.outline.value?.step ?? 0)
const item = useDraftItem(toRef(props, "site"), toRef(props, "menu"), toRef(props, "draft"), step)
const ofSite = usePages(toRef(props, "site"), toRef(props, "draft"))
const pages = computed(() => ofSite.pages.value.filter((p) => p.slug !== "/404.html"))
const content = computed(() => parsed<{ title: string; entries: Entry[] }>(item.data.value?.value.content))
const rows = computed(() => entryRows(content.value?.entries ?? []))
/** The sections of this page that an entry can lead to; those without an anchor get one. */
const places = computed(() => {
  const all = props.acts.outline.outline.value?.elements ?? []
  const main = all.find((e) => e.tag === "main")
  return all.filter(
    (e) => !e.made && e.name && (e.anchor || (e.parent === main?.number && e.tag === "section")),
  )
})
const taken = computed(() => new Set(rows.value.map((r) => r.to)))
const op = (name: Operation["op"], more: Partial<Operation>): Operation => ({
  op: name,
  item: props.menu,
  ...more,
})
const move = (r: EntryRow, to: string) =>
  props.acts.run([op("entry-move", { entry: r.place, value: to })], `“${r.label}” stands at ${to}`)
function within(r: EntryRow) {
  const before = rows.value.find((o) => o.place === sibling(r.place, -1))
  if (before) void move(r, `${before.place}.${(before.entries?.length ?? 0) + 1}`)
}
const outside = (r: EntryRow) => move(r, sibling(r.place.split(".").slice(0, -1).join("."), 1))
const more = ref("")
function add() {
  const known = pages.value.find((p) => p.slug === more.value)?.title
  const at = places.value.find((p) => "#" + p.number === more.value)
  const list: Operation[] = []
  if (at) {
    const id = at.anchor || anchorOf(at.name ?? "")
    if (!at.anchor) list.push(props.acts.at(at, "anchor", { value: id }))
    list.push(op("entry-add", { label: at.name, value: `${props.page}#${id}` }))
    const here = rows.value.map((r) => r.to.split("#")).filter(([page]) => page === props.page)
    props.acts.mendJumps([id, ...here.map(([, anchor]) => anchor ?? "")])
  } else list.push(op("entry-add", { label: known ?? more.value, value: more.value }))
  void props.acts.run(list, "The entry was added")
  more.value = ""
}
const change = (r: EntryRow, to: Partial<Operation>) =>
  props.acts.run([op("entry-change", { entry: r.place, ...to })], "The entry was changed")
const dragged = ref<EntryRow | null>(null)
function drop(on: EntryRow) {
  const from = dragged.value
  dragged.value = null
  if (from && from.place !== on.place && !on.place.startsWith(from.place + ".")) void move(from, on.place)
}
const shown = (value: string) =>
  props.acts.run([props.acts.at(props.element, "menu-shown", { value })], "Chosen")
</script>

<template>
  <fieldset class="mb-3" data-menu>
    <legend class="label text-sm">Entries of {{ content?.title || menu.slice(5) }}</legend>
    <ol class="space-y-1">
      <MenuEntryRow
        v-for="r in rows"
        :key="r.place + r.label + r.to"
        :row="r"
        @change="(to) => change(r, to)"
        @earlier="move(r, sibling(r.place, -1))"
        @later="move(r, sibling(r.place, 1))"
        @within="within(r)"
        @outside="outside(r)"
        @remove="acts.run([op('entry-remove', { entry: r.place })], 'The entry was removed')"
        @dragstart="dragged = r"
        @drop="drop(r)"
      />
    </ol>
    <datalist id="menu-targets">
      <option v-for="p in pages" :key="p.slug" :value="p.slug">{{ p.title }}</option>
    </datalist>
    <div class="mt-2 flex gap-1" role="group" aria-label="Add an entry">
      <select v-model="more" class="field min-h-9 py-1" aria-label="Page or place to add" data-menu-target>
        <option value="">Add…</option>
        <optgroup label="Pages">
          <option v-for="p in pages" :key="p.slug" :value="p.slug">
            {{ p.title }}{{ taken.has(p.slug) ? " (is there)" : "" }}
          </option>
        </optgroup>
        <optgroup v-if="places.length" label="On this page">
          <option v-for="p in places" :key="p.number" :value="'#' + p.number">
            {{ p.name }}{{ p.anchor && taken.has(`${page}#${p.anchor}`) ? " (is there)" : "" }}
          </option>
        </optgroup>
      </select>
      <button type="button" class="btn-quiet px-3 py-1" :disabled="!more" data-menu-add @click="add">
        Add
      </button>
    </div>
    <MenuArrivals
      :site="site"
      :draft="draft"
      :taken="taken"
      :pages="new Set(pages.flatMap((p) => [p.slug, p.item.meta.slug ?? p.slug]))"
      @take="
        (entry) => acts.run([op('entry-add', { label: entry.label, value: entry.to })], 'The entry was added')
      "
    />
    <div
      v-if="element.kind === 'menu'"
      class="mt-2 flex flex-wrap gap-1 text-sm"
      role="group"
      aria-label="How it is shown"
    >
      <button type="button" class="btn-quiet px-2 py-1" @click="shown('row')">In a row</button>
      <button type="button" class="btn-quiet px-2 py-1" @click="shown('folded')">Folded</button>
      <button type="button" class="btn-quiet px-2 py-1" @click="shown('by-width')">As the width asks</button>
    </div>
  </fieldset>
</template>
