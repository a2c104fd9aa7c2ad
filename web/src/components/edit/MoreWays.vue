<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import KeptField from "../KeptField.vue"
import { blanksOf } from "../../composables/blanks"
import { anchorOf, titleOf } from "../../composables/format"
import { useDraftItem } from "../../composables/useDraftItem"
import { useItems } from "../../composables/useItems"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// What is done with an element more rarely: values of this page's own, a section in its place, a page made of it, an
// element around it, a region that pages fill, and its style classes.
const props = defineProps<{
  site: string
  page: string
  draft: number | null
  element: Element
  acts: PageActs
}>()
const e = toRef(props, "element")
const step = computed(() => props.acts.outline.outline.value?.step ?? 0)
const items = useItems(toRef(props, "site"), toRef(props, "draft"))
const sections = computed(() =>
  (items.data.value?.items ?? []).filter((i) => i.address.startsWith("section/")),
)
const own = computed(() => props.acts.outline.isOwn(e.value))
const linked = computed(() => (e.value.linked?.startsWith("section/") ? e.value.linked : ""))
const ofPart = computed(() => (e.value.item?.startsWith("part/") ? e.value.item : ""))
const section = useDraftItem(toRef(props, "site"), linked, toRef(props, "draft"), step)
const blanks = computed(() => (linked.value ? blanksOf(section.data.value?.value.content ?? "") : []))
const splits = computed(
  () =>
    e.value.whole &&
    own.value &&
    ["group", "landmark", "section"].includes(e.value.kind) &&
    e.value.tag !== "main",
)
const below = computed(() => (props.page.endsWith("/") ? props.page : "/"))
const around = ref("div")
const instead = ref("")
const address = ref("")
const region = ref("")
const run = (op: Parameters<PageActs["at"]>[1], more: Parameters<PageActs["at"]>[2], says?: string) =>
  props.acts.run([props.acts.at(e.value, op, more)], says)
const holders = [
  ["div", "a group"],
  ["section", "a section"],
  ["article", "an article"],
  ["aside", "an aside"],
  ["figure", "a figure"],
  ["blockquote", "a quotation"],
]
</script>

<template>
  <details v-if="!e.made" class="mb-1" data-more-ways>
    <summary class="font-semibold">More</summary>
    <div class="mt-2 space-y-3 text-sm">
      <fieldset v-if="blanks.length">
        <legend class="label text-sm">On this page only</legend>
        <label v-for="b in blanks" :key="b.name" class="mb-1 block"
          >{{ b.name.replaceAll("-", " ") }}
          <KeptField
            class="field min-h-9 py-1"
            :placeholder="b.sample || 'as everywhere'"
            :data-own-value="b.name"
            @change="(v) => run('own-value', { property: b.name, value: v })"
          />
        </label>
        <p class="text-faded">An empty field goes back to what the section says.</p>
      </fieldset>
      <form
        v-if="own && e.whole && sections.length"
        class="flex gap-1"
        @submit.prevent="run('link-copy', { item: instead })"
      >
        <label class="min-w-0 flex-1"
          >Show a section of the site in its place
          <select v-model="instead" class="field min-h-9 py-1" required data-link-copy>
            <option v-for="s in sections" :key="s.address" :value="s.address">
              {{ titleOf(s) }}
            </option>
          </select></label
        ><button class="btn-quiet self-end px-3 py-1 text-sm">Link</button>
      </form>
      <form
        v-if="splits"
        class="flex gap-1"
        @submit.prevent="run('page-split', { value: `${below}${anchorOf(address)}/` })"
      >
        <label class="min-w-0 flex-1"
          >Make it a page of its own, at {{ below }}
          <input v-model="address" class="field min-h-9 py-1" required data-split /></label
        ><button class="btn-quiet self-end px-3 py-1 text-sm">Make the page</button>
      </form>
      <form v-if="e.whole" class="flex gap-1" @submit.prevent="run('wrap', { value: around })">
        <label class="min-w-0 flex-1"
          >Put it into
          <select v-model="around" class="field min-h-9 py-1" data-wrap>
            <option v-for="[tag, says] in holders" :key="tag" :value="tag">{{ says }}</option>
          </select></label
        ><button class="btn-quiet self-end px-3 py-1 text-sm">Put it in</button>
      </form>
      <form
        v-if="ofPart && e.whole"
        class="flex gap-1"
        @submit.prevent="run('region-open', { property: anchorOf(region) })"
      >
        <label class="min-w-0 flex-1"
          >Let pages have something of their own here, called
          <input v-model="region" class="field min-h-9 py-1" required data-region /></label
        ><button class="btn-quiet self-end px-3 py-1 text-sm">Open it</button>
      </form>
      <label class="block"
        >Styles of the site's sheets (classes)
        <KeptField
          class="field addr min-h-9 py-1"
          :value="(e.classes ?? []).join(' ')"
          data-classes
          @change="(v) => run('classes', { value: v })"
        />
      </label>
    </div>
  </details>
</template>
