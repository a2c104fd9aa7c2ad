<script setup lang="ts">
import StateBadge from "./StateBadge.vue"
import type { Schemas } from "../api/client"
import { weight } from "../composables/format"

defineProps<{ plan: Schemas["Plan"] }>()
defineEmits<{ next: [] }>()
</script>

<template>
  <p class="mb-4">{{ plan.rows.length }} items, {{ weight(plan.bytesIn) }} come in. Terms: {{ plan.terms.license || "no licence is named" }}<template v-if="plan.terms.credit">, credit to {{ plan.terms.credit }}</template>.</p>
  <div class="sheet overflow-x-auto"><table>
    <thead><tr><th>Item</th><th>On the site</th><th>Weight</th></tr></thead>
    <tbody><tr v-for="r in plan.rows" :key="r.address"><td><span class="addr">{{ r.address }}</span><br><span class="text-faded">{{ r.kit?.title }}</span></td><td><StateBadge :state="r.standing" /></td><td>{{ r.kit ? weight(r.kit.bytes) : "–" }}</td></tr></tbody>
  </table></div>
  <button class="btn mt-6" @click="$emit('next')">On to the plan</button>
</template>
