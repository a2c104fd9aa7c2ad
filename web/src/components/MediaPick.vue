<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useItems } from "../composables/useItems"
import { isPicture } from "../composables/format"

// A picture of a site, or of a kit, is chosen by looking, never by typing its path. The value is a path: /media/NAME.
const props = defineProps<{
  site: string
  draft: number | null
  /** The pictures of a kit, in the place of a site's. */
  kit?: { preview: string; media: string[] }
  value: string
  label: string
  disabled?: boolean
}>()
const emit = defineEmits<{ pick: [path: string] }>()
const items = useItems(toRef(props, "site"), toRef(props, "draft"))
const open = ref(false)
const words = ref("")
const list = computed(() =>
  (props.kit?.media ?? (items.data.value?.items ?? []).map((i) => i.address)).filter(
    (a) => isPicture(a) && a.toLowerCase().includes(words.value.toLowerCase()),
  ),
)
const source = (path: string) => `${props.kit?.preview ?? items.data.value?.preview ?? ""}${path}`
function pick(address: string) {
  open.value = false
  emit("pick", `/${address}`)
}
</script>

<template>
  <div data-media-pick>
    <button
      type="button"
      class="flex w-full items-center gap-3 rounded-md border border-faded/60 bg-white p-2 text-left"
      :disabled="disabled"
      :aria-expanded="open"
      :aria-label="`${label}: ${value ? value.split('/').at(-1) : 'none'}. Choose another`"
      @click="open = !open"
    >
      <img
        v-if="value && isPicture(value.slice(1))"
        :src="source(value)"
        alt=""
        class="size-14 rounded object-cover"
      />
      <span class="min-w-0 flex-1 truncate" :class="!value && 'text-faded'">{{
        value ? value.split("/").at(-1) : "Choose a picture"
      }}</span>
    </button>
    <div v-if="open" class="mt-2">
      <input
        v-model="words"
        type="search"
        class="field mb-2 min-h-9 py-1"
        placeholder="Search the pictures"
        aria-label="Search the pictures"
      />
      <p v-if="!list.length" class="text-faded">
        {{ words ? `None is called “${words}”.` : "There are no pictures yet." }}
      </p>
      <ul class="grid max-h-52 grid-cols-4 gap-1 overflow-y-auto">
        <li v-for="a in list.slice(0, 80)" :key="a">
          <button
            type="button"
            class="block w-full overflow-hidden rounded border border-hair hover:border-ink"
            :title="a.slice(6)"
            :data-pick="a"
            @click="pick(a)"
          >
            <img
              :src="source('/' + a)"
              :alt="a.slice(6)"
              loading="lazy"
              class="aspect-square w-full object-cover"
            />
          </button>
        </li>
      </ul>
    </div>
  </div>
</template>
