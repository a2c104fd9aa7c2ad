<script setup lang="ts">
import { ref, toRef, watch } from "vue"
import { useSetting } from "../composables/useSetting"
import type { useSiteEdits } from "../composables/useSiteEdits"

// The site's addresses in social networks: written once, shown wherever they are placed.
const props = defineProps<{
  site: string
  draft: number | null
  keeper: boolean
  edits: ReturnType<typeof useSiteEdits>
}>()
interface Profile {
  name: string
  url: string
}
const { value, usedBy, write } = useSetting<Profile[]>(
  toRef(props, "site"),
  toRef(props, "draft"),
  "profiles",
  props.edits,
)
const rows = ref<Profile[]>([])
watch(value, (v) => (rows.value = (Array.isArray(v) ? v : []).map((p) => ({ ...p }))), { immediate: true })
const says = ref("")
function keep() {
  const list = rows.value.filter((r) => r.name.trim() || r.url.trim())
  const bad = list.find((r) => !/^https?:\/\/[^\s]+$/.test(r.url.trim()) || !r.name.trim())
  says.value = bad ? "Each has a name and an address that begins with https://." : ""
  if (!bad) void write(list.map((r) => ({ name: r.name.trim(), url: r.url.trim() })))
}
</script>

<template>
  <section class="sheet p-4" data-profiles>
    <h2 class="mb-1">Social addresses</h2>
    <p class="mb-3 text-faded">
      Written once, shown wherever they are placed<template v-if="usedBy.length"
        >: {{ usedBy.join(", ") }}</template
      >.
    </p>
    <form class="space-y-2" @submit.prevent="keep">
      <div v-for="(r, i) in rows" :key="i" class="flex gap-2">
        <input v-model="r.name" class="field w-32" :readonly="!keeper" :aria-label="`Name ${i + 1}`" />
        <input v-model="r.url" class="field" :readonly="!keeper" :aria-label="`Address ${i + 1}`" />
        <button v-if="keeper" type="button" class="link" @click="rows.splice(i, 1)">
          Remove<span class="sr-only"> {{ r.name }}</span>
        </button>
      </div>
      <p v-if="says" role="alert" class="text-call">{{ says }}</p>
      <p v-if="keeper" class="flex gap-2">
        <button type="button" class="btn-quiet" @click="rows.push({ name: '', url: 'https://' })">
          Add one
        </button>
        <button v-if="rows.length || value?.length" class="btn">Keep them</button>
      </p>
    </form>
  </section>
</template>
