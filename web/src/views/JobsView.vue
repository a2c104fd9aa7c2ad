<script setup lang="ts">
import { computed, ref } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import { useJobs } from "../composables/useJobs"
import { moment } from "../composables/format"
import { jobStateWords } from "../words"
import type { Schemas } from "../api/client"

const ended = ref(false)
const { list, stop, goOn } = useJobs(ended)
const error = computed(() => list.error.value ?? stop.error.value ?? goOn.error.value)
const jobs = computed(() => list.data.value?.jobs ?? [])
const canStop = (j: Schemas["Job"]) => j.kind !== "sweep" && (j.state === "waiting" || j.state === "running")
const canGoOn = (j: Schemas["Job"]) => j.state === "stopped" || j.state === "failed"
</script>

<template>
  <PageHead title="Jobs"
    ><template #about>What the service does by itself: at a time, or because something changed.</template>
    <label class="flex items-center gap-2"
      ><input v-model="ended" type="checkbox" />with those that are done</label
    >
  </PageHead>
  <ProblemNote :error="error" />
  <template v-if="list.data.value">
    <p v-if="list.data.value.pictures" class="mb-4 text-faded" role="status">
      {{ list.data.value.pictures }}
      {{ list.data.value.pictures === 1 ? "picture waits" : "pictures wait" }} to be made.
    </p>
    <EmptyNote v-if="!jobs.length">Nothing runs or waits.</EmptyNote>
    <div v-else class="sheet overflow-x-auto" role="region" aria-label="Jobs" tabindex="0">
      <table>
        <thead>
          <tr>
            <th>Job</th>
            <th>State</th>
            <th>Since</th>
            <th>Next</th>
            <th><span class="sr-only">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="j in jobs" :key="j.id">
            <td>
              <span class="first-letter:uppercase inline-block">{{ j.about }}</span>
              <span v-if="j.for" class="text-faded"> for {{ j.for }}</span>
              <span v-if="j.message" class="block text-sm text-faded">{{ j.message }}</span>
            </td>
            <td :class="j.state === 'failed' && 'font-semibold text-call'">
              {{ jobStateWords[j.state]
              }}<template v-if="j.total">, {{ j.done ?? 0 }} of {{ j.total }}</template>
            </td>
            <td class="whitespace-nowrap">{{ moment(j.since) }}</td>
            <td class="whitespace-nowrap">{{ j.due ? moment(j.due) : "–" }}</td>
            <td class="text-right">
              <button
                v-if="canStop(j)"
                type="button"
                class="btn-quiet"
                :disabled="stop.isPending.value"
                :aria-label="`Stop: ${j.about}`"
                @click="stop.mutate(j.id)"
              >
                Stop
              </button>
              <button
                v-if="canGoOn(j)"
                type="button"
                class="btn-quiet"
                :disabled="goOn.isPending.value"
                :aria-label="`Go on: ${j.about}`"
                @click="goOn.mutate(j.id)"
              >
                Go on
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
</template>
