<script setup lang="ts">
import { computed, ref } from "vue"
import { useItems } from "../composables/useItems"
import ElementPick from "./ElementPick.vue"
import { useSites } from "../composables/useSites"
import type { Schemas } from "../api/client"

/** Items of one source, to be put into a kit one by one, all of a sort, or an element of one. */
const props = defineProps<{ picks: Schemas["Pick"][] }>()
const emit = defineEmits<{ put: [pick: Schemas["Pick"]]; leave: [address: string]; placed: [site: string]; styles: [from: string] }>()
const sites = useSites()
const from = ref(props.picks.at(-1)?.from ?? "library")
const find = ref("")
const items = useItems(from)
const whole = ["page", "section", "block", "part", "stylesheet", "tokens", "menu", "form", "record-type", "component", "media"]
const shown = computed(() => (items.data.value?.items ?? []).filter((i) => whole.includes(i.address.split("/")[0]) && `${i.address} ${i.meta.title ?? ""}`.toLowerCase().includes(find.value.toLowerCase())))
const picked = (address: string) => props.picks.some((p) => p.from === from.value && p.address === address && !p.element)
const pickable = (a: string) => ["page", "section", "part", "block"].includes(a.split("/")[0])
function toggle(address: string) {
  if (picked(address)) emit("leave", address)
  else emit("put", { from: from.value, address })
}
</script>

<template>
  <div class="sheet">
    <div class="flex flex-wrap gap-3 border-b border-hair p-4">
      <select v-model="from" class="field max-w-56" aria-label="From"><option value="library">the library</option><option v-for="s in sites.data.value?.sites ?? []" :key="s.name" :value="s.name">{{ s.name }}</option></select>
      <input v-model="find" type="search" class="field max-w-56" placeholder="Find" aria-label="Find an item">
      <button v-if="from !== 'library'" class="link text-sm" @click="emit('placed', from)">All placed parts</button>
      <button class="link text-sm" @click="emit('styles', from)">All styles</button>
    </div>
    <p v-if="items.data.value && !shown.length" class="p-4 text-faded">Nothing here{{ find ? " fits" : "" }}.</p>
    <ul class="max-h-[30rem] divide-y divide-hair overflow-y-auto">
      <li v-for="i in shown" :key="i.address" class="flex items-center pr-4">
        <label class="flex min-w-0 flex-1 cursor-pointer items-center gap-3 px-4 py-2 hover:bg-paper"><input type="checkbox" class="size-4" :checked="picked(i.address)" :data-pick="i.address" @change="toggle(i.address)"><span class="min-w-0"><span class="block truncate">{{ i.meta.title || i.address }}</span><span class="addr text-faded">{{ i.address }}</span></span></label>
        <ElementPick v-if="pickable(i.address) && items.data.value" :from="from" :address="i.address" :origin="items.data.value.preview" @put="(p) => emit('put', p)" />
      </li>
    </ul>
    <ul v-if="picks.some((p) => p.element)" class="divide-y divide-hair border-t border-hair"><li v-for="p in picks.filter((p) => p.element)" :key="p.as" class="flex items-baseline gap-3 px-4 py-2"><span class="min-w-0 flex-1"><span class="addr font-semibold">{{ p.as }}</span><br><span class="text-sm text-faded">an element of {{ p.address }}, {{ p.from }}</span></span><button class="link text-sm" @click="emit('leave', p.as!)">Take it out</button></li></ul>
  </div>
</template>
