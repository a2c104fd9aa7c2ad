<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import ProblemNote from "./ProblemNote.vue"
import SidesSlider from "./SidesSlider.vue"
import { useBeforeAfter } from "../composables/usePictures"
import { pageName } from "../composables/format"
import type { Schemas } from "../api/client"

// The pages that a draft or delivery touches, before and after; those that should not differ and do come first.
const props = defineProps<{ of: { site: string; draft: number } | { delivery: number } }>()
const from = ref(0)
const sides = useBeforeAfter(toRef(props, "of"), from)
const width = ref(1280)
const open = ref("")
const pages = computed(() => sides.data.value?.pages ?? [])
const pairOf = (p: Schemas["PictureSides"]) => p.pairs.find((x) => x.width === width.value) ?? p.pairs[0]
const chosen = computed(() => pages.value.find((p) => p.slug === open.value) ?? pages.value[0])
function says(p: Schemas["PicturePair"]) {
  if (p.differs === false) return "looks the same"
  if (p.differs) {
    const n = p.areas?.length ?? 0
    return `${(100 * (p.share ?? 0)).toFixed(1)} % differs, in ${n === 1 ? "one area" : `${n} areas`}`
  }
  if (p.before.state === "none" && p.after.state !== "none") return "is new"
  if (p.after.state === "none" && p.before.state !== "none") return "goes"
  if (p.before.state === "failed" || p.after.state === "failed") return "cannot be shown"
  return p.before.state === "waiting" || p.after.state === "waiting" ? "is being made" : "has no picture"
}
</script>

<template>
  <section aria-label="Before and after">
    <ProblemNote :error="sides.error.value" />
    <p v-if="sides.data.value && !sides.data.value.browser" class="text-faded">
      This service has no browser that makes pictures. Whoever runs it can install Debian’s chromium.
    </p>
    <p v-else-if="sides.data.value && !pages.length" class="text-faded">No page looks different.</p>
    <template v-else-if="sides.data.value">
      <div class="mb-3 flex flex-wrap items-center gap-3">
        <div class="flex gap-1" role="group" aria-label="Width">
          <button
            v-for="w in [1280, 390]"
            :key="w"
            type="button"
            class="rounded-md border px-2.5 py-1 text-sm tabular-nums"
            :class="
              width === w
                ? 'border-ink bg-sheet font-semibold'
                : 'border-transparent text-faded hover:border-hair'
            "
            :aria-pressed="width === w"
            @click="width = w"
          >
            {{ w }} px
          </button>
        </div>
        <p role="status" class="text-sm text-faded">
          {{ sides.data.value.count }} {{ sides.data.value.count === 1 ? "page" : "pages"
          }}<template v-if="sides.data.value.waiting"
            >, {{ sides.data.value.waiting }}
            {{ sides.data.value.waiting === 1 ? "picture is" : "pictures are" }} being made</template
          ><template v-if="sides.data.value.others"
            >; {{ sides.data.value.others }} more
            {{ sides.data.value.others === 1 ? "was" : "were" }} compared without a picture</template
          >
        </p>
      </div>
      <div class="grid gap-5 lg:grid-cols-[minmax(0,16rem)_minmax(0,1fr)]">
        <ul class="sheet divide-y divide-hair self-start">
          <li v-for="p in pages" :key="p.slug">
            <button
              type="button"
              class="w-full px-4 py-2.5 text-left hover:bg-paper"
              :class="chosen?.slug === p.slug && 'bg-paper'"
              :aria-current="chosen?.slug === p.slug"
              @click="open = p.slug"
            >
              <b class="block break-all">{{ pageName(p.slug) }}</b>
              <span class="text-sm" :class="p.expected ? 'text-faded' : 'font-semibold text-call'"
                >{{ says(pairOf(p)) }}<template v-if="!p.expected">, and should not</template></span
              >
            </button>
          </li>
        </ul>
        <SidesSlider
          v-if="chosen"
          :key="chosen.slug + width"
          :pair="pairOf(chosen)"
          :slug="pageName(chosen.slug)"
        />
      </div>
      <div v-if="from || sides.data.value.more !== undefined" class="mt-3 flex gap-2">
        <button v-if="from" type="button" class="btn-quiet" @click="from = Math.max(0, from - 20)">
          Pages before these
        </button>
        <button
          v-if="sides.data.value.more !== undefined"
          type="button"
          class="btn-quiet"
          @click="from = sides.data.value.more ?? 0"
        >
          More pages
        </button>
      </div>
    </template>
    <p v-else-if="!sides.error.value" class="text-faded">Pages are being looked at…</p>
  </section>
</template>
