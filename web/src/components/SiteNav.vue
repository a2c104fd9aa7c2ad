<script setup lang="ts">
import { sitePlaces } from "../sitePlaces"

// What belongs to a site beside its pages.
defineProps<{ site: string; query: string }>()
</script>

<template>
  <nav aria-label="The site" class="mb-8 grid grid-cols-2 gap-2 sm:grid-cols-4 lg:grid-cols-8">
    <router-link
      v-for="p in sitePlaces"
      :key="p.to"
      :to="`/sites/${site}/${p.to}${p.to === 'faults' ? query : ''}`"
      class="sheet flex flex-col items-center gap-1 px-2 py-3 text-center text-sm font-semibold hover:border-ink"
    >
      <component :is="p.icon" class="size-6" aria-hidden="true" />{{ p.says }}
    </router-link>
  </nav>
</template>
