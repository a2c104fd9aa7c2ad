<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import CropBox from "../CropBox.vue"
import FileDrop from "../FileDrop.vue"
import { useItems } from "../../composables/useItems"
import { isPicture } from "../../composables/format"
import type { Area } from "../../composables/area"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// A picture: another one by drop or from the site's media, its alternative text, and what of it stays in sight.
const props = defineProps<{ site: string; draft: number | null; element: Element; acts: PageActs }>()
const items = useItems(toRef(props, "site"), toRef(props, "draft"))
const words = ref("")
const media = computed(() =>
  (items.data.value?.items ?? [])
    .filter((i) => isPicture(i.address))
    .filter((i) => i.address.toLowerCase().includes(words.value.toLowerCase())),
)
const alternative = ref(props.element.alternative ?? "")
watch(
  () => props.element.alternative ?? "",
  (now, was) => {
    if (alternative.value === was) alternative.value = now
  },
)
// Of a picture that this page alone shows otherwise, a copy is cropped.
const cropping = ref(false)
const busy = ref(false)
const cropped = computed(() => {
  // The page writes another address, of which the name is the file's; two files of one name are not told apart.
  const name = props.element.source?.split("/").at(-1)?.split("?")[0] ?? ""
  const all = (items.data.value?.items ?? []).map((i) => i.address)
  const found = all.filter((a) => isPicture(a) && a.split("/").at(-1) === name)
  return found.length === 1 && !/\.(svg|gif)$/i.test(name) ? found[0] : ""
})
const preview = computed(() => items.data.value?.preview ?? "")
async function crop(area: Area) {
  busy.value = true
  cropping.value = !(await props.acts.crop(props.element, cropped.value, area))
  busy.value = false
}
const positions = ["top", "center", "bottom"].flatMap((y) =>
  ["left", "center", "right"].map((x) => `${x} ${y}`),
)
</script>

<template>
  <fieldset class="mb-3">
    <legend class="label text-sm">Picture</legend>
    <FileDrop
      says="Drop another picture here, or choose one."
      accept="image/*"
      :share="null"
      @file="(f: File) => acts.picture(element, f)"
    />
    <input
      v-model="words"
      type="search"
      class="field my-2 min-h-9 py-1"
      placeholder="Search the site’s pictures"
      aria-label="Search the site’s pictures"
    />
    <ul class="grid max-h-44 grid-cols-4 gap-1 overflow-y-auto" aria-label="Pictures of the site">
      <li v-for="m in media.slice(0, 60)" :key="m.address">
        <button
          type="button"
          class="block w-full overflow-hidden rounded border border-hair hover:border-ink"
          :title="m.address.slice(6)"
          :data-media="m.address"
          @click="acts.run([acts.at(element, 'picture', { value: m.address })])"
        >
          <img
            :src="`${items.data.value?.preview}/${m.address}`"
            :alt="m.address.slice(6)"
            loading="lazy"
            class="aspect-square w-full object-cover"
          />
        </button>
      </li>
    </ul>
    <button v-if="cropped" type="button" class="link mt-2 min-h-6 text-sm" @click="cropping = true">
      Crop it
    </button>
    <CropBox
      v-if="cropping"
      :name="cropped.slice(6)"
      :source="`${preview}/${cropped}`"
      :busy="busy"
      says="A copy is cropped and shown here; wherever else the picture stands it stays whole."
      @crop="crop"
      @close="cropping = false"
    />
    <label class="label mt-2 text-sm" :for="`alt-${element.number}`">Alternative text</label>
    <input
      :id="`alt-${element.number}`"
      v-model="alternative"
      class="field min-h-9 py-1"
      @change="acts.run([acts.at(element, 'alternative', { value: alternative })])"
    />
    <p class="label mt-2 text-sm" aria-hidden="true">What of it stays in sight</p>
    <div class="grid w-24 grid-cols-3 gap-0.5" role="group" aria-label="What of it stays in sight">
      <button
        v-for="p in positions"
        :key="p"
        type="button"
        class="aspect-square rounded-sm border border-faded/60 bg-white hover:border-ink"
        :title="p"
        :aria-label="p"
        @click="acts.appearance(element, 'picture-position', p)"
      />
    </div>
    <button
      type="button"
      class="link mt-2 text-sm"
      @click="acts.run([acts.at(element, 'link-add', { value: '/' })])"
    >
      Make it a link
    </button>
  </fieldset>
</template>
