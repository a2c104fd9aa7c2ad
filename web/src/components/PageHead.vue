<script setup lang="ts">
defineProps<{ title: string; back?: { to: string; label: string } }>()
</script>

<template>
  <header class="mb-6">
    <router-link v-if="back" :to="back.to" class="text-faded hover:text-ink">← {{ back.label }}</router-link>
    <div class="flex flex-wrap items-end justify-between gap-x-6 gap-y-3">
      <div class="min-w-0">
        <h1 class="break-words">{{ title }}</h1>
        <p class="mt-1 max-w-3xl text-faded"><slot name="about" /></p>
      </div>
      <div class="flex flex-wrap gap-2"><slot /></div>
    </div>
  </header>
</template>
