<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useItems } from "../../composables/useItems"
import { isPicture } from "../../composables/format"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// Elements that are put in without having been made before. Most begin with words to write over.
const props = defineProps<{
  site: string
  draft: number | null
  acts: PageActs
  beside: () => Element | undefined
}>()
const emit = defineEmits<{ insert: [e: Element] }>()
const items = useItems(toRef(props, "site"), toRef(props, "draft"))
const of = (kind: string) => (items.data.value?.items ?? []).filter((i) => i.address.startsWith(kind + "/"))
interface Kind {
  property: string
  says: string
  value?: string
  label?: string
  asks?: string
  choose?: () => string[]
}
const kinds: Kind[] = [
  { property: "heading", says: "Heading", value: "A new heading" },
  { property: "text", says: "Text", value: "New words" },
  {
    property: "picture",
    says: "Picture",
    choose: () =>
      of("media")
        .map((i) => i.address)
        .filter(isPicture),
  },
  { property: "button", says: "Button", value: "A button", label: "/" },
  { property: "list", says: "List", value: "First entry\nSecond entry" },
  { property: "columns", says: "Columns", value: "2" },
  { property: "video", says: "Video", asks: "Its address, which begins with https://" },
  { property: "map", says: "Map", asks: "Its address, which begins with https://" },
  { property: "questions", says: "Folding question", value: "A question?" },
  { property: "number", says: "Counting number", value: "100" },
  {
    property: "records",
    says: "List of records",
    choose: () => of("record-type").map((i) => i.address.slice(12)),
  },
  { property: "search", says: "Search", value: "search" },
  { property: "profiles", says: "Social links", value: "profiles" },
  { property: "menu", says: "Menu", choose: () => of("menu").map((i) => i.address.slice(5)) },
  { property: "form", says: "Form", choose: () => of("form").map((i) => i.address.slice(5)) },
  { property: "line", says: "Line", value: "line" },
  { property: "space", says: "Space", value: "space" },
]
const chosen = ref("")
const value = ref("")
const kind = computed(() => kinds.find((k) => k.property === chosen.value))
const choices = computed(() => kind.value?.choose?.() ?? [])
const ready = computed(() => kind.value && (kind.value.value || value.value))
function insert() {
  const e = props.beside()
  const k = kind.value
  if (!e || !k) return
  const place = e.tag === "main" ? "inside" : "after"
  emit("insert", e)
  void props.acts.run(
    [
      props.acts.at(e, "empty", {
        place,
        property: k.property,
        value: k.value ?? value.value,
        label: k.label,
      }),
    ],
    `${k.says} was put in`,
  )
  chosen.value = value.value = ""
}
</script>

<template>
  <form class="flex items-center gap-1" aria-label="Put in an empty element" @submit.prevent="insert">
    <select v-model="chosen" class="field min-h-9 w-52 py-1" aria-label="Empty element" data-empty>
      <option value="">Or something new…</option>
      <option v-for="k in kinds" :key="k.property" :value="k.property">{{ k.says }}</option>
    </select>
    <select
      v-if="kind?.choose"
      v-model="value"
      class="field min-h-9 w-40 py-1"
      :aria-label="`Which ${kind.says}`"
    >
      <option v-for="c in choices" :key="c" :value="c">{{ c.replace(/^media\//, "") }}</option>
    </select>
    <input
      v-else-if="kind?.asks"
      v-model="value"
      class="field min-h-9 w-64 py-1"
      :placeholder="kind.asks"
      :aria-label="kind.asks"
    />
    <button class="btn-quiet min-h-9 px-3 py-1 text-sm" :disabled="!ready" data-put-in>Put in</button>
  </form>
</template>
