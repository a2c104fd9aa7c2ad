<script setup lang="ts">
import { computed, ref, useId } from "vue"
import { pictureFile } from "../composables/usePictures"
import type { Schemas } from "../api/client"

// A page before and after, one over the other: the slider says how much of which is seen.
const props = defineProps<{ pair: Schemas["PicturePair"]; slug: string }>()
const share = ref(50)
const marked = ref(true)
const id = useId()
const height = computed(() => Math.max(props.pair.before.height ?? 0, props.pair.after.height ?? 0, 1))
const percent = (n: number, of: number) => `${(100 * n) / of}%`
const box = (a: Schemas["PictureArea"]) => ({
  left: percent(a.x, props.pair.width),
  width: percent(a.width, props.pair.width),
  top: percent(a.y, height.value),
  height: percent(a.height, height.value),
})
const both = computed(() => props.pair.before.state === "made" && props.pair.after.state === "made")
const missing = computed(() =>
  props.pair.before.state === "none" && props.pair.after.state === "none"
    ? ["No picture was made of it."]
    : (["before", "after"] as const)
        .filter((side) => props.pair[side].state !== "made")
        .map((side) => `${side === "before" ? "Before" : "After"}: ${words(props.pair[side])}`),
)
const sides = computed(() =>
  (["before", "after"] as const).map((side) => ({
    side,
    picture: props.pair[side],
    clip: !both.value
      ? "none"
      : side === "before"
        ? `inset(0 ${100 - share.value}% 0 0)`
        : `inset(0 0 0 ${share.value}%)`,
  })),
)
function words(p: Schemas["PictureRef"]) {
  return {
    made: "",
    waiting: "the picture is being made.",
    failed: p.message || "it cannot be shown as a picture.",
    none: "the page is not there.",
  }[p.state]
}
</script>

<template>
  <div>
    <p v-for="m in missing" :key="m" class="mb-2 text-sm text-faded">{{ m }}</p>
    <div v-if="both" class="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
      <label :for="id">Before</label>
      <input
        :id="id"
        v-model.number="share"
        type="range"
        min="0"
        max="100"
        class="min-w-40 flex-1 accent-ink"
      />
      <span>After</span>
      <label v-if="pair.areas?.length" class="flex items-center gap-1.5"
        ><input v-model="marked" type="checkbox" class="accent-ink" />what differs is marked</label
      >
    </div>
    <div
      v-if="missing.length < 2"
      class="relative max-h-[44rem] overflow-y-auto rounded-md border border-hair bg-white"
      tabindex="0"
      :aria-label="`${slug} before and after, ${pair.width} px wide`"
    >
      <div class="relative" :style="{ aspectRatio: `${pair.width} / ${height}` }">
        <template v-for="s in sides" :key="s.side">
          <img
            v-if="s.picture.state === 'made' && s.picture.picture"
            :src="pictureFile(s.picture.picture)"
            :alt="`${slug} ${s.side}`"
            class="absolute left-0 top-0 w-full"
            :style="{ clipPath: s.clip }"
          />
        </template>
        <template v-if="marked">
          <span
            v-for="(a, n) in pair.areas ?? []"
            :key="n"
            class="pointer-events-none absolute rounded-sm outline outline-2 outline-call"
            :style="box(a)"
          />
        </template>
        <span
          v-if="both"
          class="pointer-events-none absolute bottom-0 top-0 w-0.5 bg-ink"
          :style="{ left: `${share}%` }"
          aria-hidden="true"
        />
      </div>
    </div>
  </div>
</template>
