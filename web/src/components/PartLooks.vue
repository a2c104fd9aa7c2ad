<script setup lang="ts">
import { titleOf } from "../composables/format"
import { computed, toRef } from "vue"
import { useDraftItems } from "../composables/useDraftItem"
import { useItems } from "../composables/useItems"
import { useOwnLooks } from "../composables/useOwnLooks"

// The looks that header and footer wear: the site's, or one of their own.
const props = defineProps<{ site: string; draft: number | null; keeper: boolean }>()
const emit = defineEmits<{ change: [part: string, look: string] }>()
const site = toRef(props, "site")
const draft = toRef(props, "draft")
const items = useItems(site, draft)
const { names, wornBy } = useOwnLooks(site, draft)
const parts = computed(() =>
  (items.data.value?.items ?? []).filter((i) => ["header", "footer"].includes(i.meta.role ?? "")),
)
const contents = useDraftItems(site, parts, draft)
const worn = computed(() => contents.value.map((c) => wornBy(c?.match(/\bown-\d+\b/g) ?? [])))
</script>

<template>
  <section v-if="names.length && parts.length">
    <h2 class="mb-2">Header and footer</h2>
    <ul class="sheet divide-y divide-hair">
      <li v-for="(p, i) in parts" :key="p.address" class="flex flex-wrap items-center gap-3 px-4 py-2">
        <span class="min-w-0 flex-1">{{ titleOf(p) }}</span>
        <select
          class="field min-h-9 w-56 py-1"
          :aria-label="`Look of ${titleOf(p)}`"
          :value="worn[i]"
          :disabled="!keeper"
          @change="emit('change', p.address, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">as the site</option>
          <option v-for="n in names" :key="n" :value="n">{{ n }}</option>
        </select>
      </li>
    </ul>
  </section>
</template>
