<script setup lang="ts">
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import StateBadge from "../components/StateBadge.vue"
import { useDeliveries } from "../composables/useDeliveries"
import { moment } from "../composables/format"

const deliveries = useDeliveries()
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
    <div v-else class="sheet overflow-x-auto">
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
          <tr v-for="d in deliveries.data.value.deliveries" :key="d.id">
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
  </template>
</template>
