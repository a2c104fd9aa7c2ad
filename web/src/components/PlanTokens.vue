<script setup lang="ts">
import { computed, ref } from "vue"
import DecisionChoice from "./DecisionChoice.vue"
import PreviewFrame from "./PreviewFrame.vue"
import type { Schemas } from "../api/client"
import { pageName } from "../composables/format"

// Tokens of both sides: how far apart, with which contrast, and tried on before deciding.
const props = defineProps<{ delivery: Schemas["Delivery"]; plan: Schemas["Plan"]; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
const colour = (v: string) => /^#|^rgb|^hsl|^ok/.test(v)
const tried = ref<Set<string>>(new Set())
const trying = ref(false)
const slugs = computed(() => [...new Set(["/", ...props.plan.touched.map((t) => t.slug)])])
const slug = ref("/")
function tryOn(property: string) {
  const next = new Set(tried.value)
  if (!next.delete(property)) next.add(property)
  tried.value = next
  trying.value = true
}
function tryAll() {
  tried.value = new Set(props.plan.tokens.filter((t) => t.site).map((t) => t.property))
  trying.value = true
}
const src = computed(
  () =>
    `${props.delivery.plannedPreview}${slug.value}${tried.value.size ? `?try=${[...tried.value].join(",")}` : ""}`,
)
/** Texts that are hard to read: each pair of colours once, with how many rules more show it. */
const poor = computed(() => {
  const pairs = new Map<string, Schemas["ContrastRow"] & { more: number }>()
  for (const c of props.plan.contrasts) {
    if (Math.min(c.as, c.site, c.kit) >= 4.5) continue
    const key = `${c.text} on ${c.ground}`
    const had = pairs.get(key)
    if (had) had.more++
    else pairs.set(key, { ...c, more: 0 })
  }
  return [...pairs.values()]
})
const all = ref(false)
const few = 8
</script>

<template>
  <section v-if="plan.tokens.length" class="mb-8" aria-label="Colours, type and spacing">
    <div class="mb-3 flex flex-wrap items-center gap-2">
      <h2>Colours, type and spacing</h2>
      <button
        type="button"
        class="btn-quiet ml-auto"
        :disabled="disabled"
        @click="emit('decide', 'token:*', 'keep')"
      >
        Keep all of the site’s
      </button>
      <button type="button" class="btn-quiet" :disabled="disabled" @click="emit('decide', 'token:*', 'take')">
        Take all of the kit’s
      </button>
      <button type="button" class="btn-quiet" @click="tryAll">Try all on</button>
    </div>
    <div class="sheet overflow-x-auto">
      <table>
        <thead>
          <tr>
            <th>Token</th>
            <th>Here</th>
            <th>In the kit</th>
            <th>Apart</th>
            <th>Decision</th>
            <th><span class="sr-only">Try on</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in plan.tokens" :key="t.property" :data-token="t.property">
            <td class="addr whitespace-nowrap">{{ t.property }}</td>
            <td>
              <span v-if="t.site" class="inline-flex items-center gap-2"
                ><span
                  v-if="colour(t.site)"
                  class="inline-block size-5 rounded border border-hair"
                  :style="{ background: t.site }"
                />{{ t.site }}</span
              ><span v-else class="text-faded">has none; nearest is {{ t.nearest }}</span>
            </td>
            <td>
              <span class="inline-flex items-center gap-2"
                ><span
                  v-if="colour(t.kit)"
                  class="inline-block size-5 rounded border border-hair"
                  :style="{ background: t.kit }"
                />{{ t.kit }}</span
              >
            </td>
            <td>{{ t.distance ? t.distance.toFixed(3) : "–" }}</td>
            <td>
              <DecisionChoice
                :choices="t.choices"
                :about="t.key"
                :site="delivery.site"
                :chosen="t.decision"
                :disabled="disabled"
                inline
                @decide="(w) => emit('decide', t.key, w)"
              />
            </td>
            <td>
              <button
                v-if="t.site"
                type="button"
                class="btn-quiet whitespace-nowrap px-3 py-1"
                :aria-pressed="tried.has(t.property)"
                @click="tryOn(t.property)"
              >
                {{ tried.has(t.property) ? "On trial" : "Try on" }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="trying" class="mt-4">
      <label class="mb-3 flex items-center gap-2"
        ><span class="whitespace-nowrap">Tried on</span>
        <select v-model="slug" class="field max-w-xs">
          <option v-for="s in slugs" :key="s" :value="s">{{ pageName(s) }}</option></select
        ><span class="text-faded">{{
          tried.size ? `with the kit’s ${[...tried].join(", ")}` : "with the site’s own"
        }}</span></label
      >
      <PreviewFrame :src="src" title="As it would look" />
    </div>
    <div v-if="poor.length" class="sheet mt-4 overflow-x-auto">
      <table>
        <thead>
          <tr>
            <th>Text on ground, contrast below 4.5</th>
            <th>With the site’s</th>
            <th>With the kit’s</th>
            <th>As decided</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(c, k) in all ? poor : poor.slice(0, few)" :key="k">
            <td>
              <span class="addr">{{ c.where }}</span><span v-if="c.more">
                and {{ c.more }} more {{ c.more === 1 ? "rule" : "rules" }}</span
              ><br /><span class="text-faded">{{ c.text }} on {{ c.ground }}</span>
            </td>
            <td
              v-for="n in [c.site, c.kit, c.as]"
              :key="n"
              :class="n < 4.5 ? 'font-semibold text-call' : 'text-calm'"
            >
              {{ n.toFixed(2) }} {{ n < 4.5 ? "too little" : "enough" }}
            </td>
          </tr>
        </tbody>
      </table>
      <button v-if="!all && poor.length > few" type="button" class="link m-3" @click="all = true">
        Show {{ poor.length - few }} more pairs of colours
      </button>
    </div>
    <details v-if="plan.literals.length" class="mt-4">
      <summary class="text-faded">
        {{ plan.literals.length }} colours and fonts of the kit do not use them
      </summary>
      <ul class="mt-2 columns-1 text-sm lg:columns-2">
        <li v-for="l in plan.literals" :key="l" class="addr">{{ l }}</li>
      </ul>
    </details>
  </section>
</template>
