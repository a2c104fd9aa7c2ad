<script setup lang="ts">
import DecisionChoice from "./DecisionChoice.vue"
import StateBadge from "./StateBadge.vue"
import { deciderWords } from "../words"
import type { Schemas } from "../api/client"

defineProps<{ need: Schemas["NeedRow"]; site: string; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
</script>

<template>
  <div class="px-4 py-3">
    <p>
      <StateBadge :state="need.state" /> <b class="ml-1">{{ need.what }}</b>
      <span class="text-faded"
        >{{ need.optional ? "optional; " : "" }}{{ need.message
        }}<template v-if="need.decision"
          >; decided: {{ need.to ? `${need.decision}:${need.to}` : need.decision
          }}<template v-if="need.decidedBy"> ({{ deciderWords[need.decidedBy] }})</template></template
        ></span
      >
    </p>
    <DecisionChoice
      v-if="need.key && (need.decision || need.optional)"
      class="mt-2"
      inline
      :choices="need.choices ?? []"
      :about="need.key"
      :kind="need.what.split('/')[0]"
      :site="site"
      :chosen="need.decision"
      :disabled="disabled"
      @decide="(w) => emit('decide', need.key!, w)"
    />
  </div>
</template>
