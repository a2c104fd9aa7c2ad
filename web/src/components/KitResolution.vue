<script setup lang="ts">
import { computed, ref } from "vue"
import { useQuery } from "@tanstack/vue-query"
import { api, result } from "../api/client"
import { useSites } from "../composables/useSites"
import ProblemNote from "./ProblemNote.vue"

/** Which other kits must be there with a kit on a site, or why nothing fits. */
const props = defineProps<{ name: string; version: string }>()
const sites = useSites()
const site = ref("")
const resolution = useQuery({
  queryKey: computed(() => ["resolution", props.name, props.version, site.value]),
  queryFn: () =>
    result(
      api.GET("/api/v1/kits/{kit}/{version}/resolution", {
        params: { path: { kit: props.name, version: props.version }, query: { site: site.value } },
      }),
    ),
  enabled: computed(() => site.value !== ""),
})
</script>

<template>
  <section class="mt-6">
    <h3 class="mb-2">On a site</h3>
    <select v-model="site" class="field max-w-64" aria-label="The site">
      <option value="">choose a site</option>
      <option v-for="s in sites.data.value?.sites ?? []" :key="s.name" :value="s.name">
        {{ s.title || s.name }}
      </option>
    </select>
    <div v-if="site && resolution.data.value" class="mt-3" aria-live="polite">
      <template v-if="resolution.data.value.fits"
        ><p v-if="!resolution.data.value.kits.length" class="text-calm">
          It fits: it needs no other kit there.
        </p>
        <ul v-else class="sheet divide-y divide-hair">
          <li v-for="k in resolution.data.value.kits" :key="k.kit" class="px-4 py-2.5">
            <router-link class="link addr font-semibold" :to="`/kits/${k.kit}/${k.version}`"
              >{{ k.kit }} {{ k.version }}</router-link
            >
            <span class="text-faded">{{ k.here ? "is there" : "is to be delivered first" }}</span>
          </li>
        </ul>
        <p v-for="u in resolution.data.value.unmet" :key="u" class="mt-2 text-faded">
          Optional and not met: {{ u }}
        </p></template
      >
      <div v-else class="rounded-md bg-call-soft px-4 py-3">
        <p class="font-semibold text-call">Nothing fits: these demands cannot all be met.</p>
        <ol class="mt-2 list-decimal space-y-1 pl-5">
          <li v-for="l in resolution.data.value.chain" :key="l">{{ l }}</li>
        </ol>
      </div>
    </div>
    <ProblemNote :error="resolution.error.value" />
  </section>
</template>
