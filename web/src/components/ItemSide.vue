<script setup lang="ts">
import { computed } from "vue"
import PieceThumb from "./PieceThumb.vue"
import { weight } from "../composables/format"

const props = defineProps<{
  whose: string
  none: string
  address: string
  picture: string
  content?: string
  bytes?: number
}>()
type Entry = { label: string; to: string; entries?: Entry[] }
// A menu is shown as the links it holds; its text is one click away.
const entries = computed<Entry[]>(() => {
  if (!props.address.startsWith("menu/") || !props.content) return []
  try {
    return (JSON.parse(props.content) as { entries?: Entry[] }).entries ?? []
  } catch {
    return []
  }
})
</script>

<template>
  <div class="sheet min-w-0 overflow-hidden">
    <PieceThumb v-if="picture" :src="picture" :title="`${whose} ${address}`" />
    <p class="px-4 py-2.5">
      <b>{{ whose }}</b>
      <template v-if="address"
        ><span class="addr break-all">{{ address }}</span
        ><template v-if="bytes">, {{ weight(bytes) }}</template></template
      ><span v-else class="text-faded">{{ none }}</span>
    </p>
    <ul v-if="entries.length" class="border-t border-hair px-4 py-2">
      <li v-for="e in entries" :key="e.label + e.to">
        {{ e.label }} <span class="text-faded">{{ e.to }}</span>
      </li>
    </ul>
    <details v-if="content" class="border-t border-hair">
      <summary class="px-4 py-2 text-faded">Show the text</summary>
      <pre class="max-h-56 overflow-auto px-4 pb-3 text-sm">{{ content }}</pre>
    </details>
  </div>
</template>
