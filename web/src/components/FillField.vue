<script setup lang="ts">
import { computed } from "vue"
import MediaPick from "./MediaPick.vue"
import type { Schemas } from "../api/client"

// What a kit asks for, in its own kind of field; a picture is chosen by looking.
const props = defineProps<{
  id: string
  fill: { label: string; type: Schemas["FillinType"]; choices?: string[] }
  site: string
  kit?: { preview: string; media: string[] }
  disabled?: boolean
}>()
const value = defineModel<string>({ required: true })
const types: Record<string, string> = { email: "email", number: "number", date: "date", phone: "tel" }
const kind = computed(() => types[props.fill.type] ?? "text")
</script>

<template>
  <textarea
    v-if="fill.type === 'rich-text'"
    :id="id"
    v-model="value"
    class="field"
    rows="4"
    :disabled="disabled"
  />
  <select v-else-if="fill.type === 'choice'" :id="id" v-model="value" class="field" :disabled="disabled">
    <option v-for="c in fill.choices ?? []" :key="c">{{ c }}</option>
  </select>
  <MediaPick
    v-else-if="fill.type === 'image'"
    :site="site"
    :draft="null"
    :kit="kit"
    :value="value"
    :label="fill.label"
    :disabled="disabled"
    @pick="(path) => (value = path)"
  />
  <input v-else :id="id" v-model="value" :type="kind" class="field" :disabled="disabled" />
</template>
