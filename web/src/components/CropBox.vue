<script setup lang="ts">
import { computed, ref } from "vue"
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue"
import { between, within, type Area } from "../composables/area"

// What is left of a picture: drawn on it with the pointer, or given in pixels.
const props = defineProps<{ name: string; source: string; says: string; busy: boolean }>()
const emit = defineEmits<{ crop: [area: Area]; close: [] }>()
const size = ref({ width: 0, height: 0 })
const area = ref<Area>({ left: 0, top: 0, width: 1, height: 1 })
function loaded(e: Event) {
  const i = e.target as HTMLImageElement
  size.value = { width: i.naturalWidth, height: i.naturalHeight }
  area.value = { left: 0, top: 0, ...size.value }
}
let from: { x: number; y: number } | null = null
const at = (e: PointerEvent) => {
  const r = (e.currentTarget as HTMLElement).getBoundingClientRect()
  return { x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / r.height }
}
function begin(e: PointerEvent) {
  from = at(e)
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
}
const draw = (e: PointerEvent) => {
  if (from) area.value = between(from, at(e), size.value.width, size.value.height)
}
const set = (side: keyof Area, value: string) => {
  area.value = within({ ...area.value, [side]: Number(value) }, size.value.width, size.value.height)
}
const share = (n: number, of: number) => `${of ? (n / of) * 100 : 0}%`
const box = computed(() => ({
  left: share(area.value.left, size.value.width),
  top: share(area.value.top, size.value.height),
  width: share(area.value.width, size.value.width),
  height: share(area.value.height, size.value.height),
}))
const whole = computed(() => area.value.width === size.value.width && area.value.height === size.value.height)
const sides: [keyof Area, string][] = [
  ["left", "From the left"],
  ["top", "From the top"],
  ["width", "Width"],
  ["height", "Height"],
]
</script>

<template>
  <Dialog :open="true" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-ink/40" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center overflow-y-auto p-4">
      <DialogPanel class="sheet w-full max-w-2xl p-5" data-crop>
        <DialogTitle class="mb-3 text-lg font-semibold">What is left of {{ props.name }}</DialogTitle>
        <div class="mb-4 grid place-items-center bg-paper">
          <div
            class="relative inline-block cursor-crosshair touch-none overflow-hidden select-none"
            @pointerdown="begin"
            @pointermove="draw"
            @pointerup="from = null"
            @pointercancel="from = null"
          >
            <img
              :src="source"
              :alt="name"
              class="pointer-events-none block max-h-[50vh] max-w-full"
              draggable="false"
              @load="loaded"
            />
            <span
              class="pointer-events-none absolute border-2 border-white shadow-[0_0_0_9999px_rgb(20_30_50/55%)]"
              :style="box"
              aria-hidden="true"
            />
          </div>
        </div>
        <div class="mb-4 grid grid-cols-2 gap-3 sm:grid-cols-4">
          <label v-for="[side, called] in sides" :key="side" class="text-sm"
            >{{ called }}, px
            <input
              type="number"
              min="0"
              class="field tabular-nums"
              :value="area[side]"
              :data-side="side"
              @change="set(side, ($event.target as HTMLInputElement).value)"
            />
          </label>
        </div>
        <p class="mb-4 text-faded">{{ says }}</p>
        <div class="flex gap-3">
          <button type="button" class="btn" :disabled="busy || whole" @click="emit('crop', area)">
            Crop to {{ area.width }} × {{ area.height }} px
          </button>
          <button type="button" class="btn-quiet" @click="emit('close')">Cancel</button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
