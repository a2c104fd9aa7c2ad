<script setup lang="ts">
import { computed, ref, watch } from "vue"
import { tagWord, usePicked, type Picked } from "../composables/usePicked"

/** One piece as it looks, whose elements can be pointed at; what is around the chosen one is chosen by a button. */
const props = defineProps<{ origin: string; address: string; stamp?: string }>()
const emit = defineEmits<{ picked: [p: Picked] }>()
const frame = ref<HTMLIFrameElement | null>(null)
const src = computed(
  () =>
    `${props.origin}/_cp/pick/${props.address}${props.stamp ? `?${encodeURIComponent(props.stamp)}` : ""}`,
)
const picked = usePicked(() => props.origin)
watch(picked, (p) => {
  if (p) emit("picked", p)
})
const around = () => frame.value?.contentWindow?.postMessage({ cpAround: true }, new URL(props.origin).origin)
</script>

<template>
  <iframe
    ref="frame"
    :src="src"
    sandbox="allow-scripts allow-same-origin allow-forms"
    referrerpolicy="no-referrer"
    :title="`${address}: point at an element`"
    class="h-[30rem] w-full rounded-md border border-hair bg-white"
  />
  <p
    class="mt-2 flex flex-wrap items-baseline gap-x-3"
    aria-live="polite"
    :data-picked="picked?.cpPick ?? ''"
  >
    <template v-if="picked">
      <span
        ><b>{{ tagWord(picked.tag) }}</b
        ><template v-if="picked.text"> “{{ picked.text.slice(0, 80) }}”</template></span
      >
      <button v-if="picked.around" type="button" class="link text-sm" @click="around">
        Choose what is around it
      </button>
    </template>
    <span v-else class="text-faded">Nothing is chosen yet.</span>
  </p>
</template>
