<script setup lang="ts">
import { conflictWords } from "../words"
import type { Schemas } from "../api/client"

// One thing that both sides changed: as it was, as it is here, as the kit has it.
const props = defineProps<{
  conflict: Schemas["BlendConflict"]
  about: string
  disabled: boolean
  siteWord?: string
  kitWord?: string
}>()
const emit = defineEmits<{ decide: [word: string] }>()
const sides = [
  { word: "base", says: "as it was delivered", text: () => props.conflict.base },
  { word: "site", says: props.siteWord ?? "as the site has it", text: () => props.conflict.site },
  { word: "kit", says: props.kitWord ?? "as the kit has it", text: () => props.conflict.kit },
]
</script>

<template>
  <div class="mb-3 rounded-md border border-hair bg-sheet" :data-conflict="about">
    <p class="border-b border-hair px-4 py-2">
      <b>{{ conflictWords[conflict.kind] }}</b> <span class="addr text-faded">{{ conflict.where }}</span>,
      line {{ conflict.line }}
    </p>
    <div class="grid divide-y divide-hair md:grid-cols-3 md:divide-x md:divide-y-0">
      <div v-for="s in sides" :key="s.word" class="flex min-w-0 flex-col px-4 py-3">
        <p class="mb-1 text-sm text-faded">{{ s.says }}</p>
        <pre
          class="mb-3 max-h-40 flex-1 overflow-auto whitespace-pre-wrap break-words text-sm"
          :class="s.word === 'base' && 'text-faded'"
          >{{ s.text().trim() || "nothing" }}</pre>
        <button
          v-if="s.word !== 'base'"
          type="button"
          :class="conflict.decision === s.word ? 'btn' : 'btn-quiet'"
          :aria-pressed="conflict.decision === s.word"
          :disabled="disabled"
          @click="emit('decide', s.word)"
        >
          {{ conflict.decision === s.word ? `The ${s.word}’s, as decided` : `Take the ${s.word}’s` }}
        </button>
      </div>
    </div>
  </div>
</template>
