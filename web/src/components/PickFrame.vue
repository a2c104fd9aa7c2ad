<script setup lang="ts">
import { computed } from "vue"
import { usePicked, type Picked } from "../composables/usePicked"
import { watch } from "vue"

/** One piece as it looks, whose elements can be pointed at. */
const props = defineProps<{ origin: string; address: string; stamp?: string }>()
const emit = defineEmits<{ picked: [p: Picked] }>()
const src = computed(
  () =>
    `${props.origin}/_cp/pick/${props.address}${props.stamp ? `?${encodeURIComponent(props.stamp)}` : ""}`,
)
const picked = usePicked(() => props.origin)
watch(picked, (p) => {
  if (p) emit("picked", p)
})
</script>

<template>
  <iframe
    :src="src"
    sandbox="allow-scripts allow-same-origin allow-forms"
    referrerpolicy="no-referrer"
    :title="`${address}: point at an element`"
    class="h-[30rem] w-full rounded-md border border-hair bg-white"
  />
</template>
