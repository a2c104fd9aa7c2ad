<script setup lang="ts">
import { computed } from "vue"
import { CheckCircleIcon, HandRaisedIcon, PencilSquareIcon } from "@heroicons/vue/24/outline"
import type { Schemas } from "../api/client"

/** All that stops sealing, then all that a receiver would trip over. */
const props = defineProps<{ findings: Schemas["Finding"][] }>()
const stops = computed(() => props.findings.filter((f) => f.stops))
const notes = computed(() => props.findings.filter((f) => !f.stops))
</script>

<template>
  <p v-if="!stops.length" class="mb-3 flex items-center gap-2 rounded-md bg-calm-soft px-4 py-2.5 text-calm">
    <CheckCircleIcon class="size-5" aria-hidden="true" />{{
      notes.length ? "Nothing stops sealing. A receiver should know this:" : "Clean: nothing stops sealing."
    }}
  </p>
  <ul v-if="findings.length" class="sheet divide-y divide-hair">
    <li v-for="(f, n) in [...stops, ...notes]" :key="n" class="flex gap-3 px-4 py-2.5">
      <component
        :is="f.stops ? HandRaisedIcon : PencilSquareIcon"
        class="mt-0.5 size-5 shrink-0"
        :class="f.stops ? 'text-call' : 'text-amber'"
        aria-hidden="true"
      />
      <div class="min-w-0">
        <b :class="f.stops ? 'text-call' : 'text-amber'">{{ f.stops ? "Stops sealing" : "Note" }}</b>
        <span v-if="f.address" class="addr"
          >{{ f.address }}<template v-if="f.line">:{{ f.line }}</template></span
        >
        {{ f.message }}<span v-if="f.remedy" class="text-faded"> To fix: {{ f.remedy }}.</span>
      </div>
    </li>
  </ul>
</template>
