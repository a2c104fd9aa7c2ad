<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import {
  ArrowDownIcon,
  ArrowUpIcon,
  DocumentDuplicateIcon,
  LinkIcon,
  TrashIcon,
} from "@heroicons/vue/24/outline"
import AppearanceFields from "./AppearanceFields.vue"
import ComponentFields from "./ComponentFields.vue"
import FormFields from "./FormFields.vue"
import LinkFields from "./LinkFields.vue"
import MoreWays from "./MoreWays.vue"
import OwnLook from "./OwnLook.vue"
import MenuFields from "./MenuFields.vue"
import OwnRules from "./OwnRules.vue"
import PictureFields from "./PictureFields.vue"
import RecordFields from "./RecordFields.vue"
import ShareFields from "./ShareFields.vue"
import WornHere from "./WornHere.vue"
import { useRest } from "../../underWay"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"
import type { Measures } from "../../composables/usePageFrame"

// What is chosen on the page, and all that can be done with it, in one list.
const props = defineProps<{
  site: string
  page: string
  draft: number | null
  element: Element
  measures: Measures | null
  hidden: boolean
  width: number
  typing: boolean
  acts: PageActs
}>()
const e = toRef(props, "element")
const outline = props.acts.outline
const step = computed(() => outline.outline.value?.step ?? 0)
const around = computed(() => outline.around(e.value))
const boxed = computed(() =>
  [...around.value, e.value].some((o) => ["a", "button", "summary", "label"].includes(o.tag)),
)
const named = () => (e.value.name && !e.value.name.endsWith("…") ? e.value.name : "")
const words = ref(named())
// Others may have written other words meanwhile: they come in where nobody types.
watch(named, (now, was) => {
  if (words.value === was) words.value = now
})
const shared = computed(() => {
  const i = e.value.item ? outline.items.value.get(e.value.item) : undefined
  return !outline.isOwn(e.value) && i && i.pages > 1 ? i : null
})
const headings = ["h1", "h2", "h3", "h4", "h5", "h6"]
const shows = (kind: string) => (e.value.item?.startsWith(kind) ? e.value.item : "")
const rest = useRest("do")
function type(now: string, wait = 700) {
  props.acts.post("words", { number: e.value.number, value: now })
  const more = e.value.made ? { value: now } : { value: now, run: 1 }
  rest.after(wait, () => props.acts.run([props.acts.at(e.value, "text", more)]))
}
const arrange = computed(() => [
  { says: "Move up", key: "Alt+↑", icon: ArrowUpIcon, act: () => props.acts.move(e.value, -1) },
  { says: "Move down", key: "Alt+↓", icon: ArrowDownIcon, act: () => props.acts.move(e.value, 1) },
  { says: "Duplicate", key: "Ctrl+D", icon: DocumentDuplicateIcon, act: () => props.acts.duplicate(e.value) },
  { says: "Remove", key: "Delete", icon: TrashIcon, act: () => props.acts.remove(e.value) },
])
</script>

