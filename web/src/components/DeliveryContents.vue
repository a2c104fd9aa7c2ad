<script setup lang="ts">
import { computed, ref, watch } from "vue"
import PieceThumb from "./PieceThumb.vue"
import StateBadge from "./StateBadge.vue"
import type { Schemas } from "../api/client"
import { seatWords, versionWords } from "../words"
import { alone, pagesFirst, weight } from "../composables/format"
import { useVocabulary } from "../composables/useVocabulary"

const props = defineProps<{
  delivery: Schemas["Delivery"]
  plan: Schemas["Plan"]
  editable: boolean
  busy: boolean
}>()
const emit = defineEmits<{ answer: [body: Schemas["Answers"]]; next: [] }>()
const { policies } = useVocabulary()
const rows = computed(() =>
  pagesFirst(props.plan.rows.filter((r) => r.kit).sort((a, b) => a.address.localeCompare(b.address))),
)
const ticked = ref<Set<string>>(new Set())
const pages = ref<Record<string, { title: string; slug: string }>>({})
watch(
  () => props.delivery,
  (d) => {
    ticked.value = new Set(d.asked.only.length ? d.asked.only : rows.value.map((r) => r.address))
    pages.value = Object.fromEntries(
      rows.value
        .filter((r) => r.address.startsWith("page/"))
        .map((r) => [
          r.address,
          { title: d.asked.pages[r.address]?.title ?? "", slug: d.asked.pages[r.address]?.slug ?? "" },
        ]),
    )
  },
  { immediate: true },
)
const needed = (a: string) => props.plan.rows.find((r) => r.address === a)?.needed
function tick(a: string, on: boolean) {
  const next = new Set(ticked.value)
  if (on) next.add(a)
  else next.delete(a)
  ticked.value = next
}
const tickAll = (on: boolean) => (ticked.value = new Set(on ? rows.value.map((r) => r.address) : []))
const asksNew = (r: Schemas["PlanRow"]) =>
  r.address.startsWith("page/") &&
  (!r.site || ["both", "again"].includes(r.decision ?? "") || !!props.delivery.asked.pages[r.address])
const all = computed(() => ticked.value.size === rows.value.length)
function choose() {
  const asked: Record<string, { title?: string; slug?: string }> = {}
  for (const [a, p] of Object.entries(pages.value))
    if (p.title || p.slug) asked[a] = { title: p.title || undefined, slug: p.slug || undefined }
  emit("answer", { only: all.value ? [] : [...ticked.value], pages: asked })
}
</script>

<template>
  <p class="mb-4">
    {{ plan.rows.length }} items, {{ weight(plan.bytesIn) }} come in. Terms:
    {{ plan.terms.license || "no licence is named"
    }}<template v-if="plan.terms.credit">, credit to {{ plan.terms.credit }}</template
    >. The kit is {{ versionWords[plan.versionIs] }}.
  </p>
  <section class="sheet mb-6 grid gap-4 p-5 lg:grid-cols-2" aria-label="How to decide">
    <fieldset>
      <legend class="label">Where no decision was made</legend>
      <label v-for="p in policies" :key="p.policy" class="mb-1.5 flex items-baseline gap-2"
        ><input
          type="radio"
          name="policy"
          :value="p.policy"
          :checked="delivery.asked.policy === p.policy"
          :disabled="!editable || busy"
          @change="emit('answer', { policy: p.policy })"
        /><span
          ><b>{{ p.policy }}</b> <span class="text-faded">{{ p.description }}</span></span
        ></label
      >
    </fieldset>
    <fieldset>
      <legend class="label">Where both have a header, a footer or the like</legend>
      <label v-for="(says, w) in seatWords" :key="w" class="mb-1.5 flex items-baseline gap-2"
        ><input
          type="radio"
          name="seats"
          :value="w"
          :checked="delivery.asked.seats === w"
          :disabled="!editable || busy"
          @change="emit('answer', { seats: w })"
        /><span>{{ says }}</span></label
      >
      <p class="text-faded">A part that loses its place is not deleted.</p>
    </fieldset>
  </section>
  <form @submit.prevent="choose">
    <div class="sheet overflow-x-auto" role="region" aria-label="Items" tabindex="0">
      <table>
        <thead>
          <tr>
            <th class="w-10 whitespace-nowrap">
              <input
                type="checkbox"
                aria-label="All of it comes"
                :checked="all"
                :indeterminate="!all && ticked.size > 0"
                :disabled="!editable || busy"
                @change="tickAll(($event.target as HTMLInputElement).checked)"
              />
              Comes
            </th>
            <th>Item</th>
            <th>On the site</th>
            <th>Weight</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.address">
            <td>
              <input
                type="checkbox"
                :checked="ticked.has(r.address)"
                :disabled="!editable || busy"
                :aria-label="`${r.address} comes`"
                @change="tick(r.address, ($event.target as HTMLInputElement).checked)"
              />
            </td>
            <td>
              <PieceThumb
                v-if="delivery.kitPreview && /^(page|section|part|block)\//.test(r.address)"
                bare
                class="float-right ml-3 w-24"
                :src="alone(delivery.kitPreview, r.address)"
                :title="r.kit?.title || r.address"
              />
              <span class="addr">{{ r.address }}</span><br /><span class="text-faded">{{ r.kit?.title }}</span
              ><span v-if="needed(r.address)" class="block text-sm text-amber"
                >comes anyway: {{ needed(r.address) }}</span
              >
              <div v-if="asksNew(r) && pages[r.address]" class="mt-2 grid max-w-xl gap-2 sm:grid-cols-2">
                <input
                  v-model="pages[r.address].title"
                  class="field"
                  :placeholder="r.kit?.title || 'Title'"
                  :aria-label="`Title of ${r.address} on the site`"
                  :disabled="!editable"
                />
                <input
                  v-model="pages[r.address].slug"
                  class="field addr"
                  placeholder="/its-address/"
                  :aria-label="`Address of ${r.address} on the site`"
                  :disabled="!editable"
                />
              </div>
            </td>
            <td><StateBadge :state="r.standing" /></td>
            <td>{{ r.kit ? weight(r.kit.bytes) : "–" }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="mt-6 flex flex-wrap gap-3">
      <button v-if="editable" class="btn-quiet" :disabled="busy || ticked.size === 0">
        {{
          all
            ? "Plan with all of it"
            : `Plan with ${ticked.size} ${ticked.size === 1 ? "item" : "items"} and what they need`
        }}
      </button>
      <button type="button" class="btn" @click="$emit('next')">On to the plan</button>
    </div>
  </form>
</template>
