<script setup lang="ts">
import { computed } from "vue"
import {
  ArrowDownIcon,
  ArrowLeftIcon,
  ArrowRightIcon,
  ArrowUpIcon,
  TrashIcon,
} from "@heroicons/vue/24/outline"
import type { EntryRow } from "./menu"

const props = defineProps<{ row: EntryRow }>()
const emit = defineEmits<{
  change: [to: { label?: string; value?: string }]
  earlier: []
  later: []
  within: []
  outside: []
  remove: []
  dragstart: []
  drop: []
}>()
const first = computed(() => props.row.index === 0)
const last = computed(() => props.row.index + 1 === props.row.of)
const acts = computed(() => [
  { says: "earlier", icon: ArrowUpIcon, off: first.value, act: () => emit("earlier") },
  { says: "later", icon: ArrowDownIcon, off: last.value, act: () => emit("later") },
  { says: "below the one before", icon: ArrowRightIcon, off: first.value, act: () => emit("within") },
  { says: "one level up", icon: ArrowLeftIcon, off: !props.row.depth, act: () => emit("outside") },
  { says: "remove", icon: TrashIcon, off: false, act: () => emit("remove") },
])
function keys(ev: KeyboardEvent) {
  if (!ev.altKey) return
  if (ev.key === "ArrowUp" && !first.value) {
    ev.preventDefault()
    emit("earlier")
  }
  if (ev.key === "ArrowDown" && !last.value) {
    ev.preventDefault()
    emit("later")
  }
}
const valueOf = (ev: Event) => (ev.target as HTMLInputElement).value
</script>

<template>
  <!-- eslint-disable-next-line vuejs-accessibility/no-static-element-interactions -- the buttons do the same -->
  <li
    class="rounded border border-hair bg-white p-1.5"
    :style="{ marginLeft: `${row.depth}rem` }"
    draggable="true"
    :data-entry="row.place"
    @dragstart="emit('dragstart')"
    @dragover.prevent
    @drop="emit('drop')"
  >
    <input
      class="w-full rounded border border-faded/60 px-1.5 py-1"
      :value="row.label"
      :aria-label="`Words of entry ${row.place}`"
      @keydown="keys"
      @change="emit('change', { label: valueOf($event) })"
    />
    <div class="mt-1 flex items-center gap-0.5">
      <input
        class="min-w-0 flex-1 rounded border border-faded/60 px-1.5 py-0.5 text-sm"
        :value="row.to"
        list="menu-targets"
        :aria-label="`Where entry ${row.place} leads`"
        @change="emit('change', { value: valueOf($event) })"
      />
      <button
        v-for="a in acts"
        :key="a.says"
        type="button"
        class="min-h-6 min-w-6 p-1 disabled:opacity-30"
        :disabled="a.off"
        :aria-label="`${row.label}: ${a.says}`"
        :title="a.says"
        @click="a.act()"
      >
        <component :is="a.icon" class="size-4" aria-hidden="true" />
      </button>
    </div>
  </li>
</template>
