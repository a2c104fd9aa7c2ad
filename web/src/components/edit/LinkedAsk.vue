<script setup lang="ts">
import type { PageActs } from "../../composables/usePageActs"

// What is asked once a draft, when a section that other pages show, too, is changed for the first time.
defineProps<{ acts: PageActs }>()
</script>

<template>
  <div
    v-if="acts.linkedAsked.value"
    class="absolute inset-x-3 bottom-3 z-10 rounded-md bg-amber-soft px-4 py-2 shadow-lg"
    role="group"
    aria-label="Everywhere, or only on this page"
    data-linked-ask
  >
    <p class="mb-2" role="status">
      “{{ acts.linkedAsked.value.title }}” stands on {{ acts.linkedAsked.value.pages }} pages: what you
      changed shows on all of them.
    </p>
    <button type="button" class="btn-quiet mr-2 px-3 py-1" @click="acts.answerLinked(true)">
      Everywhere
    </button>
    <button type="button" class="btn-quiet px-3 py-1" @click="acts.answerLinked(false)">
      Only on this page
    </button>
  </div>
</template>
