<script setup lang="ts">
import ProblemNote from "./ProblemNote.vue"
import type { useSiteEdits } from "../composables/useSiteEdits"

// What was just done in my draft, and the way back.
defineProps<{ edits: ReturnType<typeof useSiteEdits>; site: string; draft: number | null }>()
</script>

<template>
  <ProblemNote :error="edits.problem.value" />
  <p
    v-if="edits.says.value"
    role="status"
    class="mb-3 flex flex-wrap items-center gap-3 rounded-md bg-calm-soft px-4 py-2 text-calm"
  >
    <span class="min-w-0 flex-1 break-words">{{ edits.says.value }}. It is in your draft.</span>
    <button type="button" class="link" :disabled="edits.busy.value" @click="edits.undo()">Undo</button>
    <router-link v-if="draft" class="link" :to="`/sites/${site}/go-live?draft=${draft}`"
      >Go live…</router-link
    >
  </p>
</template>
