<script setup lang="ts">
import { XMarkIcon } from "@heroicons/vue/24/outline"
import ProblemNote from "./ProblemNote.vue"
import type { useSiteEdits } from "../composables/useSiteEdits"

// What was just done in my draft, and the way back. It comes in at the foot of the window, over the page, so that
// nothing moves from under the finger.
defineProps<{ edits: ReturnType<typeof useSiteEdits>; site: string; draft: number | null }>()
</script>

<template>
  <div v-if="edits.says.value || edits.problem.value" class="told">
    <div class="mx-auto flex max-h-[40vh] max-w-[75rem] items-start gap-3 overflow-y-auto">
      <div class="min-w-0 flex-1">
        <ProblemNote :error="edits.problem.value" />
        <p
          v-if="edits.says.value"
          role="status"
          class="flex min-h-10 flex-wrap items-center gap-x-4 gap-y-1 text-calm"
        >
          <span class="min-w-0 flex-1 break-words">{{ edits.says.value }}. It is in your draft.</span>
          <button type="button" class="link" :disabled="edits.busy.value" @click="edits.undo()">Undo</button>
          <router-link v-if="draft" class="link" :to="`/sites/${site}/go-live?draft=${draft}`"
            >Go live…</router-link
          >
        </p>
      </div>
      <button
        type="button"
        class="btn-quiet shrink-0 px-2"
        aria-label="Close this note"
        @click="edits.close()"
      >
        <XMarkIcon class="size-5" aria-hidden="true" />
      </button>
    </div>
  </div>
</template>
