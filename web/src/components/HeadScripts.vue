<script setup lang="ts">
import { computed } from "vue"
import { Switch } from "@headlessui/vue"
import type { Schemas } from "../api/client"

/** The scripts in the heads of a site's pages, and which may travel in kits. */
const text = defineModel<string>({ required: true })
defineProps<{ locked: boolean }>()
const list = computed<Schemas["HeadScript"][]>(() => {
  try {
    const l = JSON.parse(text.value)
    return Array.isArray(l) ? l : []
  } catch {
    return []
  }
})
const allow = (n: number, portable: boolean) => {
  text.value = JSON.stringify(list.value.map((h, i) => (i === n ? { ...h, portable } : h)))
}
</script>

<template>
  <p class="mb-3 max-w-[70ch] text-faded">
    Scripts in the head of a page belong to its site: a counter, for example, or a consent box. A packed page
    leaves them behind unless they may travel.
  </p>
  <p v-if="!list.length" class="text-faded">No page has a script in its head.</p>
  <ul v-else class="sheet mb-4 divide-y divide-hair">
    <li
      v-for="(h, n) in list"
      :key="h.script"
      class="flex flex-wrap items-center justify-between gap-4 px-4 py-3"
    >
      <span class="min-w-0"
        ><span class="addr break-all">{{ h.script }}</span>
        <code v-if="h.begins" class="addr text-faded">{{ h.begins }}</code>
        <span class="text-faded">in {{ h.pages }} {{ h.pages === 1 ? "page" : "pages" }}</span></span
      >
      <span class="flex items-center gap-3 text-sm"
        ><span class="text-faded">{{ h.portable ? "May travel in kits" : "Stays with the site" }}</span>
        <Switch
          :model-value="h.portable"
          :disabled="locked"
          class="relative h-6 w-11 rounded-full border border-hair"
          :class="h.portable ? 'bg-ink' : 'bg-paper'"
          @update:model-value="(v: boolean) => allow(n, v)"
        >
          <span class="sr-only">{{ h.script }} may travel in kits</span
          ><span
            class="block h-4 w-4 rounded-full transition-transform"
            :class="h.portable ? 'translate-x-6 bg-paper' : 'translate-x-1 bg-faded'" /></Switch
      ></span>
    </li>
  </ul>
</template>
