<script setup lang="ts">
import { computed, ref } from "vue"
import { useItems } from "../composables/useItems"
import { useSites } from "../composables/useSites"
import type { Schemas } from "../api/client"

const props = defineProps<{ picks: Schemas["Pick"][] }>()
const emit = defineEmits<{ put: [pick: Schemas["Pick"]]; leave: [address: string] }>()
const sites = useSites()
const from = ref("library")
const find = ref("")
const items = useItems(from)
const whole = ["page", "section", "block", "part", "stylesheet", "tokens", "menu", "form", "record-type", "component", "media"]
const shown = computed(() => (items.data.value?.items ?? []).filter((i) => whole.includes(i.address.split("/")[0]) && `${i.address} ${i.meta.title ?? ""}`.toLowerCase().includes(find.value.toLowerCase())))
const picked = (address: string) => props.picks.some((p) => p.from === from.value && p.address === address)
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
    </div>
    <p v-if="items.data.value && !shown.length" class="p-4 text-faded">Nothing here{{ find ? " fits" : "" }}.</p>
    <ul class="max-h-[30rem] divide-y divide-hair overflow-y-auto">
      <li v-for="i in shown" :key="i.address">
        <label class="flex cursor-pointer items-center gap-3 px-4 py-2 hover:bg-paper"><input type="checkbox" class="size-4" :checked="picked(i.address)" :data-pick="i.address" @change="toggle(i.address)"><span class="min-w-0"><span class="block truncate">{{ i.meta.title || i.address }}</span><span class="addr text-faded">{{ i.address }}</span></span></label>
      </li>
    </ul>
  </div>
</template>
