<script setup lang="ts">
import { computed, toRef } from "vue"
import { useOwnLooks } from "../../composables/useOwnLooks"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// Whose look what is chosen wears: this site's, or one of its own. One press changes it, and one back.
const props = defineProps<{ site: string; draft: number | null; element: Element; acts: PageActs }>()
const { names, wornBy } = useOwnLooks(toRef(props, "site"), toRef(props, "draft"))
const worn = computed(() => wornBy(props.element.classes ?? []))
const wear = (name: string) => {
  if (name !== worn.value) void props.acts.run([props.acts.at(props.element, "own-look", { value: name })])
}
</script>

<template>
  <fieldset v-if="names.length" class="mb-3" data-own-look>
    <legend class="label text-sm">Its look</legend>
    <div class="flex flex-wrap gap-1">
      <button
        v-for="n in ['', ...names]"
        :key="n"
        type="button"
        class="btn-quiet px-3 py-1 text-sm"
        :class="n === worn && 'border-ink bg-slate-soft'"
        :aria-pressed="n === worn"
        @click="wear(n)"
      >
        {{ n || "This site’s" }}
      </button>
    </div>
  </fieldset>
</template>
