<script setup lang="ts">
import { computed, toRef } from "vue"
import PieceThumb from "./PieceThumb.vue"
import { useItems } from "../composables/useItems"
import { alone } from "../composables/format"
import type { Schemas } from "../api/client"
import type { ZipHolds } from "../composables/zipHolds"

// What a new site will hold, in pictures: the pages of a kit or of the site that it copies, or what a folder has.
const props = defineProps<{ kit?: Schemas["Kit"]; copyOf: string; folder: ZipHolds | null }>()
const copied = useItems(toRef(props, "copyOf"))
const shown = 8
const pages = computed(() => {
  if (props.kit)
    return props.kit.items
      .filter((i) => i.address.startsWith("page/"))
      .map((i) => ({ title: i.title || i.address.slice(5), src: alone(props.kit!.preview, i.address) }))
  if (!props.copyOf) return []
  return (copied.data.value?.items ?? [])
    .filter((i) => i.address.startsWith("page/") && i.meta.slug)
    .map((i) => ({
      title: i.meta.title || i.address.slice(5),
      src: copied.data.value!.preview + i.meta.slug,
    }))
})
const others = computed(() =>
  props.kit
    ? props.kit.items.length - pages.value.length
    : (copied.data.value?.items.length ?? 0) - pages.value.length,
)
const plural = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`
</script>

<template>
  <div v-if="pages.length || folder" class="sm:col-span-2" data-holds>
    <p class="label">What it will hold</p>
    <template v-if="folder">
      <p class="mb-2 text-faded">
        {{ plural(folder.pages.length, "page") }} and
        {{ plural(folder.files - folder.pages.length, "other file") }}.
        {{ folder.pages.length ? "" : "Nothing in it is called .html: is it the folder of a site?" }}
      </p>
      <ul class="grid grid-cols-4 gap-2 sm:grid-cols-8">
        <li
          v-for="p in folder.pictures"
          :key="p.name"
          class="overflow-hidden rounded border border-hair bg-white"
        >
          <img :src="p.url" :alt="p.name" class="aspect-square w-full object-cover" />
        </li>
      </ul>
    </template>
    <template v-else>
      <ul class="grid grid-cols-2 gap-3 sm:grid-cols-4">
        <li v-for="p in pages.slice(0, shown)" :key="p.src">
          <PieceThumb bare :src="p.src" :title="p.title" />
          <span class="block truncate text-sm">{{ p.title }}</span>
        </li>
      </ul>
      <p class="mt-2 text-faded">
        <template v-if="pages.length > shown">{{ plural(pages.length - shown, "more page") }}, and </template>
        {{ plural(others, "other item") }}: parts, styles, media and settings.
      </p>
    </template>
  </div>
</template>
