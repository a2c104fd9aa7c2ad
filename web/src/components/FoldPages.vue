<script setup lang="ts">
import { computed, ref } from "vue"
import type { useSiteEdits } from "../composables/useSiteEdits"
import type { Schemas } from "../api/client"

// Several pages become one: each a section with an anchor; links and menus follow. Their addresses end, which going
// live tells.
const props = defineProps<{
  pages: Schemas["Item"][]
  home: Schemas["Item"] | null
  edits: ReturnType<typeof useSiteEdits>
}>()
const emit = defineEmits<{ done: [] }>()
const into = ref(props.home?.meta.slug ?? "")
const chosen = ref<string[]>([])
const others = computed(() =>
  props.pages.filter((p) => p.meta.slug && p.meta.slug !== into.value && p.address !== props.home?.address),
)
const name = (p: Schemas["Item"]) => p.meta.title || p.meta.slug
async function fold() {
  const value = chosen.value.filter((s) => s !== into.value).join(" ")
  if (await props.edits.run([{ op: "page-fold", page: into.value, value }])) emit("done")
}
</script>

<template>
  <form class="sheet mt-3 p-4" data-fold-pages @submit.prevent="fold">
    <label class="label" for="fold-into">Which page they become part of</label>
    <select id="fold-into" v-model="into" class="field mb-3 max-w-sm" required>
      <option v-for="p in pages.filter((p) => p.meta.slug)" :key="p.address" :value="p.meta.slug">
        {{ name(p) }}
      </option>
    </select>
    <fieldset class="mb-3">
      <legend class="label">Which pages become sections of it</legend>
      <label v-for="p in others" :key="p.address" class="flex items-center gap-2"
        ><input v-model="chosen" type="checkbox" :value="p.meta.slug" />{{ name(p) }}
        <span class="text-faded">{{ p.meta.slug }}</span></label
      >
    </fieldset>
    <button class="btn" :disabled="!into || !chosen.length || edits.busy.value">Fold them into one</button>
    <button type="button" class="link ml-4 min-h-6" @click="emit('done')">Cancel</button>
  </form>
</template>
