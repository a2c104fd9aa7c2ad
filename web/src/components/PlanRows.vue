<script setup lang="ts">
import { computed } from "vue"
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/vue"
import { ChevronRightIcon } from "@heroicons/vue/24/outline"
import ConflictList from "./ConflictList.vue"
import DecisionChoice from "./DecisionChoice.vue"
import SideBySide from "./SideBySide.vue"
import StateBadge from "./StateBadge.vue"
import { useVocabulary } from "../composables/useVocabulary"
import { candidateWords, deciderWords } from "../words"
import type { Schemas } from "../api/client"

const props = defineProps<{
  delivery: Schemas["Delivery"]
  etag: string
  plan: Schemas["Plan"]
  disabled: boolean
}>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
const { standing } = useVocabulary()
const groups = computed(() => {
  const by = new Map<Schemas["Standing"], Schemas["PlanRow"][]>()
  for (const r of props.plan.rows) by.set(r.standing, [...(by.get(r.standing) ?? []), r])
  return [...by].map(([word, rows]) => ({ word, rows }))
})
const conflicts = (r: Schemas["PlanRow"]) =>
  r.conflicts?.length ? `, ${r.conflicts.length} ${r.conflicts.length === 1 ? "conflict" : "conflicts"}` : ""
</script>

<template>
  <section class="mb-8">
    <h2 class="mb-3">Item by item</h2>
    <div class="sheet divide-y divide-hair">
      <div v-for="g in groups" :key="g.word">
        <p class="flex flex-wrap items-center gap-2 bg-paper/60 px-4 py-2">
          <StateBadge :state="g.word" /><span class="text-faded">{{ standing(g.word) }}</span>
        </p>
        <Disclosure v-for="r in g.rows" :key="r.address" v-slot="{ open }">
          <DisclosureButton
            class="flex w-full items-center gap-3 px-4 py-2.5 text-left hover:bg-paper/60"
            :data-row="r.address"
          >
            <ChevronRightIcon
              class="size-4 shrink-0 transition-transform"
              :class="open && 'rotate-90'"
              aria-hidden="true"
            />
            <span class="addr min-w-0 flex-1 truncate"
              >{{ r.address
              }}<template v-if="r.becomes && r.becomes !== r.address"> → {{ r.becomes }}</template></span
            >
            <span :class="r.decision ? '' : 'font-semibold text-call'"
              >{{ r.decision || "open" }}{{ conflicts(r) }}</span
            >
          </DisclosureButton>
          <DisclosurePanel class="border-t border-hair/60 bg-paper/40 px-4 py-4">
            <p class="mb-3">
              {{ r.why }}.<template v-if="r.needed"> It comes because {{ r.needed }}.</template
              ><template v-if="r.order"> Its place: {{ r.order }}.</template
              ><template v-if="r.decidedBy"> Decided by {{ deciderWords[r.decidedBy] }}.</template
              ><template v-if="(r.candidates?.length ?? 0) > 1">
                Also alike:
                <template v-for="(c, i) in r.candidates!.slice(1)" :key="c.address"
                  >{{ i ? ", " : "" }}<span class="addr">{{ c.address }}</span> by
                  {{ candidateWords[c.by] }}</template
                >.</template
              >
            </p>
            <SideBySide :delivery="delivery" :etag="etag" :address="r.address" :row="r" />
            <ConflictList :row="r" :disabled="disabled" @decide="(a, w) => emit('decide', a, w)" />
            <DecisionChoice
              v-if="r.choices.length > 1"
              :choices="r.choices"
              :about="r.address"
              :site="delivery.site"
              :chosen="delivery.decisions[r.address] ?? r.decision"
              :disabled="disabled"
              @decide="(w) => emit('decide', r.address, w)"
            />
          </DisclosurePanel>
        </Disclosure>
      </div>
    </div>
  </section>
</template>
