<script setup lang="ts">
import { computed, ref, watch } from "vue"
import type { Schemas } from "../api/client"
import PieceThumb from "./PieceThumb.vue"
import PreviewFrame from "./PreviewFrame.vue"
import { useSites } from "../composables/useSites"
import { useItems } from "../composables/useItems"
import { alone, showable } from "../composables/format"

/** The pieces of a kit as they look, one at a time: each variant, and with a real record in it. */
const props = defineProps<{ kit: Schemas["Kit"]; stamp: string }>()
const pieces = computed(() => props.kit.items.filter((i) => showable(i.address)))
const piece = ref("")
watch(
  pieces,
  (p) => {
    if (!p.some((i) => i.address === piece.value)) piece.value = p[0]?.address ?? ""
  },
  { immediate: true },
)
const at = computed(() => pieces.value.find((i) => i.address === piece.value))
const variant = ref("")
const record = ref("")
watch(piece, () => {
  variant.value = record.value = ""
})
const type = computed(() => at.value?.records ?? "")
const sites = useSites()
const site = ref("")
const items = useItems(site)
const records = computed(() =>
  (items.data.value?.items ?? []).filter(
    (i) => i.address.startsWith("record/") && i.meta.type === type.value,
  ),
)
watch(site, () => {
  record.value = site.value ? "longest" : ""
})
function look(as: string, which: string) {
  const q = new URLSearchParams()
  if (as) q.set("variant", as)
  if (type.value && site.value && which) {
    q.set("site", site.value)
    q.set("type", type.value)
    q.set("record", which)
  }
  const query = q.toString()
  return alone(props.kit.preview, piece.value) + (query ? `?${query}` : "")
}
const src = computed(() => look(variant.value, record.value))
// Every variant beside the others, with the records that are hardest on it.
const hardest = computed(() =>
  type.value && site.value
    ? [
        { which: "longest", words: "with the longest text" },
        { which: "no-picture", words: "without a picture" },
      ]
    : [{ which: "", words: "" }],
)
function choose(l: { as: string; which: string }) {
  variant.value = l.as
  if (l.which) record.value = l.which
}
const looks = computed(() =>
  ["", ...(at.value?.variants ?? [])].flatMap((as) =>
    hardest.value.map((r) => ({
      as,
      which: r.which,
      words: [as || "as it is", r.words].filter(Boolean).join(", "),
      src: look(as, r.which),
    })),
  ),
)
</script>

<template>
  <p v-if="!pieces.length" class="text-faded">Nothing in it can be shown.</p>
  <template v-else>
    <div class="mb-3 flex flex-wrap items-end gap-3">
      <div>
        <label class="label" for="look-piece">The piece</label
        ><select id="look-piece" v-model="piece" class="field">
          <option v-for="i in pieces" :key="i.address">{{ i.address }}</option>
        </select>
      </div>
      <div v-if="at?.variants?.length">
        <label class="label" for="look-variant">Variant</label
        ><select id="look-variant" v-model="variant" class="field">
          <option value="">as it is</option>
          <option v-for="v in at.variants" :key="v">{{ v }}</option>
        </select>
      </div>
      <template v-if="type">
        <div>
          <label class="label" for="look-site">With a {{ type }} of</label
          ><select id="look-site" v-model="site" class="field">
            <option value="">no site</option>
            <option v-for="s in sites.data.value?.sites ?? []" :key="s.name" :value="s.name">
              {{ s.title || s.name }}
            </option>
          </select>
        </div>
        <div v-if="site">
          <label class="label" for="look-record">Which one</label
          ><select id="look-record" v-model="record" class="field">
            <option value="longest">the one with the longest text</option>
            <option value="no-picture">one without a picture</option>
            <option v-for="r in records" :key="r.address" :value="r.address.slice(7)">
              {{ r.meta.title || r.address }}
            </option>
          </select>
        </div>
      </template>
    </div>
    <ul
      v-if="looks.length > 1"
      class="mb-4 grid gap-3 sm:grid-cols-2 lg:grid-cols-4"
      aria-label="Side by side"
    >
      <li v-for="l in looks" :key="l.src">
        <button
          type="button"
          class="block w-full rounded-md p-1 text-left"
          :class="l.src === src ? 'bg-sheet outline outline-2 outline-ink' : 'hover:bg-sheet'"
          :aria-pressed="l.src === src"
          @click="choose(l)"
        >
          <PieceThumb bare :src="l.src" :title="l.words" />
          <span class="mt-1 block text-sm">{{ l.words }}</span>
        </button>
      </li>
    </ul>
    <PreviewFrame :key="src + stamp" :src="src" :title="piece" tall />
  </template>
</template>
