<script setup lang="ts">
import {
  ClockIcon,
  EnvelopeIcon,
  ExclamationTriangleIcon,
  GlobeAltIcon,
  PhotoIcon,
  RectangleStackIcon,
  Squares2X2Icon,
  SwatchIcon,
} from "@heroicons/vue/24/outline"

// What belongs to a site beside its pages.
defineProps<{ site: string; query: string }>()
const places = [
  { to: "looks", says: "Looks", icon: SwatchIcon },
  { to: "pictures", says: "Pictures and logo", icon: PhotoIcon },
  { to: "records", says: "Records", icon: RectangleStackIcon },
  { to: "forms", says: "Forms", icon: EnvelopeIcon },
  { to: "faults", says: "Faults", icon: ExclamationTriangleIcon },
  { to: "history", says: "History", icon: ClockIcon },
  { to: "proposals", says: "What repeats", icon: Squares2X2Icon },
  { to: "publishing", says: "Publishing", icon: GlobeAltIcon },
]
</script>

<template>
  <nav aria-label="The site" class="mb-8 grid grid-cols-2 gap-2 sm:grid-cols-4 lg:grid-cols-8">
    <router-link
      v-for="p in places"
      :key="p.to"
      :to="`/sites/${site}/${p.to}${p.to === 'faults' ? query : ''}`"
      class="sheet flex flex-col items-center gap-1 px-2 py-3 text-center text-sm font-semibold hover:border-ink"
    >
      <component :is="p.icon" class="size-6" aria-hidden="true" />{{ p.says }}
    </router-link>
  </nav>
</template>
