<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { entryRows, type Entry } from "./menu"
import { parsed } from "../../composables/useDraftItem"
import { useKitItem } from "../../composables/useKits"
import { useShelf } from "../../composables/useShelf"

// The entries of a kit's menu, to be taken into a menu of the site one by one.
const props = defineProps<{ site: string; draft: number | null; taken: Set<string>; pages: Set<string> }>()
const emit = defineEmits<{ take: [entry: { label: string; to: string }] }>()
const opened = ref(false)
const shelf = useShelf(toRef(props, "site"), toRef(props, "draft"), opened)
const menus = computed(() =>
  shelf.value
    .filter((p) => p.source === "kits" && p.address.startsWith("menu/"))
    .map((p) => ({
      id: `${p.from.slice(4)} ${p.address}`,
      says: `${p.title}, ${p.from.slice(4)}`,
    })),
)
const chosen = ref("")
const kit = computed(() => chosen.value.split(" ")[0] ?? "")
const address = computed(() => chosen.value.split(" ")[1] ?? "")
const item = useKitItem(kit, address)
const rows = computed(() =>
  entryRows(parsed<{ entries: Entry[] }>(item.data.value?.content)?.entries ?? []).map((r) => ({
    ...r,
    state: props.taken.has(r.to)
      ? "is there"
      : r.to.startsWith("/") && !props.pages.has(r.to.split("#")[0])
        ? "its page has not come"
        : "",
  })),
)
</script>

<template>
  <details class="mt-2 text-sm" data-menu-arrivals @toggle="opened = true">
    <summary class="font-semibold">Entries of a kit’s menu</summary>
    <select v-model="chosen" class="field my-1 min-h-9 py-1" aria-label="A kit’s menu">
      <option value="">{{ menus.length ? "Choose a menu…" : "No kit has a menu." }}</option>
      <option v-for="m in menus" :key="m.id" :value="m.id">{{ m.says }}</option>
    </select>
    <ul v-if="rows.length" class="space-y-1">
      <li v-for="r in rows" :key="r.place" class="flex items-center gap-2">
        <span class="min-w-0 flex-1 truncate"
          >{{ r.label }} <span class="text-faded">{{ r.to }}</span></span
        >
        <span v-if="r.state" class="text-faded">{{ r.state }}</span>
        <button
          v-else
          type="button"
          class="btn-quiet px-2 py-0.5"
          :aria-label="`Take ${r.label}`"
          @click="emit('take', { label: r.label, to: r.to })"
        >
          Take
        </button>
      </li>
    </ul>
  </details>
</template>
