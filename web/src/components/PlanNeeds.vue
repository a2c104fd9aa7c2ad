<script setup lang="ts">
import { computed } from "vue"
import NeedRow from "./NeedRow.vue"
import type { Schemas } from "../api/client"

const props = defineProps<{ delivery: Schemas["Delivery"]; plan: Schemas["Plan"]; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
// What is open stands among the questions; what the delivery goes on without is folded.
const skipped = (n: Schemas["NeedRow"]) => n.optional && n.state !== "inside" && !n.decision
const needs = computed(() => props.plan.needs.filter((n) => n.state !== "met" && !skipped(n)))
const without = computed(() => props.plan.needs.filter((n) => n.state !== "met" && skipped(n)))
const met = computed(() => props.plan.needs.filter((n) => n.state === "met").length)
</script>

<template>
  <section v-if="plan.needs.length" class="mb-8" aria-label="Needs">
    <h2 class="mb-3">What it needs</h2>
    <p v-if="met" class="mb-2 text-faded">{{ met }} {{ met === 1 ? "need is" : "needs are" }} met.</p>
    <div v-if="needs.length" class="sheet divide-y divide-hair">
      <NeedRow
        v-for="n in needs"
        :key="n.what"
        :need="n"
        :site="delivery.site"
        :disabled="disabled"
        @decide="(a, w) => emit('decide', a, w)"
      />
    </div>
    <details v-if="without.length" class="mt-2">
      <summary class="cursor-pointer text-faded">
        Goes on without {{ without.length }} optional {{ without.length === 1 ? "need" : "needs" }}:
        {{ without.map((n) => n.what).join(", ") }}
      </summary>
      <div class="sheet mt-2 divide-y divide-hair">
        <NeedRow
          v-for="n in without"
          :key="n.what"
          :need="n"
          :site="delivery.site"
          :disabled="disabled"
          @decide="(a, w) => emit('decide', a, w)"
        />
      </div>
    </details>
  </section>
</template>
