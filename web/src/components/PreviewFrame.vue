<script setup lang="ts">
import { ref } from "vue"
import {
  ComputerDesktopIcon,
  DeviceTabletIcon,
  DevicePhoneMobileIcon,
  ArrowTopRightOnSquareIcon,
} from "@heroicons/vue/24/outline"

defineProps<{ src: string; title: string; tall?: boolean }>()
const widths = [
  { px: 390, label: "Narrow", icon: DevicePhoneMobileIcon },
  { px: 768, label: "Middle", icon: DeviceTabletIcon },
  { px: 1280, label: "Wide", icon: ComputerDesktopIcon },
]
const width = ref(1280)
const box = ref<HTMLElement>()
const scale = () => Math.min(1, (box.value?.clientWidth ?? width.value) / width.value)
const shown = ref(1)
const fit = () => {
  shown.value = scale()
}
const watch = new ResizeObserver(fit)
function mounted(el: unknown) {
  if (el instanceof HTMLElement && el !== box.value) {
    box.value = el
    watch.observe(el)
    fit()
  }
}
function choose(px: number) {
  width.value = px
  requestAnimationFrame(fit)
}
</script>

<template>
  <figure>
    <figcaption class="mb-2 flex flex-wrap items-center justify-between gap-2">
      <span class="font-semibold">{{ title }}</span>
      <span class="flex flex-wrap items-center gap-1">
        <button
          v-for="w in widths"
          :key="w.px"
          type="button"
          class="flex items-center gap-1 rounded-md border px-2 py-1 text-sm"
          :class="
            width === w.px
              ? 'border-ink bg-sheet font-semibold'
              : 'border-transparent text-faded hover:border-hair'
          "
          :aria-pressed="width === w.px"
          @click="choose(w.px)"
        >
          <component :is="w.icon" class="size-4" aria-hidden="true" />{{ w.label }}
          <span class="tabular-nums">{{ w.px }}</span>
        </button>
        <a :href="src" target="_blank" rel="noopener" class="flex items-center gap-1 px-2 py-1 text-sm link"
          ><ArrowTopRightOnSquareIcon class="size-4" aria-hidden="true" />Open</a
        >
      </span>
    </figcaption>
    <div
      :ref="mounted"
      class="overflow-hidden rounded-md border border-hair bg-white"
      :style="{ height: `${(tall ? 760 : 560) * Math.max(shown, 0.55)}px` }"
    >
      <iframe
        :src="src"
        sandbox="allow-scripts allow-same-origin allow-forms"
        referrerpolicy="no-referrer"
        :title="title"
        class="border-0 origin-top-left"
        :style="{
          width: `${width}px`,
          height: `${((tall ? 760 : 560) * Math.max(shown, 0.55)) / shown}px`,
          transform: `scale(${shown})`,
          marginLeft: shown === 1 ? 'auto' : '0',
          marginRight: 'auto',
          display: 'block',
        }"
      />
    </div>
  </figure>
</template>
