<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import { PlusIcon } from "@heroicons/vue/24/outline"
import PieceThumb from "../PieceThumb.vue"
import EmptyElements from "./EmptyElements.vue"
import ShelfQuestions from "./ShelfQuestions.vue"
import { useShelf } from "../../composables/useShelf"
import { useUsePiece, type Piece } from "../../composables/useUsePiece"
import { kindWords } from "../../words"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// The shelf below the page: pieces as pictures, searched as one types, and the elements that are empty yet. One is
// dropped at a marked place, or clicked and then put where one points.
const props = defineProps<{
  site: string
  page: string
  draft: number | null
  acts: PageActs
  chosen: Element | null
  begin?: boolean
}>()
const placing = defineModel<boolean>("placing", { required: true })
/** The title of a piece that waits for answers; "" where none does. */
const waits = defineModel<string>("waits", { default: "" })
const open = ref(props.begin ?? false)
const words = ref("")
const from = ref({ library: true, kits: true, site: true })
const shelf = useShelf(toRef(props, "site"), toRef(props, "draft"), open)
const pieces = computed(() => {
  const w = words.value.trim().toLowerCase()
  return shelf.value.filter(
    (p) => from.value[p.source] && (!w || `${p.title} ${p.address} ${p.from}`.toLowerCase().includes(w)),
  )
})
const picked = ref<Piece | null>(null)
const use = useUsePiece(props.site, () => props.page, props.acts)
watch(
  () => (use.asked.value.length ? (use.waiting()?.title ?? "") : ""),
  (title) => (waits.value = title),
)
type Place = "before" | "after" | "inside"
async function put(p: Piece, e: Element | undefined, place: Place) {
  stop()
  if (e) props.acts.chooseBeside(e, place)
  if (p.from) await use.use(p, e ? { beside: e.path, place } : {})
  else if (e)
    await props.acts.run([props.acts.at(e, "show", { item: p.address, place })], `${p.title} is on the page`)
}
function pick(p: Piece) {
  picked.value = p
  props.acts.placeAt((e, place) => void put(p, e, place))
  placing.value = true
}
function stop() {
  picked.value = null
  placing.value = false
  props.acts.placeAt(null)
}
const beside = () => (props.chosen?.whole ? props.chosen : props.acts.lastBlock())
const end = () => {
  const last = props.acts.lastBlock()
  return { e: last, place: (last?.tag === "main" ? "inside" : "after") as Place }
}
watch(open, (o) => !o && stop())
const sources = [
  ["library", "Library"],
  ["kits", "Kits"],
  ["site", "This site"],
] as const
const origin = (p: Piece) =>
  p.from.startsWith("kit ") ? p.from.slice(4).replace("@", " ") : p.from || "this site"
</script>

<template>
  <section class="border-t border-hair bg-sheet" aria-label="Use a piece here" data-shelf>
    <div class="flex flex-wrap items-center gap-3 px-3 py-1.5">
      <button
        type="button"
        class="btn-quiet min-h-9 px-3 py-1 text-sm"
        :aria-expanded="open"
        @click="open = !open"
      >
        <PlusIcon class="size-4" aria-hidden="true" />Use a piece here
      </button>
      <template v-if="open">
        <input
          v-model="words"
          type="search"
          class="field min-h-9 w-56 py-1"
          placeholder="Search the shelf"
          aria-label="Search the shelf"
        />
        <label v-for="[s, says] in sources" :key="s" class="flex items-center gap-1.5 text-sm"
          ><input v-model="from[s]" type="checkbox" />{{ says }}</label
        >
        <EmptyElements
          :acts="acts"
          :site="site"
          :draft="draft"
          :beside="beside"
          @insert="(e) => acts.chooseBeside(e, e.tag === 'main' ? 'inside' : 'after')"
        />
      </template>
    </div>
    <p v-if="picked" class="flex flex-wrap items-center gap-2 bg-calm-soft px-3 py-1.5 text-sm" role="status">
      <span
        >Where does <b>{{ picked.title }}</b> come to stand? Point at a green mark on the page, or:</span
      >
      <button
        v-if="chosen?.whole"
        type="button"
        class="btn-quiet px-2 py-0.5"
        @click="put(picked, chosen, 'before')"
      >
        before {{ acts.outline.called(chosen) }}
      </button>
      <button
        v-if="chosen?.whole"
        type="button"
        class="btn-quiet px-2 py-0.5"
        @click="put(picked, chosen, 'after')"
      >
        after {{ acts.outline.called(chosen) }}
      </button>
      <button
        type="button"
        class="btn-quiet px-2 py-0.5"
        data-at-end
        @click="put(picked, end().e, end().place)"
      >
        at the end of the page
      </button>
      <button type="button" class="link" @click="stop">Cancel</button>
    </p>
    <ShelfQuestions
      v-if="use.asked.value.length"
      :asked="use.asked.value"
      :busy="use.busy.value"
      @answer="use.answer"
      @cancel="use.cancel"
    />
    <ul v-if="open" class="flex gap-3 overflow-x-auto px-3 pb-3" aria-label="Pieces">
      <li v-for="p in pieces.slice(0, 120)" :key="p.from + p.address" class="w-40 shrink-0">
        <button
          type="button"
          class="sheet block w-full overflow-hidden text-left hover:border-ink"
          :class="picked === p && 'border-ink ring-2 ring-ink'"
          :data-piece="`${p.from} ${p.address}`"
          draggable="true"
          @dragstart="pick(p)"
          @click="pick(p)"
        >
          <PieceThumb :src="p.preview" :title="p.title" />
          <span class="block px-2 py-1 text-sm leading-tight"
            ><b class="block truncate">{{ p.title }}</b
            ><span class="block truncate text-faded"
              >{{ kindWords[p.address.split("/")[0]] }}, {{ origin(p) }}</span
            ></span
          >
        </button>
      </li>
      <li v-if="!pieces.length" class="py-4 text-faded">
        Nothing on the shelf fits. Look for other words, or tick more.
      </li>
    </ul>
  </section>
</template>
