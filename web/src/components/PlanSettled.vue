<script setup lang="ts">
import { computed } from "vue"
import DecisionChoice from "./DecisionChoice.vue"
import NameGroups from "./NameGroups.vue"
import { deciderWords } from "../words"
import type { Schemas } from "../api/client"

// What was decided of names, places, fields and proposed settings, each to be changed.
const props = defineProps<{ delivery: Schemas["Delivery"]; plan: Schemas["Plan"]; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
type Line = { about: string; head: string; says: string; chosen?: string; choices: Schemas["Choice"][] }
const joined = (...parts: (string | false | undefined)[]) => parts.filter(Boolean).join("; ")
const lines = computed<Line[]>(() => [
  ...props.plan.seats.map((s) => ({
    about: s.key,
    head: s.site
      ? `The ${s.role} on ${s.target}`
      : `The ${s.role} on ${s.pages === 1 ? "one page with its" : `${s.pages} pages with their`} own`,
    says: joined(
      s.site ? `${s.site} is there, ${s.kit} claims the place` : `${s.kit} claims the place`,
      s.decidedBy && `decided by ${deciderWords[s.decidedBy]}`,
    ),
    chosen: s.decision,
    choices: s.choices,
  })),
  ...props.plan.surrounds.map((s) => ({
    about: s.key,
    head: s.page,
    says: joined(
      s.decision === "kit" ? "stands as at home" : "stands in the site’s surround",
      s.own.length > 0 && `its own ${s.own.join(", ")}`,
      s.none.length > 0 && `no ${s.none.join(", ")}`,
    ),
    chosen: s.decision,
    choices: s.choices,
  })),
  ...props.plan.fields.map((f) => ({
    about: f.key,
    head: `Field ${f.kit}`,
    says: `of ${f.type} is called otherwise here`,
    chosen: f.site ? `as:${f.site}` : f.decision,
    choices: f.choices,
  })),
  ...props.plan.settings.map((s) => ({
    about: s.key,
    head: `Proposed: ${s.setting}`,
    says: `as ${s.proposed}; ${s.why}`,
    chosen: s.decision,
    choices: s.choices,
  })),
])
</script>

<template>
  <section v-if="lines.length || plan.groups.length" class="mb-8" aria-label="Names, places and settings">
    <h2 class="mb-3">Names, places and settings</h2>
    <div class="sheet divide-y divide-hair">
      <NameGroups
        :delivery="delivery"
        :plan="plan"
        :disabled="disabled"
        @decide="(a, w) => emit('decide', a, w)"
      />
      <div v-for="l in lines" :key="l.about" class="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 py-2.5">
        <p class="min-w-0 flex-1">
          <b>{{ l.head }}</b> <span class="text-faded">{{ l.says }}</span>
        </p>
        <DecisionChoice
          v-if="l.chosen && l.choices.length > 1"
          :choices="l.choices"
          :about="l.about"
          :site="delivery.site"
          :chosen="l.chosen"
          :disabled="disabled"
          inline
          @decide="(w) => emit('decide', l.about, w)"
        />
        <span v-else :class="l.chosen ? '' : 'font-semibold text-call'">{{ l.chosen || "open" }}</span>
      </div>
    </div>
  </section>
</template>
