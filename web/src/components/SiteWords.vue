<script setup lang="ts">
import { toRef } from "vue"
import { useSetting } from "../composables/useSetting"
import { useSiteEdits } from "../composables/useSiteEdits"
import EditedNote from "./EditedNote.vue"
import KeptField from "./KeptField.vue"

// What a site calls itself, the line under its name, and the language of its pages: said once, shown on all of them.
const props = defineProps<{ site: string; keeper: boolean }>()
const draft = defineModel<number | null>("draft", { required: true })
const site = toRef(props, "site")
const edits = useSiteEdits(site, draft)
const words = [
  { key: "title", label: "Name", hint: "" },
  { key: "strapline", label: "A line about it", hint: "shown where parts have a place for it" },
  { key: "language", label: "Language of the pages", hint: "as a code: en, de, fr-CA" },
].map((w) => ({ ...w, setting: useSetting<string>(site, draft, w.key, edits) }))
</script>

<template>
  <section data-site-words>
    <h2 class="mb-2">What the site says of itself</h2>
    <EditedNote :edits="edits" :site="site" :draft="draft" />
    <div v-for="w in words" :key="w.key" class="mb-3">
      <label class="label" :for="`site-${w.key}`">{{ w.label }}</label>
      <KeptField
        :id="`site-${w.key}`"
        class="field max-w-sm"
        :value="w.setting.value.value ?? ''"
        :readonly="!keeper"
        @change="(v) => void w.setting.write(v.trim())"
      />
      <span v-if="w.hint" class="block text-sm text-faded">{{ w.hint }}</span>
    </div>
  </section>
</template>
