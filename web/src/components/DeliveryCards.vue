<script setup lang="ts">
import { computed } from "vue"
import PieceThumb from "./PieceThumb.vue"
import StateBadge from "./StateBadge.vue"
import { useKits } from "../composables/useKits"
import { useSites } from "../composables/useSites"
import { moment } from "../composables/format"
import type { Schemas } from "../api/client"

// Deliveries with the faces of what comes and of where it comes to.
defineProps<{ deliveries: Schemas["DeliveryRow"][] }>()
const kits = useKits()
const sites = useSites()
const kitOf = computed(
  () => (d: Schemas["DeliveryRow"]) =>
    kits.data.value?.kits.find((k) => k.name === d.kit && k.version === d.version),
)
const siteOf = computed(
  () => (d: Schemas["DeliveryRow"]) => sites.data.value?.sites.find((s) => s.name === d.site),
)
</script>

<template>
  <ul class="grid gap-4 sm:grid-cols-2">
    <li v-for="d in deliveries" :key="d.id" class="sheet overflow-hidden" :data-delivery="d.id">
      <div class="grid grid-cols-2">
        <PieceThumb v-if="kitOf(d)?.face" :src="kitOf(d)!.face!" :title="d.kit" />
        <div v-else class="aspect-[16/10] border-b border-hair bg-slate-soft" aria-hidden="true" />
        <PieceThumb v-if="siteOf(d)" :src="siteOf(d)!.preview + '/'" :title="d.site" />
      </div>
      <div class="px-4 py-3">
        <router-link class="link font-semibold" :to="`/deliveries/${d.id}`"
          >{{ kitOf(d)?.title || d.kit }} {{ d.version }} into {{ siteOf(d)?.title || d.site }}</router-link
        >
        <p class="mt-1 flex flex-wrap items-center gap-3 text-faded">
          <StateBadge :state="d.state" /><span>by {{ d.by }}, {{ moment(d.updatedAt) }}</span
          ><span>No. {{ d.id }}</span>
        </p>
      </div>
    </li>
  </ul>
</template>
