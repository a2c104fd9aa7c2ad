<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import FileDrop from "./FileDrop.vue"
import ProblemNote from "./ProblemNote.vue"
import { api, result, type Schemas } from "../api/client"
import { firstOf, pairsOf, useFonts, weightsOf } from "../composables/useFonts"
import type { useSiteEdits } from "../composables/useSiteEdits"

// The fonts of a site, and those that the library, kits and a dropped file have, with the weights that exist; one for
// each thing that the look chooses, or a pair at once.
const props = defineProps<{
  site: string
  draft: number | null
  keeper: boolean
  edits: ReturnType<typeof useSiteEdits>
}>()
const fonts = useFonts(toRef(props, "site"), toRef(props, "draft"))
const sources = computed(() => fonts.data.value?.sources ?? [])
const chosen = computed(() => sources.value[0]?.chosen ?? [])
const families = computed(() =>
  sources.value.flatMap((s) => s.families.map((f) => ({ ...f, from: s.from ?? "" }))),
)
const pairs = computed(() => pairsOf(sources.value))
const token = ref("")
const share = ref<number | null>(null)
const called = (path: string) => path.split(".").at(-1) ?? path
const placed = (from: string) => (from.startsWith("kit ") ? from.slice(4).replace("@", " ") : from)
const params = () => ({ path: { site: props.site } })
const take = (body: Schemas["TakeFont"]) =>
  props.edits.act(async (draft) => {
    const got = await result(
      api.POST("/api/v1/sites/{site}/fonts", { params: params(), body: { ...body, draft } }),
    )
    return got.says.join(". ")
  })
async function add(file: File) {
  share.value = 0
  await props.edits.act(async (draft) => {
    const got = await result(
      api.PUT("/api/v1/sites/{site}/fonts", {
        params: { ...params(), query: { draft, name: file.name, token: token.value || undefined } },
        body: file as unknown as string,
        bodySerializer: (b) => b as unknown as BodyInit,
        headers: { "Content-Type": "application/octet-stream" },
      }),
    )
    return got.says.join(". ")
  })
  share.value = null
}
</script>

<template>
  <section data-fonts>
    <h2 class="mb-2">Fonts</h2>
    <ProblemNote :error="fonts.error.value" />
    <ul v-if="families.length || pairs.length" class="sheet mb-3 divide-y divide-hair">
      <li
        v-for="f in families"
        :key="f.from + f.name"
        class="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2"
        :data-family="f.name"
      >
        <span class="min-w-0 flex-1">
          <b>{{ f.name }}</b>
          <span class="block text-sm text-faded"
            >weights {{ weightsOf(f.faces)
            }}<template v-if="f.from">, from {{ placed(f.from) }}</template></span
          >
        </span>
        <template v-if="keeper">
          <button
            v-for="c in chosen"
            :key="c.token"
            type="button"
            class="btn-quiet px-3 py-1 text-sm"
            :disabled="edits.busy.value || (!f.from && firstOf(c.value) === f.name)"
            :aria-label="`${f.name} for ${called(c.token)}`"
            @click="take({ from: f.from || undefined, family: f.name, token: c.token })"
          >
            for {{ called(c.token) }}
          </button>
        </template>
      </li>
      <li v-for="p in pairs" :key="p.from" class="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-2">
        <span class="min-w-0 flex-1">
          <span v-for="c in p.list" :key="c.token" class="block truncate" :style="{ fontFamily: c.value }">
            {{ firstOf(c.value) }} <span class="font-sans text-sm text-faded">{{ called(c.token) }}</span>
          </span>
          <span class="block text-sm text-faded">as in {{ placed(p.from) }}</span>
        </span>
        <button
          v-if="keeper"
          type="button"
          class="btn-quiet px-3 py-1 text-sm"
          :disabled="edits.busy.value"
          :aria-label="`The fonts of ${placed(p.from)}`"
          @click="take({ from: p.from, pair: true })"
        >
          Take these
        </button>
      </li>
    </ul>
    <p v-else-if="fonts.data.value" class="mb-3 text-faded">
      No font comes with the site: visitors see one of their own that the look names.
    </p>
    <div v-if="keeper" class="space-y-2">
      <FileDrop
        says="Drop a font file here, or choose one: WOFF2, WOFF, TrueType, OpenType."
        accept=".woff2,.woff,.ttf,.otf,font/*"
        :share="share"
        @file="add"
      />
      <label v-if="chosen.length" class="flex items-center gap-2 text-sm"
        >and use it for
        <select v-model="token" class="field min-h-9 w-auto py-1">
          <option value="">nothing yet</option>
          <option v-for="c in chosen" :key="c.token" :value="c.token">{{ called(c.token) }}</option>
        </select></label
      >
    </div>
  </section>
</template>
