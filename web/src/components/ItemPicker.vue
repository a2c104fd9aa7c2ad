<script setup lang="ts">
import { computed, ref } from "vue"
import { useQuery } from "@tanstack/vue-query"
import { api, result } from "../api/client"
import { useItems } from "../composables/useItems"
import { useKits } from "../composables/useKits"
import PieceThumb from "./PieceThumb.vue"
import ElementPick from "./ElementPick.vue"
import { useSites } from "../composables/useSites"
import { alone, pagesFirst } from "../composables/format"
import type { Schemas } from "../api/client"

/** Items of one source, to be added to a kit one by one, all of a sort, or an element of one. */
const props = defineProps<{ picks: Schemas["Pick"][] }>()
const emit = defineEmits<{
  add: [pick: Schemas["Pick"]]
  exclude: [address: string]
  placed: [site: string]
  styles: [from: string]
}>()
const sites = useSites()
const from = ref(props.picks.at(-1)?.from ?? "library")
const find = ref("")
const kits = useKits()
const sealed = computed(() => (kits.data.value?.kits ?? []).filter((k) => k.state === "sealed"))
const ofKit = computed(() => (from.value.startsWith("kit ") ? from.value.slice(4).split("@") : ["", ""]))
const site = computed(() => (ofKit.value[0] ? "" : from.value))
const items = useItems(site)
const inKit = useQuery({
  queryKey: computed(() => ["kit-items", ...ofKit.value]),
  queryFn: () =>
    result(
      api.GET("/api/v1/kits/{kit}/{version}", {
        params: { path: { kit: ofKit.value[0], version: ofKit.value[1] } },
      }),
    ),
  enabled: computed(() => ofKit.value[0] !== ""),
})
/** What there is to pick from, wherever it is. */
const all = computed(() =>
  ofKit.value[0]
    ? (inKit.data.value?.items ?? []).map((i) => ({ address: i.address, title: i.title ?? "" }))
    : (items.data.value?.items ?? []).map((i) => ({ address: i.address, title: i.meta.title ?? "" })),
)
const origin = computed(() => (ofKit.value[0] ? inKit.data.value?.preview : items.data.value?.preview) ?? "")
const known = computed(() => (ofKit.value[0] ? inKit.data.value : items.data.value) !== undefined)
const whole = [
  "page",
  "section",
  "block",
  "part",
  "stylesheet",
  "tokens",
  "menu",
  "form",
  "record-type",
  "component",
  "media",
]
const shown = computed(() =>
  pagesFirst(
    all.value.filter(
      (i) =>
        whole.includes(i.address.split("/")[0]) &&
        `${i.address} ${i.title}`.toLowerCase().includes(find.value.toLowerCase()),
    ),
  ),
)
const picked = (address: string) =>
  props.picks.some((p) => p.from === from.value && p.address === address && !p.element)
const pickable = (a: string) => ["page", "section", "part", "block"].includes(a.split("/")[0])
function toggle(address: string) {
  if (picked(address)) emit("exclude", address)
  else emit("add", { from: from.value, address })
}
</script>

<template>
  <div class="sheet">
    <div class="flex flex-wrap gap-3 border-b border-hair p-4">
      <select v-model="from" class="field max-w-56" aria-label="From">
        <option value="library">the library</option>
        <option v-for="s in sites.data.value?.sites ?? []" :key="s.name" :value="s.name">
          {{ s.title || s.name }}
        </option>
        <optgroup v-if="sealed.length" label="Kits">
          <option v-for="k in sealed" :key="k.name + k.version" :value="`kit ${k.name}@${k.version}`">
            {{ k.name }} {{ k.version }}
          </option>
        </optgroup>
      </select>
      <input
        v-model="find"
        type="search"
        class="field max-w-56"
        placeholder="Find"
        aria-label="Find an item"
      />
      <button v-if="from !== 'library' && !ofKit[0]" class="link text-sm" @click="emit('placed', from)">
        All placed parts
      </button>
      <button class="link text-sm" @click="emit('styles', from)">All styles</button>
    </div>
    <p v-if="known && !shown.length" class="p-4 text-faded">Nothing here{{ find ? " matches" : "" }}.</p>
    <ul class="max-h-[30rem] divide-y divide-hair overflow-y-auto">
      <li v-for="i in shown" :key="i.address" class="flex items-center pr-4">
        <label class="flex min-w-0 flex-1 cursor-pointer items-center gap-3 px-4 py-2 hover:bg-paper"
          ><input
            type="checkbox"
            class="size-4"
            :checked="picked(i.address)"
            :data-pick="i.address"
            @change="toggle(i.address)"
          /><PieceThumb
            v-if="pickable(i.address) && origin"
            bare
            class="w-16 shrink-0"
            :src="alone(origin, i.address)"
            :title="i.title || i.address"
          /><span class="min-w-0"
            ><span class="block truncate">{{ i.title || i.address }}</span
            ><span class="addr text-faded">{{ i.address }}</span></span
          ></label
        >
        <ElementPick
          v-if="pickable(i.address) && origin"
          :from="from"
          :address="i.address"
          :origin="origin"
          @add="(p) => emit('add', p)"
        />
      </li>
    </ul>
    <ul v-if="picks.some((p) => p.element)" class="divide-y divide-hair border-t border-hair">
      <li v-for="p in picks.filter((p) => p.element)" :key="p.as" class="flex items-baseline gap-3 px-4 py-2">
        <span class="min-w-0 flex-1"
          ><span class="addr font-semibold">{{ p.as }}</span
          ><br /><span class="text-sm text-faded">an element of {{ p.address }}, {{ p.from }}</span></span
        ><button class="link text-sm" @click="emit('exclude', p.as!)">Remove</button>
      </li>
    </ul>
  </div>
</template>
