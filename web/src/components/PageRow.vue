<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/vue"
import { EllipsisHorizontalIcon } from "@heroicons/vue/24/outline"
import PieceThumb from "./PieceThumb.vue"
import { useDraftItem } from "../composables/useDraftItem"
import { useInSight } from "../composables/useInSight"
import { pageName } from "../composables/format"
import type { Schemas } from "../api/client"

const props = defineProps<{
  site: string
  page: Schemas["Item"]
  preview: string
  query: string
  draft: number | null
  keeper: boolean
  home: Schemas["Item"] | null
}>()
const emit = defineEmits<{
  title: [value: string]
  address: [value: string]
  hidden: [value: string]
  remove: []
  home: [former: string]
  copy: []
}>()
const slug = computed(() => props.page.meta.slug ?? "")
// Whether search engines are asked to leave it out stands in its source, which is read when the row comes into sight.
const { inSight, mark } = useInSight()
const source = useDraftItem(
  toRef(props, "site"),
  computed(() => (inSight.value ? props.page.address : "")),
  toRef(props, "draft"),
  computed(() => props.page.state),
)
const hidden = computed(() =>
  /<meta[^>]+name=["']?robots["']?[^>]+noindex/i.test(source.data.value?.value.content ?? ""),
)
const depth = computed(() => Math.max(0, slug.value.split("/").length - 3))
const isHome = computed(() => props.home?.address === props.page.address)
const renaming = ref(false)
const becoming = ref(false)
const formerAt = ref("/former-home/")
const title = ref("")
const address = ref("")
function rename() {
  title.value = props.page.meta.title ?? ""
  address.value = slug.value
  renaming.value = true
}
function keep() {
  renaming.value = false
  if (title.value !== props.page.meta.title) emit("title", title.value)
  if (address.value !== slug.value) emit("address", address.value)
}
const acts = computed(() => [
  { says: "Title and address…", act: rename },
  { says: "Make a copy", act: () => emit("copy") },
  hidden.value
    ? { says: "Show to search engines", act: () => emit("hidden", "no") }
    : { says: "Hide from search engines", act: () => emit("hidden", "yes") },
  ...(isHome.value
    ? []
    : [
        // The former one keeps its address, unless that is the root's.
        props.home?.meta.slug === "/"
          ? { says: "Make this the home page…", act: () => (becoming.value = true) }
          : { says: "Make this the home page", act: () => emit("home", "") },
        { says: "Remove", act: () => emit("remove") },
      ]),
])
</script>

<template>
  <li :ref="mark" class="px-4 py-2.5" :style="{ paddingLeft: `${1 + depth * 1.25}rem` }" :data-page="slug">
    <div class="flex items-center gap-3">
      <PieceThumb
        bare
        class="w-24 shrink-0"
        :src="preview + slug"
        :title="page.meta.title || pageName(slug)"
      />
      <span class="min-w-0 flex-1">
        <router-link class="link font-semibold" :to="`/sites/${site}/edit${slug}${query}`">{{
          page.meta.title || pageName(slug)
        }}</router-link>
        <span class="block truncate text-faded"
          >{{ slug }}<template v-if="isHome && slug !== '/'"> · the home page</template
          ><template v-if="hidden"> · hidden from search engines</template></span
        >
      </span>
      <Menu v-if="keeper" as="div" class="relative">
        <MenuButton
          class="rounded-md p-2 hover:bg-paper"
          v-bind="{ 'aria-label': `What can be done with ${page.meta.title || slug}` }"
        >
          <EllipsisHorizontalIcon class="size-5" aria-hidden="true" />
        </MenuButton>
        <MenuItems class="sheet absolute right-0 z-40 w-60 py-1 shadow-lg">
          <MenuItem v-for="a in acts" :key="a.says" v-slot="{ active }">
            <button
              class="block w-full px-4 py-2 text-left"
              :class="active && 'bg-slate-soft'"
              @click="a.act()"
            >
              {{ a.says }}
            </button>
          </MenuItem>
        </MenuItems>
      </Menu>
    </div>
    <form v-if="renaming" class="mt-2 flex flex-wrap items-end gap-2" @submit.prevent="keep">
      <label>Title <input v-model="title" class="field" /></label>
      <label>Address <input v-model="address" class="field" /></label>
      <button class="btn">Keep</button>
      <button type="button" class="btn-quiet" @click="renaming = false">Cancel</button>
    </form>
    <form
      v-if="becoming"
      class="mt-2 flex flex-wrap items-end gap-2"
      @submit.prevent="(emit('home', formerAt), (becoming = false))"
    >
      <label
        >“{{ home?.meta.title || "The home page" }}” goes on at
        <input v-model="formerAt" class="field" />
      </label>
      <button class="btn">Make this the home page</button>
      <button type="button" class="btn-quiet" @click="(emit('home', 'removed'), (becoming = false))">
        …and remove the former
      </button>
      <button type="button" class="btn-quiet" @click="becoming = false">Cancel</button>
    </form>
  </li>
</template>
