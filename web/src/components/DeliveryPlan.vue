<script setup lang="ts">
import { computed } from "vue"
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/vue"
import { ChevronRightIcon, QuestionMarkCircleIcon } from "@heroicons/vue/24/outline"
import StateBadge from "./StateBadge.vue"
import DecisionChoice from "./DecisionChoice.vue"
import SideBySide from "./SideBySide.vue"
import { pageName } from "../composables/format"
import { useWords } from "../composables/useWords"
import type { Schemas } from "../api/client"

const props = defineProps<{ plan: Schemas["Plan"]; site: string; decisions: Record<string, string>; editable: boolean; busy: boolean }>()
const emit = defineEmits<{ answer: [body: Schemas["Answers"]]; next: [] }>()
const { standing } = useWords()
const questions = computed(() => props.plan.questions.filter((q) => q.kind !== "fill"))
const decide = (about: string, word: string) => emit("answer", { decisions: { [about]: word } })
const groups = computed(() => {
  const by = new Map<string, Schemas["PlanRow"][]>()
  for (const r of props.plan.rows) by.set(r.standing, [...(by.get(r.standing) ?? []), r])
  return [...by].map(([word, rows]) => ({ word, rows }))
})
</script>

<template>
  <section v-if="questions.length" class="mb-8" aria-label="Questions">
    <h2 class="mb-3 flex items-center gap-2 text-call"><QuestionMarkCircleIcon class="size-6" aria-hidden="true" />{{ questions.length }} {{ questions.length === 1 ? "question needs" : "questions need" }} you</h2>
    <div v-for="q in questions" :key="q.about" class="mb-4 rounded-lg border border-call/40 bg-sheet p-5" :data-question="q.about">
      <p class="mb-3 text-lg font-semibold">{{ q.says }}</p>
      <SideBySide v-if="q.kind === 'item'" :site="site" :address="q.about" :row="plan.rows.find((r) => r.address === q.about)" :kit="`${plan.kit}@${plan.version}`" />
      <DecisionChoice :choices="q.choices" :about="q.about" :site="site" :disabled="!editable || busy" @decide="(w) => decide(q.about, w)" />
    </div>
  </section>
  <p v-else class="mb-6 rounded-md bg-calm-soft px-4 py-2.5 text-calm">Nothing is open here.</p>
  <section class="mb-8">
    <h2 class="mb-3">Item by item</h2>
    <div class="sheet divide-y divide-hair">
      <div v-for="g in groups" :key="g.word">
        <p class="flex flex-wrap items-center gap-2 bg-paper/60 px-4 py-2"><StateBadge :state="g.word" /><span class="text-faded">{{ standing(g.word) }}</span></p>
        <Disclosure v-for="r in g.rows" :key="r.address" v-slot="{ open }">
          <DisclosureButton class="flex w-full items-center gap-3 px-4 py-2.5 text-left hover:bg-paper/60">
            <ChevronRightIcon class="size-4 shrink-0 transition-transform" :class="open && 'rotate-90'" aria-hidden="true" />
            <span class="addr min-w-0 flex-1 truncate">{{ r.address }}<template v-if="r.becomes && r.becomes !== r.address"> → {{ r.becomes }}</template></span>
            <span :class="r.decision ? '' : 'font-semibold text-call'">{{ r.decision || "open" }}</span>
          </DisclosureButton>
          <DisclosurePanel class="border-t border-hair/60 bg-paper/40 px-4 py-4">
            <p class="mb-3">{{ r.why }}.<template v-if="r.order"> It goes {{ r.order }}.</template><template v-if="r.decidedBy"> Decided by {{ r.decidedBy }}.</template></p>
            <SideBySide :site="site" :address="r.address" :row="r" :kit="`${plan.kit}@${plan.version}`" />
            <DecisionChoice v-if="r.choices.length > 1" :choices="r.choices" :about="r.address" :site="site" :chosen="decisions[r.address] ?? r.decision" :disabled="!editable || busy" @decide="(w) => decide(r.address, w)" />
          </DisclosurePanel>
        </Disclosure>
      </div>
    </div>
  </section>
  <section class="mb-8 grid gap-6 lg:grid-cols-2">
    <div><h2 class="mb-3">Pages it touches</h2>
      <p v-if="!plan.touched.length" class="text-faded">None.</p>
      <ul v-else class="sheet divide-y divide-hair"><li v-for="t in plan.touched" :key="t.slug" class="px-4 py-2.5"><b>{{ pageName(t.slug) }}</b> <span class="text-faded">through {{ t.ways.join("; ") }}</span></li></ul>
      <p class="mt-2 text-sm text-faded">All other pages stay the same to the byte. That is checked when staging.</p></div>
    <div><h2 class="mb-3">To know</h2>
      <ul class="sheet divide-y divide-hair">
        <li v-for="c in plan.clashes" :key="'c' + c.class" class="px-4 py-2.5"><b>Class {{ c.class }}</b> is defined on both sides: {{ c.decision || "open" }}<template v-if="c.becomes">, becomes {{ c.becomes }}</template></li>
        <li v-for="s in plan.seats" :key="'s' + s.target" class="px-4 py-2.5"><b>{{ s.role }} on {{ s.target }}</b>: {{ s.site }} has it, {{ s.kit }} wants it: {{ s.decision || "open" }}</li>
        <li v-for="s in plan.settings" :key="'p' + s.setting" class="px-4 py-2.5"><p class="mb-2"><b>Proposed: <span class="addr">{{ s.setting }}</span></b> as <span class="addr">{{ s.proposed }}</span> <span class="text-faded">({{ s.why }})</span></p>
          <DecisionChoice v-if="s.choices.length" :choices="s.choices" :about="`propose:${s.setting}`" :site="site" :chosen="s.decision" :disabled="!editable || busy" @decide="(w) => decide(`propose:${s.setting}`, w)" /></li>
        <li v-for="n in plan.needs.filter((n) => n.state !== 'met')" :key="'n' + n.what" class="px-4 py-2.5"><b>{{ n.optional ? "Optional" : "Needed" }}: {{ n.what }}</b> is {{ n.state }}. <span class="text-faded">{{ n.says }}</span></li>
        <li v-for="t in plan.tokens" :key="'t' + t.property" class="flex flex-wrap items-center gap-2 px-4 py-2.5"><b class="addr">{{ t.property }}</b><span class="inline-block size-4 rounded border border-hair" :style="{ background: t.site }" />{{ t.site }} here, <span class="inline-block size-4 rounded border border-hair" :style="{ background: t.kit }" />{{ t.kit }} in the kit</li>
        <li v-for="(l, k) in plan.links" :key="'l' + k" class="px-4 py-2.5"><b>Link</b> in <span class="addr">{{ l.from }}</span>, line {{ l.line }}: {{ l.slug }} leads nowhere here yet</li>
        <li v-for="s in plan.scripts" :key="s" class="px-4 py-2.5"><b class="text-amber">Code</b> {{ s }}</li>
        <li v-for="s in plan.notes" :key="s" class="px-4 py-2.5">{{ s }}</li>
        <li v-if="!plan.clashes.length && !plan.seats.length && !plan.links.length && !plan.settings.length && plan.needs.every((n) => n.state === 'met')" class="px-4 py-2.5 text-faded">Nothing else.</li>
      </ul></div>
  </section>
  <button class="btn" :disabled="questions.length > 0" @click="$emit('next')">On to the fill-ins</button>
</template>
