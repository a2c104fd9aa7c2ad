<script setup lang="ts">
import { computed } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import StateBadge from "../components/StateBadge.vue"
import { useDeliveries } from "../composables/useDeliveries"
import DeliveryCards from "../components/DeliveryCards.vue"
import { moment } from "../composables/format"

const deliveries = useDeliveries()
const all = computed(() => deliveries.data.value?.deliveries ?? [])
const waits = computed(() => all.value.filter((d) => !["live", "undone"].includes(d.state)))
const today = computed(() => {
  const day = new Date().toDateString()
  return all.value.filter((d) => !waits.value.includes(d) && new Date(d.updatedAt).toDateString() === day)
})
const earlier = computed(() => all.value.filter((d) => !waits.value.includes(d) && !today.value.includes(d)))
</script>

<template>
  <PageHead title="Deliveries"
    ><template #about
      >One kit coming into one site. You can leave each one and find it again here.</template
    ></PageHead
  >
  <ProblemNote :error="deliveries.error.value" />
  <template v-if="deliveries.data.value">
    <EmptyNote v-if="!deliveries.data.value.deliveries.length"
      >There is no delivery yet. Open a sealed
      <router-link class="link text-ink" to="/kits">kit</router-link> and choose “Use on a site”.</EmptyNote
    >
    <section v-if="waits.length" class="mb-8" data-waits>
      <h2 class="mb-3">Waiting for a person</h2>
      <DeliveryCards :deliveries="waits" />
    </section>
    <section v-if="today.length" class="mb-8">
      <h2 class="mb-3">Today</h2>
      <DeliveryCards :deliveries="today" />
    </section>
    <section v-if="earlier.length">
      <h2 class="mb-3">Earlier</h2>
      <div class="sheet overflow-x-auto">
        <table>
          <thead>
            <tr>
              <th>No.</th>
              <th>Kit</th>
              <th>Site</th>
              <th>State</th>
              <th>By</th>
              <th>Changed</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in earlier" :key="d.id">
              <td>
                <router-link class="link font-semibold" :to="`/deliveries/${d.id}`">{{ d.id }}</router-link>
              </td>
              <td>{{ d.kit }} {{ d.version }}</td>
              <td>
                <router-link class="link" :to="`/sites/${d.site}`">{{ d.site }}</router-link>
              </td>
              <td><StateBadge :state="d.state" /></td>
              <td>{{ d.by }}</td>
              <td class="whitespace-nowrap">{{ moment(d.updatedAt) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  </template>
</template>
