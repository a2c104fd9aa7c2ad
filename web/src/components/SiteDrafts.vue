<script setup lang="ts">
import { moment } from "../composables/format"
import type { Schemas } from "../api/client"

// What waits on a site: drafts, and deliveries that are staged in one.
defineProps<{ site: string; drafts: Schemas["Draft"][] }>()
const called = (d: Schemas["Draft"]) => (d.delivery ? `Delivery ${d.delivery}` : `Draft ${d.id} “${d.name}”`)
</script>

<template>
  <section v-if="drafts.length" class="mb-8" aria-labelledby="what-waits">
    <h2 id="what-waits" class="mb-2">What waits</h2>
    <ul class="divide-y divide-amber/30 rounded-lg border border-amber/40 bg-amber-soft">
      <li v-for="d in drafts" :key="d.id" class="flex flex-wrap items-center gap-x-4 gap-y-1 px-4 py-2.5">
        <span class="min-w-0 flex-1"
          ><b>{{ called(d) }}</b> by {{ d.by }}, {{ moment(d.createdAt) }}
          <template v-if="d.liveAt">; goes live on {{ moment(d.liveAt) }}</template>
          <span v-if="d.liveSays" class="block text-call"
            >It did not go live at its time: {{ d.liveSays }}</span
          >
        </span>
        <router-link class="link" :to="`/sites/${site}/edit/?draft=${d.id}`">Edit in it</router-link>
        <a class="link" :href="d.preview + '/'" target="_blank" rel="noopener">Look at it</a>
        <router-link class="link" :to="`/sites/${site}/faults?draft=${d.id}`">Look for faults</router-link>
        <router-link v-if="d.delivery" class="link" :to="`/deliveries/${d.delivery}`"
          >Its delivery</router-link
        >
        <router-link v-else class="link" :to="`/sites/${site}/go-live?draft=${d.id}`">Go live…</router-link>
      </li>
    </ul>
  </section>
</template>
