<script setup lang="ts">
import { computed } from "vue"
import { useItem } from "../composables/useItems"
import { useKit } from "../composables/useKits"
import { alone, showable, weight } from "../composables/format"
import type { Schemas } from "../api/client"
import PieceThumb from "./PieceThumb.vue"
import { useItems } from "../composables/useItems"

// Both sides of an item: the site's as it is, the kit's as it was sealed.
const props = defineProps<{ site: string; address: string; row?: Schemas["PlanRow"]; kit: string }>()
const { kit } = useKit(computed(() => props.kit.split("@")[0]), computed(() => props.kit.split("@")[1]))
const here = computed(() => props.row?.site?.address ?? "")
const items = useItems(computed(() => (here.value ? props.site : "")))
const item = useItem(computed(() => props.site), computed(() => here.value || "page/none"))
const shown = computed(() => showable(props.address))
</script>

<template>
  <div class="mb-4 grid gap-4 sm:grid-cols-2">
    <div class="sheet overflow-hidden">
      <PieceThumb v-if="here && shown && items.data.value" :src="alone(items.data.value.preview, here)" :title="`${here} of the site`" />
      <p class="px-4 py-2.5"><b>The site’s</b> <template v-if="here"><span class="addr">{{ here }}</span>, {{ weight(row?.site?.bytes ?? 0) }}</template><span v-else class="text-faded">has none</span></p>
      <pre v-if="here && item.data.value?.value.content !== undefined" class="max-h-48 overflow-auto border-t border-hair px-4 py-2 text-sm">{{ item.data.value?.value.content }}</pre>
    </div>
    <div class="sheet overflow-hidden">
      <PieceThumb v-if="shown && row?.kit && kit.data.value?.value.preview" :src="alone(kit.data.value.value.preview, address)" :title="`${address} of the kit`" />
      <p class="px-4 py-2.5"><b>The kit’s</b> <template v-if="row?.kit"><span class="addr">{{ address }}</span>, {{ weight(row.kit.bytes) }}</template><span v-else class="text-faded">no longer has it</span></p>
    </div>
  </div>
</template>
