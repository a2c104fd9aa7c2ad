<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import PieceThumb from "./PieceThumb.vue"
import ShelfQuestions from "./edit/ShelfQuestions.vue"
import { useBringing } from "../composables/useBringing"
import { useKit, useKits } from "../composables/useKits"
import { alone, titleOf } from "../composables/format"
import type { useSiteEdits } from "../composables/useSiteEdits"
import type { Schemas } from "../api/client"

// Several pages of a kit at once: ticked, with the titles and addresses that they get here, in one act.
const props = defineProps<{
  site: string
  menus: Schemas["Item"][]
  pages: Schemas["Item"][]
  edits: ReturnType<typeof useSiteEdits>
}>()
const emit = defineEmits<{ done: [] }>()
const kits = useKits()
const sealed = computed(() => {
  const seen = new Set<string>()
  return (kits.data.value?.kits ?? []).filter(
    (k) => k.state === "sealed" && !seen.has(k.name) && seen.add(k.name),
  )
})
const chosen = ref("")
const name = computed(() => chosen.value.split("@")[0] ?? "")
const version = computed(() => chosen.value.split("@")[1] ?? "")
const { kit } = useKit(name, version)
interface Row {
  address: string
  comes: boolean
  title: string
  path: string
}
const rows = ref<Row[]>([])
watch(
  () => kit.data.value?.value,
  (k) => {
    rows.value = (k?.items ?? [])
      .filter((i) => i.address.startsWith("page/"))
      .map((i) => ({
        address: i.address,
        comes: false,
        title: i.title ?? "",
        path: i.slug ?? `/${i.address.slice(5)}/`,
      }))
  },
)
const ticked = computed(() => rows.value.filter((r) => r.comes))
const there = (path: string) => props.pages.find((p) => p.meta.slug === path)?.meta.title
const menu = ref("")
const bringing = useBringing(toRef(props, "site"), props.edits)
const bring = () =>
  bringing.bring(
    {
      from: `kit ${chosen.value}`,
      pages: ticked.value.map((r) => ({ piece: r.address, title: r.title.trim(), path: r.path.trim() })),
      menu: menu.value || undefined,
    },
    () => emit("done"),
  )
</script>

<template>
  <form class="sheet mt-3 p-4" data-kit-pages @submit.prevent="bring">
    <label class="label" for="pages-of-kit">Pages of</label>
    <select id="pages-of-kit" v-model="chosen" class="field max-w-sm">
      <option value="">{{ sealed.length ? "Choose a kit…" : "There is no sealed kit yet." }}</option>
      <option v-for="k in sealed" :key="k.name" :value="`${k.name}@${k.version}`">
        {{ k.title || k.name }} {{ k.version }}
      </option>
    </select>
    <ShelfQuestions
      v-if="bringing.asked.value.length"
      class="mt-3"
      :asked="bringing.asked.value"
      :busy="edits.busy.value"
      @answer="bringing.answer"
      @cancel="bringing.cancel"
    />
    <p v-if="chosen && kit.data.value && !rows.length" class="mt-2 text-faded">It holds no page.</p>
    <ul v-if="rows.length" class="mt-3 divide-y divide-hair">
      <li v-for="r in rows" :key="r.address" class="flex flex-wrap items-center gap-3 py-2">
        <label class="flex items-center gap-3"
          ><input v-model="r.comes" type="checkbox" :data-comes="r.address" /><span class="sr-only">{{
            r.title || r.address
          }}</span>
          <PieceThumb
            v-if="kit.data.value"
            bare
            class="w-24 shrink-0"
            :src="alone(kit.data.value.value.preview, r.address)"
            :title="r.title || r.address"
          />
        </label>
        <span class="grid min-w-0 flex-1 gap-2 sm:grid-cols-2">
          <input v-model="r.title" class="field" :aria-label="`Title of the page ${r.address.slice(5)}`" />
          <input
            v-model="r.path"
            class="field addr"
            :aria-label="`Address of the page ${r.address.slice(5)}`"
          />
          <span v-if="r.comes && there(r.path)" class="text-sm text-amber sm:col-span-2"
            >“{{ there(r.path) }}” is at this address: give it another, or you are asked.</span
          >
        </span>
      </li>
    </ul>
    <div v-if="rows.length" class="mt-3 flex flex-wrap items-end gap-3">
      <div v-if="menus.length">
        <label class="label" for="menu-takes">Entries for them in</label>
        <select id="menu-takes" v-model="menu" class="field w-56">
          <option value="">no menu</option>
          <option v-for="m in menus" :key="m.address" :value="m.address">
            {{ titleOf(m) }}
          </option>
        </select>
      </div>
      <button class="btn" :disabled="!ticked.length || edits.busy.value" data-bring>
        {{ ticked.length === 1 ? "Bring the page" : `Bring ${ticked.length || "the"} pages` }}
      </button>
      <p class="w-full text-sm text-faded">
        What they lean on comes along. It is one step in your draft: Undo takes all of it back.
      </p>
    </div>
  </form>
</template>
