<script setup lang="ts">
import { computed, toRef } from "vue"
import { useDraftItem } from "../../composables/useDraftItem"
import type { PageActs } from "../../composables/usePageActs"

// The rules that a part or section carries in itself, where it has any: they can hold for the whole site.
const props = defineProps<{
  site: string
  draft: number | null
  step: number
  piece: string
  acts: PageActs
}>()
const item = useDraftItem(
  toRef(props, "site"),
  toRef(props, "piece"),
  toRef(props, "draft"),
  toRef(props, "step"),
)
const has = computed(() => {
  const now = item.data.value?.value
  return now?.item.address === props.piece && /<style[\s>]/i.test(now.content ?? "")
})
const move = () => {
  const name = props.piece.split("/")[1]
  return props.acts.run([{ op: "styles-move", item: props.piece, value: `stylesheet/${name}` }])
}
</script>

<template>
  <details v-if="has" class="mb-1">
    <summary class="font-semibold">Its own rules</summary>
    <p class="my-1 text-sm text-faded">
      Rules that only this piece carries can hold for the whole site; its pages look the same.
    </p>
    <button type="button" class="btn-quiet px-3 py-1 text-sm" data-styles-move @click="move">
      Move them to a stylesheet of the site
    </button>
  </details>
</template>
