<script setup lang="ts">
import { computed, ref } from "vue"
import { anchorOf } from "../composables/format"
import type { useSiteEdits } from "../composables/useSiteEdits"
import type { Schemas } from "../api/client"

// A new menu: empty, or of the sections of a page. It is edited on a page that shows it.
const props = defineProps<{
  pages: Schemas["Item"][]
  menus: Schemas["Item"][]
  edits: ReturnType<typeof useSiteEdits>
}>()
const emit = defineEmits<{ done: [] }>()
const title = ref("")
const page = ref("")
const address = computed(() => `menu/${anchorOf(title.value)}`)
const taken = computed(() => !!title.value && props.menus.some((m) => m.address === address.value))
async function make() {
  const more = page.value ? { page: page.value } : {}
  if (await props.edits.run([{ op: "menu-new", item: address.value, value: title.value.trim(), ...more }]))
    emit("done")
}
</script>

<template>
  <form class="sheet mt-3 flex flex-wrap items-end gap-3 p-4" data-new-menu @submit.prevent="make">
    <div>
      <label class="label" for="new-menu-title">New menu</label>
      <input id="new-menu-title" v-model="title" class="field w-56" placeholder="Its title" required />
    </div>
    <div>
      <label class="label" for="new-menu-of">Of</label>
      <select id="new-menu-of" v-model="page" class="field w-56">
        <option value="">nothing yet</option>
        <option v-for="p in pages.filter((p) => p.meta.slug)" :key="p.address" :value="p.meta.slug">
          the sections of {{ p.meta.title || p.meta.slug }}
        </option>
      </select>
    </div>
    <button class="btn" :disabled="!title.trim() || taken || edits.busy.value">Make the menu</button>
    <button type="button" class="link min-h-6" @click="emit('done')">Cancel</button>
    <p v-if="taken" class="w-full text-call" role="status">There is a menu of this name already.</p>
  </form>
</template>
