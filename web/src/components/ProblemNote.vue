<script setup lang="ts">
import { computed } from "vue"
import { ExclamationTriangleIcon } from "@heroicons/vue/24/outline"
import { Problem } from "../api/client"
import { detailLines } from "../api/details"
import { toFix } from "../api/remedy"

const props = defineProps<{ error: unknown }>()
const problem = computed(() => (props.error instanceof Problem ? props.error : undefined))
const remedy = computed(() => toFix(problem.value?.remedy))
const lines = computed(() => (problem.value ? detailLines(problem.value) : []))
</script>

<template>
  <div
    v-if="error"
    role="alert"
    class="my-4 flex gap-3 rounded-md border border-call/40 bg-call-soft px-4 py-3"
  >
    <ExclamationTriangleIcon class="mt-0.5 size-5 shrink-0 text-call" aria-hidden="true" />
    <div class="min-w-0">
      <p class="font-semibold first-letter:uppercase">
        {{ error instanceof Error ? error.message : String(error) }}
      </p>
      <ul v-if="lines.length > 1" class="mt-1 list-disc pl-5">
        <li v-for="l in lines" :key="l">{{ l }}</li>
      </ul>
      <p v-if="remedy">To fix: {{ remedy }}</p>
    </div>
  </div>
</template>
