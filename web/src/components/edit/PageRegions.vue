<script setup lang="ts">
import { computed, toRef } from "vue"
import { fillOf, regionsOf } from "../../composables/blanks"
import { useDraftItem, useDraftItems } from "../../composables/useDraftItem"
import type { PageActs } from "../../composables/usePageActs"

// The open regions of the parts around a page: what this page has of its own there.
const props = defineProps<{
  site: string
  page: string
  item: string
  draft: number | null
  step: number
  parts: string[]
  acts: PageActs
}>()
const contents = useDraftItems(
  toRef(props, "site"),
  computed(() => props.parts.map((address) => ({ address, state: props.step }))),
  toRef(props, "draft"),
)
const own = useDraftItem(
  toRef(props, "site"),
  toRef(props, "item"),
  toRef(props, "draft"),
  toRef(props, "step"),
)
const regions = computed(() =>
  contents.value
    .flatMap((c, i) => regionsOf(props.parts[i], c ?? ""))
    .map((r) => ({ ...r, value: fillOf(r.name, own.data.value?.value.content ?? "") })),
)
const fill = (region: string, value: string) =>
  props.acts.run([{ op: "region-fill", page: props.page, property: region, value: value.trim() }])
</script>

<template>
  <div v-if="regions.length" class="sm:col-span-2 lg:col-span-4" data-page-regions>
    <div v-for="r in regions" :key="r.part + r.name" class="mb-2">
      <label class="block"
        ><span class="font-semibold">Of its own in “{{ r.name.replaceAll("-", " ") }}”</span>
        <textarea
          class="field py-1"
          rows="2"
          :value="r.value"
          placeholder="as on all pages"
          :data-fill-region="r.name"
          @change="fill(r.name, ($event.target as HTMLTextAreaElement).value)"
        />
      </label>
      <button
        type="button"
        class="link min-h-6 text-sm"
        @click="acts.run([{ op: 'region-close', item: r.part, property: r.name }])"
      >
        Close it: all pages show what the part has there
      </button>
    </div>
  </div>
</template>
