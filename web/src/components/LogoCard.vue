<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import FileDrop from "./FileDrop.vue"
import KeptField from "./KeptField.vue"
import PieceThumb from "./PieceThumb.vue"
import { putMedia } from "../composables/useItems"
import { useSetting } from "../composables/useSetting"
import { alone } from "../composables/format"
import type { useSiteEdits } from "../composables/useSiteEdits"

// The logo: one picture, with a size at each width, and every place where it stands.
const props = defineProps<{
  site: string
  draft: number | null
  keeper: boolean
  preview: string
  edits: ReturnType<typeof useSiteEdits>
}>()
interface Logo {
  media?: string
  alt?: string
  width?: Record<string, number>
}
const { value, usedBy, write } = useSetting<Logo>(
  toRef(props, "site"),
  toRef(props, "draft"),
  "logo",
  props.edits,
)
const widths = [
  { at: "390", says: "on a phone" },
  { at: "768", says: "on a tablet" },
  { at: "1280", says: "on a desk" },
]
/** What holds at a width: its own size, else that of the next narrower one. */
const sizes = computed(() => {
  const of = value.value?.width ?? {}
  const known = Object.keys(of)
    .map(Number)
    .sort((a, b) => a - b)
  return Object.fromEntries(
    widths.map(({ at }) => {
      const below = known.filter((k) => k <= Number(at)).at(-1) ?? known[0]
      return [at, below === undefined ? 120 : of[String(below)]]
    }),
  ) as Record<string, number>
})
const shown = ref<Record<string, number>>({})
watch(
  sizes,
  (s) => {
    if (!props.edits.busy.value) shown.value = { ...s }
  },
  { immediate: true },
)
const says = ref("")
const most = 4000
async function take(file: File) {
  says.value = ""
  const drawn = file.type === "image/svg+xml"
  const size = drawn
    ? { width: 0, height: 0 }
    : await createImageBitmap(file).then(
        (b) => ({ width: b.width, height: b.height }),
        () => null,
      )
  if (!size) return (says.value = `${file.name} is no picture that browsers show.`)
  if (Math.max(size.width, size.height) > most)
    return (says.value =
      `${file.name} has ${size.width} × ${size.height} px: no screen shows a logo of that size. ` +
      `Save it ${most} px wide at most, or as SVG.`)
  let address = ""
  const put = async (id: number) => {
    address = await putMedia(props.site, id, file)
    return `Added ${address.slice(6)}`
  }
  if (await props.edits.act(put))
    await write({ ...value.value, media: `/${address}`, width: value.value?.width ?? { "1280": 120 } })
}
function size(at: string, v: string) {
  const px = Math.round(Number(v))
  if (!(px >= 1 && px <= 2000)) return (says.value = "Write a width from 1 to 2000 px.")
  says.value = ""
  shown.value = { ...shown.value, [at]: px } // those that were just written are among them
  void write({ ...value.value, width: shown.value })
}
const source = computed(() => (value.value?.media ? `${props.preview}${value.value.media}` : ""))
</script>

<template>
  <section class="sheet p-4" data-logo>
    <h2 class="mb-3">The logo</h2>
    <div class="grid gap-4 sm:grid-cols-[12rem_1fr]">
      <div class="grid min-h-24 place-items-center rounded-md border border-hair bg-white p-3">
        <img v-if="source" :src="source" alt="The logo" class="max-h-40 max-w-full" />
        <p v-else class="text-faded">No logo is set.</p>
      </div>
      <div v-if="keeper" class="min-w-0 space-y-3">
        <FileDrop
          :says="source ? 'Drop another logo here, or choose one.' : 'Drop a logo here, or choose one.'"
          accept="image/*"
          :share="null"
          @file="take"
        />
        <div v-for="w in source ? widths : []" :key="w.at" class="flex flex-wrap items-center gap-3">
          <span class="w-36">{{ w.says }}, {{ w.at }} px</span>
          <input
            v-model.number="shown[w.at]"
            type="range"
            min="16"
            max="400"
            class="min-w-24 flex-1 accent-ink"
            :aria-label="`Width of the logo ${w.says}`"
            @change="size(w.at, String(shown[w.at]))"
          />
          <KeptField
            type="number"
            min="1"
            max="2000"
            class="field min-h-9 w-24 py-1"
            :value="shown[w.at]"
            :aria-label="`Width of the logo ${w.says}, in px`"
            :data-logo-at="w.at"
            @change="(v) => size(w.at, v)"
          />
          <span class="text-faded">px wide</span>
        </div>
        <label v-if="source" class="block"
          >Alternative text
          <KeptField
            class="field"
            :value="value?.alt"
            placeholder="the site’s name"
            @change="(alt) => write({ ...value, alt })"
        /></label>
      </div>
    </div>
    <p v-if="says" role="alert" class="mt-2 text-call">{{ says }}</p>
    <div v-if="usedBy.length" class="mt-4">
      <h3 class="mb-2">Where it stands</h3>
      <ul class="grid grid-cols-2 gap-3 sm:grid-cols-4">
        <li v-for="u in usedBy" :key="u">
          <PieceThumb bare :src="alone(preview, u)" :title="u" />
          <router-link class="link text-sm" :to="`/sites/${site}/${u}`">{{
            u.slice(u.indexOf("/") + 1)
          }}</router-link>
        </li>
      </ul>
    </div>
  </section>
</template>
