<script setup lang="ts">
import { computed } from "vue"
import DecisionChoice from "./DecisionChoice.vue"
import StateBadge from "./StateBadge.vue"
import { deciderWords } from "../words"
import type { Schemas } from "../api/client"

const props = defineProps<{ delivery: Schemas["Delivery"]; plan: Schemas["Plan"]; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
// What is open stands among the questions.
const needs = computed(() => props.plan.needs.filter((n) => n.state !== "met"))
const met = computed(() => props.plan.needs.length - needs.value.length)
</script>

<template>
  <section v-if="plan.needs.length" class="mb-8" aria-label="Needs">
    <h2 class="mb-3">What it needs</h2>
    <p v-if="met" class="mb-2 text-faded">{{ met }} {{ met === 1 ? "need is" : "needs are" }} met.</p>
    <div v-if="needs.length" class="sheet divide-y divide-hair">
      <div v-for="n in needs" :key="n.what" class="px-4 py-3">
        <p>
          <StateBadge :state="n.state" /> <b class="ml-1">{{ n.what }}</b>
          <span class="text-faded"
            >{{ n.optional ? "optional; " : "" }}{{ n.message
            }}<template v-if="n.decision"
              >; decided: {{ n.to ? `${n.decision}:${n.to}` : n.decision
              }}<template v-if="n.decidedBy"> ({{ deciderWords[n.decidedBy] }})</template></template
            ></span
          >
        </p>
        <DecisionChoice
          v-if="n.key && (n.decision || n.optional)"
          class="mt-2"
          inline
          :choices="n.choices ?? []"
          :about="n.key"
          :kind="n.what.split('/')[0]"
          :site="delivery.site"
          :chosen="n.decision"
          :disabled="disabled"
          @decide="(w) => emit('decide', n.key!, w)"
        />
      </div>
    </div>
  </section>
</template>
