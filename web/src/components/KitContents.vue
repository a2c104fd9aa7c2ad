<script setup lang="ts">
import { computed } from "vue"
import { XMarkIcon } from "@heroicons/vue/24/outline"
import type { Schemas } from "../api/client"
import { kindWords, relationWords } from "../words"
import PieceThumb from "./PieceThumb.vue"
import { alone, pagesFirst, weight } from "../composables/format"

/** What is in a kit and why; what was left by hand. */
const props = defineProps<{ kit: Schemas["Kit"]; editable: boolean; busy: boolean }>()
const emit = defineEmits<{ exclude: [address: string, optional: boolean]; back: [address: string] }>()
const making = computed(() => props.kit.state === "making")
const manyWords: Record<string, string> = { tokens: "colours, type and spacing", media: "media" }
/** What comes, by kind: what is seen first. */
const groups = computed(() => {
  const out = new Map<string, Schemas["KitItem"][]>()
  for (const i of pagesFirst(props.kit.items)) {
    const kind = i.address.split("/")[0]
    out.set(kind, [...(out.get(kind) ?? []), i])
  }
  return [...out].map(([kind, items]) => ({
    kind,
    says: manyWords[kind] ?? (kindWords[kind] ?? kind.replaceAll("-", " ")) + (items.length > 1 ? "s" : ""),
    items,
  }))
})
const says = (r: Schemas["Reason"]) =>
  `${r.from} ${relationWords(r.relation, r.where)}${r.line ? `, line ${r.line}` : ""}`
</script>

<template>
  <p v-if="!kit.items.length" class="text-faded">
    Nothing yet. Choose a site or the library, and add a section or a part.
  </p>
  <template v-for="g in groups" :key="g.kind">
    <h3 class="mb-1 mt-4 first-letter:uppercase first:mt-0">{{ g.says }}</h3>
    <ul class="sheet divide-y divide-hair">
      <li
        v-for="i in g.items"
        :key="i.address"
        class="flex items-center gap-3 px-4 py-2.5"
        :data-kit-item="i.address"
      >
        <PieceThumb
          v-if="/^(page|section|part|block)\//.test(i.address)"
          bare
          class="w-20 shrink-0"
          :src="alone(kit.preview, i.address)"
          :title="i.title || i.address"
        />
        <div class="min-w-0 flex-1">
          <span class="font-semibold">{{ i.title || i.address.slice(i.address.indexOf("/") + 1) }}</span>
          <p v-if="i.picked" class="text-faded">you added it</p>
          <details v-else-if="i.reasons.length > 1" class="text-faded">
            <summary>{{ says(i.reasons[0]) }}; and {{ i.reasons.length - 1 }} more</summary>
            <p v-for="(r, n) in i.reasons.slice(1)" :key="n">{{ says(r) }}</p>
          </details>
          <p v-else-if="i.reasons.length" class="text-faded">{{ says(i.reasons[0]) }}</p>
        </div>
        <span class="whitespace-nowrap text-sm text-faded tabular-nums">{{ weight(i.bytes) }}</span>
        <button
          v-if="making && editable"
          class="text-faded hover:text-call"
          :disabled="busy"
          :aria-label="i.picked ? `Remove ${i.address}` : `Exclude ${i.address}: it becomes a need`"
          :title="i.picked ? 'Remove' : 'Exclude: it becomes a need'"
          @click="emit('exclude', i.address, false)"
        >
          <XMarkIcon class="size-5" />
        </button>
      </li>
    </ul>
  </template>
  <p v-for="w in kit.weights" :key="w.address" class="mt-2 text-sm text-faded">
    <span class="addr">{{ w.address }}</span>: {{ w.rules }} of {{ w.wholeRules }} rules,
    {{ weight(w.bytes) }} (whole sheet {{ weight(w.wholeBytes) }})<span
      v-if="w.byScripts?.length"
      :title="w.byScripts.join(', ')"
      >; rules for {{ w.byScripts.length }} {{ w.byScripts.length === 1 ? "class" : "classes" }} that its
      scripts may put on</span
    ><span v-if="w.whenRun?.length" :title="w.whenRun.join(', ')"
      >; rules for {{ w.whenRun.length }} {{ w.whenRun.length === 1 ? "class" : "classes" }} that the page had
      when it was run</span
    >
  </p>
  <template v-if="making && kit.exclusions.length">
    <h3 class="mb-2 mt-6">Excluded by you</h3>
    <ul class="sheet divide-y divide-hair">
      <li v-for="l in kit.exclusions" :key="l.address" class="flex flex-wrap items-center gap-3 px-4 py-2.5">
        <span class="addr min-w-0 flex-1 font-semibold">{{ l.address }}</span>
        <label class="flex items-center gap-2 text-sm"
          ><input
            type="checkbox"
            class="size-4"
            :checked="l.optional"
            :disabled="!editable"
            @change="emit('exclude', l.address, !l.optional)"
          />the pieces work without it</label
        >
        <button v-if="editable" class="link text-sm" @click="emit('back', l.address)">
          Let it come along
        </button>
      </li>
    </ul>
  </template>
  <template v-if="kit.leavesOut.length">
    <h3 class="mb-2 mt-6">What stays behind</h3>
    <ul class="sheet divide-y divide-hair">
      <li v-for="l in kit.leavesOut" :key="l.address + l.why" class="px-4 py-2">
        <span class="addr">{{ l.address }}</span> <span class="text-faded">{{ l.why }}</span>
      </li>
    </ul>
  </template>
</template>
