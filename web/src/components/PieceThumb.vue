<script setup lang="ts">
import { computed, toRef } from "vue"
import { useInSight } from "../composables/useInSight"
import { lost, pictureFile, usePicture } from "../composables/usePictures"

// What a preview shows, small: a picture that the service makes when it comes into sight. Where no browser
// makes pictures it is the preview itself, scaled down and out of reach: on its own origin, which is never the
// console's. What stands in the frame changes while somebody presses it: the frame alone takes the press, so that the
// click is not lost with what was pressed.
const props = defineProps<{ src: string; title: string; bare?: boolean }>()
const { inSight, mark } = useInSight()
const picture = usePicture(toRef(props, "src"), 1280, inSight)
const file = computed(() =>
  picture.value.state === "made" && picture.value.picture ? pictureFile(picture.value.picture, true) : "",
)
</script>

<template>
  <div
    :ref="mark"
    class="relative aspect-[16/10] overflow-hidden bg-white *:pointer-events-none"
    :class="bare ? 'rounded border border-hair' : 'rounded-t-lg border-b border-hair'"
    aria-hidden="true"
    :data-picture="picture.state"
  >
    <img
      v-if="file"
      :src="file"
      alt=""
      class="block w-full"
      width="480"
      height="360"
      style="height: auto"
      @error="lost(src, 1280)"
    />
    <iframe
      v-else-if="picture.state === 'none'"
      :src="src"
      :title="title"
      loading="lazy"
      tabindex="-1"
      sandbox="allow-scripts allow-same-origin"
      scrolling="no"
      class="absolute left-0 top-0 h-[400%] w-[400%] origin-top-left scale-25 border-0"
    />
    <p
      v-else-if="picture.state === 'failed'"
      class="absolute inset-0 grid place-items-center px-3 text-center text-sm text-faded"
    >
      It cannot be shown as a picture.
    </p>
    <div v-else class="absolute inset-0 bg-paper motion-safe:animate-pulse" />
  </div>
</template>
