<script setup lang="ts">
import { ref } from "vue"
import { useQuery } from "@tanstack/vue-query"
import ProblemNote from "./ProblemNote.vue"
import SidesSlider from "./SidesSlider.vue"
import { api, result, type Schemas } from "../api/client"

// Whether the pieces of a delivery stand on the site as they do in their kit, and which rules of the site's are
// to blame where they do not.
const props = defineProps<{ delivery: number }>()
const open = ref("")
const stands = useQuery({
  queryKey: ["stands", props.delivery],
  queryFn: () =>
    result(api.GET("/api/v1/deliveries/{id}/stands", { params: { path: { id: props.delivery } } })),
  refetchInterval: (q) => (q.state.data?.browser && q.state.data.waiting > 0 ? 1500 : false),
})
const says = (s: Schemas["Stand"]) =>
  s.pair.differs === false
    ? "as in its kit"
    : s.pair.differs
      ? `${(100 * (s.pair.share ?? 0)).toFixed(1)} % differs from its kit`
      : s.pair.before.state === "waiting" || s.pair.after.state === "waiting"
        ? "is being looked at"
        : "cannot be seen"
const rules = (s: Schemas["Stand"]) => [
  ...new Set(s.rules.map((r) => `${r.property}: ${r.value}, by ${r.by}`)),
]
</script>

<template>
  <ProblemNote :error="stands.error.value" />
  <ul v-if="stands.data.value?.browser && stands.data.value.pieces.length" class="sheet divide-y divide-hair">
    <li v-for="s in stands.data.value.pieces" :key="s.becomes" class="px-4 py-2.5">
      <details @toggle="($event.target as HTMLDetailsElement).open && (open = s.becomes)">
        <summary>
          <span class="addr">{{ s.becomes }}</span>
          <span :class="s.pair.differs ? 'text-call' : 'text-faded'"
            >&nbsp;{{ says(s) }}{{ s.rules.length ? ", by rules of the site" : "" }}</span
          >
        </summary>
        <ul v-if="s.rules.length" class="my-2 list-disc pl-5 text-sm">
          <li v-for="r in rules(s)" :key="r" class="addr">{{ r }}</li>
        </ul>
        <SidesSlider v-if="open === s.becomes" class="mt-2" :pair="s.pair" :slug="s.becomes" />
      </details>
    </li>
  </ul>
  <p v-else-if="stands.data.value && !stands.data.value.browser" class="text-faded">
    This service has no browser that makes pictures.
  </p>
  <p v-else-if="stands.data.value" class="text-faded">Nothing of it can be seen by itself.</p>
</template>
