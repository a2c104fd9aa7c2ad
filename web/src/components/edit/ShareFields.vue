<script setup lang="ts">
import { ref } from "vue"
import { anchorOf } from "../../composables/format"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// Makes an element a section of the site, which other pages can show linked: edited once, changed everywhere.
const props = defineProps<{ element: Element; acts: PageActs }>()
const name = ref(anchorOf(props.element.name ?? ""))
const share = () =>
  props.acts.run(
    [props.acts.at(props.element, "share", { item: `section/${anchorOf(name.value)}` })],
    "It is a section now, which other pages can show, too",
  )
</script>

<template>
  <details class="mb-1">
    <summary class="font-semibold">Use it on other pages, too</summary>
    <form class="mt-2 flex gap-1" @submit.prevent="share">
      <input v-model="name" class="field min-h-9 py-1" aria-label="Name of the section" required />
      <button class="btn-quiet shrink-0 px-3 py-1 text-sm">Make it a section</button>
    </form>
  </details>
</template>
