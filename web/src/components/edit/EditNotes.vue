<script setup lang="ts">
import { ref } from "vue"
import ProblemNote from "../ProblemNote.vue"
import type { usePageEdits } from "../../composables/usePageEdits"

defineProps<{
  edits: ReturnType<typeof usePageEdits>
  note: string
  scripts: number
  open: number
  aside: number
}>()
const emit = defineEmits<{ mine: []; theirs: []; close: [] }>()
const told = ref(false)
const wordsOf = (o: { value?: string }[]) =>
  o
    .map((x) => x.value)
    .filter(Boolean)
    .join(" … ")
</script>

<template>
  <div class="empty:hidden">
    <div
      v-if="edits.clash.value"
      class="border-b border-call/40 bg-call-soft px-4 py-2"
      role="alert"
      data-clash
    >
      <p>
        <b>Somebody else changed the same meanwhile.</b> Yours: “{{
          wordsOf(edits.clash.value.operations).slice(0, 200)
        }}”. Nothing of theirs was replaced.
      </p>
      <p class="mt-1 flex gap-2">
        <button type="button" class="btn px-3 py-1" @click="emit('mine')">Write mine</button
        ><button type="button" class="btn-quiet px-3 py-1" @click="emit('theirs')">Keep theirs</button>
      </p>
    </div>
    <div v-if="edits.problem.value" class="px-3" data-edit-problem>
      <ProblemNote :error="edits.problem.value" />
    </div>
    <p v-if="note" class="flex gap-3 border-b border-hair bg-amber-soft px-4 py-1.5" role="status">
      <span class="flex-1">{{ note }}</span><button type="button" class="link" @click="emit('close')">
        Close
      </button>
    </p>
    <p
      v-if="(scripts || open || aside) && !told"
      class="flex gap-3 border-b border-hair bg-slate-soft px-4 py-1 text-sm"
    >
      <span class="flex-1"
        ><template v-if="scripts"
          >Scripts of this page rest while you edit: you see it as its sources say. </template
        ><template v-if="open">What moves for visitors lies open ({{ open }}). </template
        ><template v-if="aside">What covers the whole page is put aside until you choose it. </template>“As
        visitors see it” plays it.</span
      ><button type="button" class="link" @click="told = true">Close</button>
    </p>
  </div>
</template>
