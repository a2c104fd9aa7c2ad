<script setup lang="ts">
import { computed, ref, watch } from "vue"
import PreviewFrame from "./PreviewFrame.vue"
import type { Schemas } from "../api/client"

// What makes an overlay appear, and how often; tried in a page as visitors get it.
const props = defineProps<{
  trigger?: Schemas["Meta"]["trigger"]
  src: string
  page: string
  keeper: boolean
  busy: boolean
}>()
const emit = defineEmits<{ change: [value: string] }>()
const on = ref("click")
const figure = ref(0)
const repeat = ref("always")
watch(
  () => props.trigger,
  (t) => {
    on.value = t?.on ?? "click"
    figure.value = t?.value ?? 0
    repeat.value = t?.repeat || "always"
  },
  { immediate: true },
)
const kinds = [
  ["click", "a press on what opens it"],
  ["delay", "time: after some seconds"],
  ["scroll", "scrolling: a share of the page"],
  ["pointer-out", "the pointer leaving at the top"],
]
const repeats = [
  ["always", "each time"],
  ["session", "once per session"],
  ["never", "once per visitor"],
]
const share = computed({
  get: () => Math.round(figure.value * 100),
  set: (n: number) => (figure.value = n / 100),
})
const value = computed(() => {
  const n = on.value === "delay" || on.value === "scroll" ? ` ${figure.value}` : ""
  return `${on.value}${n} ${repeat.value}`
})
const tries = ref(0)
</script>

<template>
  <section class="sheet mb-4 grid gap-4 p-4 lg:grid-cols-2" data-trigger>
    <form class="space-y-3" @submit.prevent="emit('change', value)">
      <h2>What makes it appear</h2>
      <label class="block"
        >It appears by
        <select v-model="on" class="field" :disabled="!keeper">
          <option v-for="[k, says] in kinds" :key="k" :value="k">{{ says }}</option>
        </select></label
      >
      <label v-if="on === 'delay'" class="block"
        >Seconds
        <input v-model.number="figure" type="number" min="0" step="0.5" class="field" :disabled="!keeper"
      /></label>
      <label v-if="on === 'scroll'" class="block"
        >Share of the page, %
        <input v-model.number="share" type="number" min="0" max="100" class="field" :disabled="!keeper"
      /></label>
      <label class="block"
        >How often
        <select v-model="repeat" class="field" :disabled="!keeper">
          <option v-for="[k, says] in repeats" :key="k" :value="k">{{ says }}</option>
        </select></label
      >
      <button v-if="keeper" class="btn" :disabled="busy">Let it appear so</button>
    </form>
    <div v-if="page" class="min-w-0">
      <PreviewFrame :key="tries" :src="src" :title="`Try it on ${page}`" />
      <button type="button" class="btn-quiet mt-2" @click="tries++">Load it again</button>
    </div>
    <p v-else class="text-faded">It is tried where it appears: let it appear on a page first.</p>
  </section>
</template>
