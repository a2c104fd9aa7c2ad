<script setup lang="ts">
import { computed } from "vue"
import { QuestionMarkCircleIcon } from "@heroicons/vue/24/outline"
import ConflictChoice from "./ConflictChoice.vue"
import ConflictList from "./ConflictList.vue"
import DeliverFirst from "./DeliverFirst.vue"
import DecisionChoice from "./DecisionChoice.vue"
import SideBySide from "./SideBySide.vue"
import type { Schemas } from "../api/client"
import { conflictKey } from "../api/key"

const props = defineProps<{
  delivery: Schemas["Delivery"]
  etag: string
  plan: Schemas["Plan"]
  disabled: boolean
}>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
const questions = computed(() => props.plan.questions.filter((q) => q.kind !== "fill"))
const row = (about: string) => props.plan.rows.find((r) => r.address === about)
/** The row and the conflict that a question about a conflict is of. */
const conflict = (about: string) => {
  for (const r of props.plan.rows)
    for (const c of r.conflicts ?? []) if (conflictKey(r.address, c.key) === about) return { row: r, c }
}
/** The kit of the shelf that would meet a need, where that is what a question is about. */
const fitting = (about: string) => (props.plan.needs ?? []).find((n) => n.key === about && n.kit)
const clash = (about: string) => props.plan.clashes.find((c) => c.group === about)
</script>

<template>
  <section v-if="questions.length" class="mb-8" aria-label="Questions">
    <h2 class="mb-3 flex items-center gap-2 text-call">
      <QuestionMarkCircleIcon class="size-6" aria-hidden="true" />{{ questions.length }}
      {{ questions.length === 1 ? "question needs" : "questions need" }} you
    </h2>
    <div
      v-for="q in questions"
      :key="q.key"
      class="mb-4 rounded-lg border border-call/40 bg-sheet p-5"
      :data-question="q.key"
    >
      <p class="mb-3 text-lg font-semibold">{{ q.message }}</p>
      <template v-if="q.kind === 'conflict' && conflict(q.key)">
        <SideBySide
          :delivery="delivery"
          :etag="etag"
          :address="conflict(q.key)!.row.address"
          :row="conflict(q.key)!.row"
        />
        <ConflictChoice
          :conflict="conflict(q.key)!.c"
          :about="q.key"
          :disabled="disabled"
          @decide="(w) => emit('decide', q.key, w)"
        />
      </template>
      <template v-else>
        <SideBySide
          v-if="q.kind === 'item'"
          :delivery="delivery"
          :etag="etag"
          :address="q.key"
          :row="row(q.key)"
        />
        <ConflictList
          v-if="row(q.key)?.conflicts?.length"
          :row="row(q.key)!"
          :disabled="disabled"
          @decide="(a, w) => emit('decide', a, w)"
        />
        <div v-if="clash(q.key)" class="mb-3 grid gap-3 sm:grid-cols-2">
          <div class="min-w-0 rounded-md border border-hair px-4 py-2">
            <p class="text-sm text-faded">The site’s</p>
            <pre class="max-h-40 overflow-auto whitespace-pre-wrap text-sm">{{ clash(q.key)!.site }}</pre>
          </div>
          <div class="min-w-0 rounded-md border border-hair px-4 py-2">
            <p class="text-sm text-faded">The kit’s</p>
            <pre class="max-h-40 overflow-auto whitespace-pre-wrap text-sm">{{ clash(q.key)!.kit }}</pre>
          </div>
          <p class="text-faded sm:col-span-2">
            This is {{ clash(q.key)!.name }}; the others are listed below.
          </p>
        </div>
        <DeliverFirst
          v-if="fitting(q.key)"
          :kit="fitting(q.key)!.kit!"
          :version="fitting(q.key)!.version!"
          :site="delivery.site"
          :disabled="disabled"
        />
        <DecisionChoice
          :choices="q.choices"
          :about="q.key"
          :site="delivery.site"
          :disabled="disabled"
          @decide="(w) => emit('decide', q.key, w)"
        />
      </template>
    </div>
  </section>
  <p v-else class="mb-6 rounded-md bg-calm-soft px-4 py-2.5 text-calm">No open questions here.</p>
</template>
