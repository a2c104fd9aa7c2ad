<script setup lang="ts">
import { computed } from "vue"
import { ExclamationTriangleIcon } from "@heroicons/vue/24/outline"
import { Problem } from "../api/client"

const props = defineProps<{ error: unknown }>()
const wayOut = computed(() => (props.error instanceof Problem ? props.error.wayOut : ""))
const lines = computed(() => {
  const d = props.error instanceof Problem ? props.error.details : undefined
  if (!Array.isArray(d)) return []
  return (d as Record<string, string>[]).map((x) => [x.address ?? x.about ?? x.path ?? x.decision, x.says ?? x.why ?? x.leads].filter(Boolean).join(": "))
})
</script>

<template>
  <div v-if="error" role="alert" class="my-4 flex gap-3 rounded-md border border-call/40 bg-call-soft px-4 py-3">
    <ExclamationTriangleIcon class="mt-0.5 size-5 shrink-0 text-call" aria-hidden="true" />
    <div class="min-w-0">
      <p class="font-semibold">{{ error instanceof Error ? error.message : String(error) }}</p>
      <ul v-if="lines.length > 1" class="mt-1 list-disc pl-5"><li v-for="l in lines" :key="l">{{ l }}</li></ul>
      <p v-if="wayOut">Way out: {{ wayOut }}</p>
    </div>
  </div>
</template>
