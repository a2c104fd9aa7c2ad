<script setup lang="ts">
import { computed, ref } from "vue"
import type { Schemas } from "../api/client"
import { weight } from "../composables/format"
import { box, layers, type Edge, type Node } from "../composables/layers"

/** What comes along and why, drawn: columns by kind, a line from what leans to what it leans on. */
const props = defineProps<{ kit: Schemas["Kit"] }>()
const graph = computed(() => layers(props.kit))
const at = ref<string>("")
const hot = computed(() => {
  const list = new Set<string>(at.value ? [at.value] : [])
  for (const e of graph.value.edges) {
    if (e.from.id === at.value) list.add(e.to.id)
    if (e.to.id === at.value) list.add(e.from.id)
  }
  return list
})
const lit = (e: Edge) => e.from.id === at.value || e.to.id === at.value
const says = computed(() =>
  graph.value.edges
    .filter(lit)
    .map((e) => `${e.from.id} ${e.why}${e.from.id === at.value ? `: ${e.to.id}` : ""}`),
)
function way(e: Edge) {
  const y1 = e.from.y + box.height / 2
  const y2 = e.to.y + box.height / 2
  if (e.from.x === e.to.x) {
    // within a column: round its right side
    const x = e.from.x + box.width
    return `M ${x} ${y1} C ${x + 34} ${y1}, ${x + 34} ${y2}, ${x} ${y2}`
  }
  const forth = e.to.x > e.from.x
  const x1 = e.from.x + (forth ? box.width : 0)
  const x2 = e.to.x + (forth ? 0 : box.width)
  const bend = Math.max(26, Math.abs(x2 - x1) / 2) * (forth ? 1 : -1)
  return `M ${x1} ${y1} C ${x1 + bend} ${y1}, ${x2 - bend} ${y2}, ${x2} ${y2}`
}
const short = (n: Node) => (n.id.length > 22 ? n.id.slice(0, 10) + "…" + n.id.slice(-11) : n.id)
const tone = (n: Node) =>
  n.need ? "fill-amber-soft stroke-amber" : n.picked ? "fill-ink stroke-ink" : "fill-sheet stroke-hair"
</script>

<template>
  <div class="sheet overflow-x-auto p-5">
    <svg
      :viewBox="`-4 0 ${graph.width + 44} ${graph.height + 8}`"
      :style="{ minWidth: `${graph.width * 0.8}px` }"
      class="block w-full"
      role="group"
      aria-label="What comes along and why"
    >
      <text
        v-for="h in graph.heads"
        :key="h.says"
        :x="h.x"
        y="14"
        class="fill-faded text-[13px] font-semibold"
      >
        {{ h.says }}
      </text>
      <path
        v-for="(e, n) in graph.edges"
        :key="n"
        :d="way(e)"
        fill="none"
        :class="lit(e) ? 'stroke-call' : 'stroke-faded'"
        :stroke-width="lit(e) ? 2 : 1.1"
        :opacity="at && !lit(e) ? 0.12 : lit(e) ? 1 : 0.4"
        :stroke-dasharray="e.to.need ? '4 3' : undefined"
      />
      <g
        v-for="n in graph.nodes"
        :key="n.id"
        tabindex="0"
        role="button"
        class="cursor-pointer outline-none"
        :aria-label="`${n.id}, ${n.need || (n.picked ? 'you added it' : 'comes along')}`"
        :opacity="at && !hot.has(n.id) ? 0.35 : 1"
        @mouseenter="at = n.id"
        @mouseleave="at = ''"
        @focus="at = n.id"
        @blur="at = ''"
      >
        <title>{{ n.id }}{{ n.bytes ? `, ${weight(n.bytes)}` : "" }}</title>
        <rect
          :x="n.x"
          :y="n.y"
          :width="box.width"
          :height="box.height"
          rx="5"
          :class="[tone(n), at === n.id && '!stroke-call']"
          :stroke-width="at === n.id ? 2.5 : 1"
          :stroke-dasharray="n.need === 'optional' ? '4 3' : undefined"
        />
        <text
          :x="n.x + 8"
          :y="n.y + 18.5"
          class="font-mono text-[12px]"
          :class="n.picked ? 'fill-sheet' : 'fill-ink'"
        >
          {{ short(n) }}
        </text>
      </g>
    </svg>
    <p class="mt-4 flex flex-wrap gap-x-6 gap-y-1 text-sm text-faded">
      <span><span class="mr-1.5 inline-block h-3 w-5 rounded-sm bg-ink align-middle" />you added it</span
      ><span
        ><span class="mr-1.5 inline-block h-3 w-5 rounded-sm border border-hair bg-sheet align-middle" />comes
        along</span
      ><span
        ><span
          class="mr-1.5 inline-block h-3 w-5 rounded-sm border border-amber bg-amber-soft align-middle"
        />needed from the site, dashed when optional</span
      >
    </p>
    <ul class="mt-2 min-h-6 text-sm" aria-live="polite">
      <li v-for="s in says.slice(0, 8)" :key="s">{{ s }}</li>
      <li v-if="says.length > 8">and {{ says.length - 8 }} more</li>
      <li v-if="!at" class="text-faded">Point at an item to see what it uses, and what uses it.</li>
    </ul>
  </div>
</template>
