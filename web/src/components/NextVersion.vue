<script setup lang="ts">
import { ref } from "vue"
import type { Schemas } from "../api/client"

/** What changed since the sealed version before, and which number that asks for. */
defineProps<{ advice: Schemas["NextVersion"]; version: string; making: boolean }>()
const because = defineModel<string>("because", { default: "" })
const all = ref(false)
const tone = {
  added: "text-calm",
  removed: "text-call",
  renamed: "text-amber",
  changed: "",
  reformatted: "text-faded",
}
</script>

<template>
  <section>
    <h2 class="mb-2">Since {{ advice.last }}</h2>
    <p class="mb-3">
      {{ advice.changes.length }} items changed, {{ advice.same }} are the same.
      <template v-if="advice.enough">{{
        advice.step === "none"
          ? "Nothing asks for a new number."
          : `The changes ask for ${advice.next} (${advice.step}); ${version} is enough.`
      }}</template>
      <b v-else class="text-call"
        >The changes ask for {{ advice.next }} ({{ advice.step }}); {{ version }} is too small.</b
      >
    </p>
    <ul class="mb-3 list-disc pl-5 text-faded">
      <li v-for="r in all ? advice.reasons : advice.reasons.slice(0, 4)" :key="r">{{ r }}</li>
    </ul>
    <ul v-if="advice.changes.length" class="sheet divide-y divide-hair">
      <li v-for="c in all ? advice.changes : advice.changes.slice(0, 6)" :key="c.address" class="px-4 py-2.5">
        <b :class="tone[c.what]">{{ c.what }}</b> <span class="addr">{{ c.address }}</span><span
          v-if="c.was"
          class="text-faded"
          >, was <span class="addr">{{ c.was }}</span></span
        >
        <ul v-if="c.details" class="mt-1 space-y-0.5 text-sm text-faded">
          <li v-for="d in all ? c.details : c.details.slice(0, 3)" :key="d" class="break-words">{{ d }}</li>
        </ul>
      </li>
    </ul>
    <button
      v-if="
        !all &&
        (advice.changes.length > 6 ||
          advice.reasons.length > 4 ||
          advice.changes.some((c) => (c.details?.length ?? 0) > 3))
      "
      class="mt-2 link"
      @click="all = true"
    >
      Show all of it
    </button>
    <div v-if="making && !advice.enough" class="mt-4">
      <label class="label" for="because">Why {{ version }} is right anyway (this is recorded)</label
      ><input id="because" v-model="because" class="field" />
    </div>
  </section>
</template>
