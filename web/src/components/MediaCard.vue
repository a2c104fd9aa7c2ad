<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import CropBox from "./CropBox.vue"
import KeptField from "./KeptField.vue"
import { api, result, type Schemas } from "../api/client"
import { send } from "../api/send"
import { useInSight } from "../composables/useInSight"
import { useMediaTexts } from "../composables/useMediaTexts"
import { isPicture, weight } from "../composables/format"
import type { Area } from "../composables/area"
import type { useSiteEdits } from "../composables/useSiteEdits"

// One of a site's media: how large it is, what shows it, what is said of it; replaced, cropped, removed.
const props = defineProps<{
  site: string
  draft: number | null
  media: Schemas["SiteMedia"]
  preview: string
  keeper: boolean
  edits: ReturnType<typeof useSiteEdits>
}>()
const address = computed(() => props.media.item.address)
const name = computed(() => address.value.slice(6))
const picture = computed(() => isPicture(address.value))
const source = computed(() => `${props.preview}/${address.value}?${props.media.item.state}`)
const { inSight, mark } = useInSight()
const texts = useMediaTexts(
  toRef(props, "site"),
  toRef(props, "draft"),
  address,
  computed(() => inSight.value && picture.value && props.media.usedBy.length > 0),
)
const cropping = ref(false)
const cropped = computed(() => picture.value && !/\.(svg|gif)$/i.test(address.value))
async function crop(area: Area) {
  const ok = await props.edits.act(async (draft) => {
    const got = await result(
      api.POST("/api/v1/sites/{site}/pictures/crop", {
        params: { path: { site: props.site } },
        body: { media: address.value, draft, ...area },
      }),
    )
    return got.says.join(". ")
  })
  if (ok) cropping.value = false
}
const write = (was: string | undefined, text: string) =>
  props.edits.act(async (draft) => {
    await result(
      api.PUT("/api/v1/sites/{site}/pictures/texts", {
        params: { path: { site: props.site } },
        body: { media: address.value, draft, was, text },
      }),
    )
    return `Wrote the alternative text of ${name.value}`
  })
async function replace(ev: Event) {
  const field = ev.target as HTMLInputElement
  const file = field.files?.[0]
  if (!file) return
  await props.edits.act(async (id) => {
    await send<Schemas["Edited"]>({
      operation: "editMedia",
      method: "PUT",
      url:
        `/api/v1/sites/${encodeURIComponent(props.site)}/media` +
        `?address=${encodeURIComponent(address.value)}&draft=${id}`,
      type: "application/octet-stream",
      file,
      progress: () => {},
    })
    return `Replaced ${name.value} everywhere it is used`
  })
  field.value = ""
}
const remove = () =>
  props.edits.act(async (id) => {
    await result(
      api.DELETE("/api/v1/sites/{site}/item", {
        params: { path: { site: props.site }, query: { address: address.value, draft: id } },
      }),
    )
    return `Removed ${name.value}`
  })
const uses = computed(() => {
  const by = props.media.usedBy
  return by.length === 0 ? "nothing shows it" : by.length === 1 ? by[0] : `${by.length} items show it`
})
const said = (t: Schemas["MediaText"], n: number) =>
  n > 1 ? `Alternative text of ${name.value} in ${t.items.join(", ")}` : `Alternative text of ${name.value}`
</script>

<template>
  <li :ref="mark" class="sheet overflow-hidden" :data-media-card="address">
    <div class="relative grid aspect-[4/3] place-items-center overflow-hidden border-b border-hair bg-white">
      <img
        v-if="picture"
        :src="source"
        :alt="name"
        loading="lazy"
        class="absolute inset-0 size-full object-contain"
      />
      <span v-else class="addr text-faded">{{ name.split(".").at(-1) }}</span>
    </div>
    <div class="px-3 py-2 text-sm">
      <router-link class="link block truncate font-semibold" :to="`/sites/${site}/${address}`">{{
        name
      }}</router-link>
      <p class="text-faded">
        <template v-if="media.width">{{ media.width }} × {{ media.height }} px, </template
        >{{ weight(media.item.bytes) }}
      </p>
      <p
        class="truncate"
        :class="media.usedBy.length ? 'text-faded' : 'text-amber'"
        :title="media.usedBy.join(', ')"
      >
        {{ uses }}
      </p>
      <div v-for="t in texts.data.value?.texts ?? []" :key="t.text + t.missing" class="mt-1">
        <KeptField
          class="field min-h-8 px-2 py-0.5 text-sm"
          :class="t.missing && 'border-amber'"
          :value="t.text"
          :readonly="!keeper"
          :placeholder="t.missing ? 'no alternative text' : 'says nothing'"
          :title="t.items.join(', ')"
          :aria-label="said(t, texts.data.value?.texts.length ?? 1)"
          @change="(v) => write(t.missing ? undefined : t.text, v)"
        />
      </div>
      <p v-if="keeper" class="mt-1 flex flex-wrap gap-x-3 gap-y-1">
        <label class="link min-h-6 cursor-pointer focus-within:outline-2"
          >Replace<span class="sr-only"> {{ name }}</span
          ><input type="file" class="sr-only" @change="replace"
        /></label>
        <button v-if="cropped" type="button" class="link min-h-6" @click="cropping = true">
          Crop<span class="sr-only"> {{ name }}</span>
        </button>
        <button v-if="!media.usedBy.length" type="button" class="link min-h-6" @click="remove">
          Remove<span class="sr-only"> {{ name }}</span>
        </button>
      </p>
    </div>
    <CropBox
      v-if="cropping"
      :name="name"
      :source="source"
      :busy="edits.busy.value"
      :says="
        media.usedBy.length
          ? `It changes wherever it is shown: ${uses}. Undo brings the whole of it back.`
          : 'Undo brings the whole of it back.'
      "
      @crop="crop"
      @close="cropping = false"
    />
  </li>
</template>
