<script setup lang="ts">
import { computed, toRef } from "vue"
import { useTokenValues } from "../../composables/useTokenValues"
import { hexOf } from "../../composables/colours"
import type { Measures } from "../../composables/usePageFrame"

// Which colours and font of the look are worn by what is chosen, each leading to the look.
const props = defineProps<{ site: string; draft: number | null; step: number; measures: Measures }>()
const { colours } = useTokenValues(toRef(props, "site"), toRef(props, "draft"), toRef(props, "step"))
const nameOf = (hex: string) => {
  const t = colours.value.find((c) => hexOf(c.value) === hex)
  return t ? t.property.replace(/^--/, "").replaceAll("-", " ") : hex
}
const worn = computed(() =>
  [
    { says: "text", hex: hexOf(props.measures.colour) },
    { says: "ground", hex: hexOf(props.measures.background) },
  ]
    .filter((w) => w.hex)
    .map((w) => ({ ...w, name: nameOf(w.hex) })),
)
const font = computed(() => props.measures.font.split(",")[0].replaceAll('"', "").trim())
</script>

<template>
  <p class="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-sm" data-worn>
    <router-link
      v-for="w in worn"
      :key="w.says"
      class="link flex min-h-6 items-center gap-1"
      :to="`/sites/${site}/looks`"
    >
      <span
        class="size-4 rounded-sm border border-hair"
        :style="{ background: w.hex }"
        aria-hidden="true"
      />{{ w.says }}
      {{ w.name }}
    </router-link>
    <router-link v-if="font" class="link min-h-6" :to="`/sites/${site}/looks`">{{ font }}</router-link>
  </p>
</template>
