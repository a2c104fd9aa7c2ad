<script setup lang="ts">
import { pageName } from "../composables/format"
import type { Schemas } from "../api/client"

defineProps<{ plan: Schemas["Plan"] }>()
</script>

<template>
  <section class="mb-8 grid gap-6 lg:grid-cols-2">
    <div><h2 class="mb-3">Pages it touches</h2>
      <p v-if="!plan.touched.length" class="text-faded">None.</p>
      <ul v-else class="sheet divide-y divide-hair"><li v-for="t in plan.touched" :key="t.slug" class="px-4 py-2.5"><b>{{ pageName(t.slug) }}</b> <span class="text-faded">through {{ t.ways.join("; ") }}</span></li></ul>
      <p class="mt-2 text-sm text-faded">All other pages stay the same to the byte. That is checked when staging.</p></div>
    <div><h2 class="mb-3">To know</h2>
      <ul class="sheet divide-y divide-hair">
        <li v-for="(l, k) in plan.links" :key="'l' + k" class="px-4 py-2.5"><b>Link {{ l.state }}</b> in <span class="addr">{{ l.from }}</span>, line {{ l.line }}: <span class="addr">{{ l.slug }}</span> <span class="text-faded">{{ l.says }}</span></li>
        <li v-for="s in plan.scripts" :key="s" class="px-4 py-2.5"><b class="text-amber">Code</b> {{ s }}</li>
        <li v-for="s in plan.notes" :key="s" class="px-4 py-2.5">{{ s }}</li>
        <li v-if="!plan.links.length && !plan.scripts.length && !plan.notes.length" class="px-4 py-2.5 text-faded">Nothing else.</li>
      </ul></div>
  </section>
</template>
