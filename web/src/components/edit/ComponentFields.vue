<script setup lang="ts">
import KeptField from "../KeptField.vue"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// A component by the attributes that it is known to have.
const props = defineProps<{ element: Element; acts: PageActs }>()
const set = (property: string, value: string) =>
  props.acts.run([props.acts.at(props.element, "attribute", { property, value })])
</script>

<template>
  <fieldset class="mb-3 space-y-1 text-sm" data-component-fields>
    <legend class="label">What it shows</legend>
    <label v-for="a in element.attributes" :key="a.name" class="block"
      ><span class="font-semibold first-letter:uppercase">{{ a.name.replaceAll("-", " ") }}</span>
      <KeptField
        class="field min-h-9 py-1"
        :value="a.value"
        :data-attribute="a.name"
        @change="(v) => set(a.name, v)"
    /></label>
  </fieldset>
</template>