<template>
  <section class="border-b border-hair px-4 py-3" aria-label="What is chosen" data-chosen>
    <nav v-if="around.length" class="mb-1 flex flex-wrap gap-x-1 text-sm text-faded" aria-label="Around it">
      <template v-for="o in around.slice(-3)" :key="o.number">
        <button type="button" class="link min-h-6 max-w-32 truncate" @click="acts.to(o)">
          {{ outline.called(o) }}
        </button>
        <span aria-hidden="true">›</span>
      </template>
    </nav>
    <h2 class="text-lg">{{ outline.called(e) }}</h2>
    <p class="mb-2 text-sm" :class="shared ? 'text-amber' : 'text-faded'" data-whose>
      {{ outline.whose(e) }}<template v-if="shared">: a change shows on all of them</template>
    </p>
    <p v-if="!acts.keeper.value" class="mb-2 text-sm text-faded" data-only-looks>
      You can look at what stands here. Changing it takes a keeper.
    </p>
    <fieldset :disabled="!acts.keeper.value" class="contents">
      <button
        v-if="shared && e.linked"
        type="button"
        class="btn-quiet mb-3 px-3 py-1 text-sm"
        @click="acts.onlyHere(e)"
      >
        Only on this page
      </button>
      <div class="mb-3 flex flex-wrap gap-1" role="group" aria-label="Arrange">
        <button
          v-for="a in arrange"
          :key="a.says"
          type="button"
          class="btn-quiet px-2 py-1"
          :title="`${a.says} (${a.key})`"
          :disabled="!e.whole"
          @click="a.act()"
        >
          <component :is="a.icon" class="size-4" aria-hidden="true" /><span class="sr-only">{{
            a.says
          }}</span>
        </button>
        <button
          v-if="!e.made"
          type="button"
          class="btn-quiet px-2 py-1 text-sm"
          @click="acts.appearance(e, 'shown', hidden ? '' : 'no')"
        >
          {{ hidden ? "Show at" : "Hide at" }} {{ width === 1280 ? "all widths" : `${width} px` }}
        </button>
      </div>
      <div v-if="e.words && boxed" class="mb-3">
        <label class="label text-sm" :for="`words-${e.number}`">Words</label>
        <input
          :id="`words-${e.number}`"
          v-model="words"
          class="field min-h-9 py-1"
          data-words
          @input="type(words)"
          @keydown.enter.prevent="type(words, 0)"
        />
      </div>
      <div
        v-if="typing"
        class="mb-3 flex flex-wrap gap-1"
        role="group"
        aria-label="Format the selected words"
      >
        <button
          type="button"
          class="btn-quiet px-3 py-1 font-bold"
          title="Ctrl+B"
          @mousedown.prevent
          @click="acts.post('format', { tag: 'strong' })"
        >
          Bold
        </button>
        <button
          type="button"
          class="btn-quiet px-3 py-1 italic"
          title="Ctrl+I"
          @mousedown.prevent
          @click="acts.post('format', { tag: 'em' })"
        >
          Italic
        </button>
        <button
          type="button"
          class="btn-quiet px-3 py-1"
          @mousedown.prevent
          @click="acts.post('format', { tag: 'a', href: '/' })"
        >
          <LinkIcon class="size-4" aria-hidden="true" />Link
        </button>
      </div>
      <div v-if="headings.includes(e.tag) && !e.made" class="mb-3">
        <label class="label text-sm" :for="`level-${e.number}`">Level of the heading</label>
        <select
          :id="`level-${e.number}`"
          class="field min-h-9 py-1"
          :value="e.tag"
          @change="acts.run([acts.at(e, 'tag', { value: ($event.target as HTMLSelectElement).value })])"
        >
          <option v-for="(h, i) in headings" :key="h" :value="h">{{ i + 1 }}</option>
        </select>
      </div>
      <LinkFields
        v-if="e.tag === 'a' && !shows('menu/')"
        :site="site"
        :draft="draft"
        :element="e"
        :acts="acts"
      />
      <PictureFields
        v-if="e.kind === 'picture' && !e.made"
        :site="site"
        :draft="draft"
        :element="e"
        :acts="acts"
      />
      <MenuFields
        v-if="shows('menu/')"
        :site="site"
        :page="page"
        :draft="draft"
        :menu="shows('menu/')"
        :element="e"
        :acts="acts"
      />
      <FormFields
        v-if="shows('form/')"
        :site="site"
        :draft="draft"
        :form="shows('form/')"
        :step="step"
        :run="acts.run"
      />
      <RecordFields
        v-if="shows('record/')"
        :site="site"
        :draft="draft"
        :record="shows('record/')"
        :step="step"
        :run="acts.run"
      />
      <ComponentFields v-if="e.kind === 'component' && e.attributes?.length" :element="e" :acts="acts" />
      <WornHere v-if="measures" :site="site" :draft="draft" :step="step" :measures="measures" />
      <OwnLook v-if="!e.made && e.kind !== 'inline'" :site="site" :draft="draft" :element="e" :acts="acts" />
      <AppearanceFields
        v-if="!e.made"
        :site="site"
        :draft="draft"
        :element="e"
        :measures="measures"
        :width="width"
        :acts="acts"
      />
      <OwnRules
        v-if="(e.kind === 'part' || e.kind === 'section') && e.item && !e.made"
        :site="site"
        :draft="draft"
        :step="step"
        :piece="e.item"
        :acts="acts"
      />
      <MoreWays :key="e.path" :site="site" :page="page" :draft="draft" :element="e" :acts="acts" />
      <ShareFields
        v-if="e.whole && outline.isOwn(e) && ['group', 'landmark'].includes(e.kind) && e.tag !== 'main'"
        :element="e"
        :acts="acts"
      />
    </fieldset>
  </section>
</template>
