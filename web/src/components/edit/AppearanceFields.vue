<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import AppearanceField from "./AppearanceField.vue"
import { useItems } from "../../composables/useItems"
import { useTokenValues } from "../../composables/useTokenValues"
import { isPicture } from "../../composables/format"
import { appearanceFields } from "./appearance"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"
import type { Measures } from "../../composables/usePageFrame"
import type { Schemas } from "../../api/client"

// What an element looks like. The look's own values come first; what is written holds for the width at hand and
// narrower, and at 1280 px for all.
const props = defineProps<{
  site: string
  draft: number | null
  element: Element
  measures: Measures | null
  width: number
  acts: PageActs
}>()
const when = ref<NonNullable<Schemas["Operation"]["state"]> | "">("")
const items = useItems(toRef(props, "site"), toRef(props, "draft"))
const step = computed(() => props.acts.outline.outline.value?.step ?? 0)
const { colours, lengths } = useTokenValues(toRef(props, "site"), toRef(props, "draft"), step)
const media = computed(() => (items.data.value?.items ?? []).map((i) => i.address).filter(isPicture))
const fields = computed(() => appearanceFields(props.measures))
const set = (property: string, value: string) =>
  props.acts.appearance(props.element, property, value.trim(), when.value || undefined)
const states = [
  ["", "always"],
  ["pointed", "when pointed at"],
  ["focused", "when focused"],
  ["pressed", "when pressed"],
  ["current", "where it leads to this page"],
] as const
</script>

<template>
  <details class="mb-1" data-appearance>
    <summary class="font-semibold">Appearance</summary>
    <div class="mt-2 space-y-2 text-sm">
      <p class="text-faded">
        {{ width === 1280 ? "Holds at all widths." : `Holds at ${width} px and narrower.` }}
      </p>
      <label class="flex items-center gap-2"
        >When
        <select v-model="when" class="field min-h-9 py-1" data-when>
          <option v-for="[v, says] in states" :key="v" :value="v">{{ says }}</option>
        </select></label
      >
      <p class="flex flex-wrap gap-x-4">
        <button type="button" class="link" @click="acts.lift(element)">Take this appearance along</button>
        <button
          v-if="acts.lifted.value && acts.lifted.value !== element.path"
          type="button"
          class="link"
          @click="acts.run([acts.at(element, 'same-appearance', { beside: acts.lifted.value })])"
        >
          Give it the one that was taken
        </button>
      </p>
      <AppearanceField
        v-for="f in fields"
        :key="f.property"
        :field="f"
        :colours="colours"
        :lengths="lengths"
        :media="media"
        @set="(v) => set(f.property, v)"
        @look="(v) => acts.post('look', { number: element.number, list: [[f.css ?? f.property, v]] })"
      />
    </div>
  </details>
</template>
