<script setup lang="ts">
import { useRoute } from "vue-router"

// The one shelf: pieces that are kept for reuse, and kits.
const route = useRoute()
const tabs = [
  { to: "/library", says: "Pieces" },
  { to: "/kits", says: "Kits" },
]
</script>

<template>
  <nav aria-label="On the shelf" class="mb-6 flex gap-1 border-b border-hair">
    <router-link
      v-for="t in tabs"
      :key="t.to"
      :to="t.to"
      :aria-current="route.path === t.to ? 'page' : undefined"
      class="-mb-px border-b-2 px-3 py-2"
      :class="
        route.path === t.to ? 'border-ink font-semibold' : 'border-transparent text-faded hover:text-ink'
      "
    >
      {{ t.says }}
    </router-link>
  </nav>
</template>
