<script setup lang="ts">
// A live picture of a piece: its own preview, scaled down and out of reach. It runs what its
// policy lets run, on its own origin, which is never the console's: components draw themselves.
defineProps<{ src: string; title: string }>()
</script>

<template>
  <div
    class="relative aspect-[16/10] overflow-hidden rounded-t-lg border-b border-hair bg-white"
    aria-hidden="true"
  >
    <iframe
      :src="src"
      :title="title"
      loading="lazy"
      tabindex="-1"
      sandbox="allow-scripts allow-same-origin"
      scrolling="no"
      class="pointer-events-none absolute left-0 top-0 h-[400%] w-[400%] origin-top-left scale-25 border-0"
    />
  </div>
</template>
