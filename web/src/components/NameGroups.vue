<script setup lang="ts">
import DecisionChoice from "./DecisionChoice.vue"
import { groupSize, scriptSays } from "../nameGroup"
import { deciderWords } from "../words"
import type { Schemas } from "../api/client"

// What both sides define: one line and one choice for each group, its names behind a fold.
const props = defineProps<{ delivery: Schemas["Delivery"]; plan: Schemas["Plan"]; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
const names = (group: string) => props.plan.clashes.filter((c) => c.group === group)
const first = (group: string) => group.slice(group.indexOf(":") + 1)
const count = (g: Schemas["NameGroup"]) => g.classes + g.properties + g.animations + g.fonts
</script>

<template>
  <div v-for="g in plan.groups" :key="g.key" class="px-4 py-2.5" :data-group="g.key">
    <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
      <p class="min-w-0 flex-1">
        <b>{{ groupSize(g) }}</b>
        <span class="text-faded">
          on both sides, such as <code>{{ first(g.key) }}</code><template v-if="g.decidedBy"
            >; decided by {{ deciderWords[g.decidedBy] }}</template
          ><template v-if="g.script">; {{ scriptSays(g.script) }}</template></span
        >
      </p>
      <DecisionChoice
        v-if="g.decision"
        :choices="g.choices"
        :about="g.key"
        :site="delivery.site"
        :chosen="g.decision"
        :disabled="disabled"
        inline
        @decide="(w) => emit('decide', g.key, w)"
      />
      <span v-else class="font-semibold text-call">open</span>
    </div>
    <details class="mt-1">
      <summary class="cursor-pointer text-sm text-faded">Which names</summary>
      <ul class="mt-2 grid gap-3">
        <li v-for="c in names(g.key)" :key="c.key">
          <p class="flex flex-wrap items-center gap-3">
            <code>{{ c.name }}</code>
            <span v-if="c.becomes" class="text-faded"
              >becomes <code>{{ c.becomes }}</code></span
            >
            <DecisionChoice
              v-if="c.choices.length > 1"
              :choices="c.choices"
              :about="c.key"
              :site="delivery.site"
              :chosen="c.decision"
              :disabled="disabled"
              inline
              @decide="(w) => emit('decide', c.key, w)"
            />
          </p>
          <div class="mt-1 grid gap-3 text-sm sm:grid-cols-2">
            <pre class="max-h-32 overflow-auto whitespace-pre-wrap" tabindex="0">{{ c.site }}</pre>
            <pre class="max-h-32 overflow-auto whitespace-pre-wrap" tabindex="0">{{
              c.kit || "The kit has no rule for it."
            }}</pre>
          </div>
        </li>
      </ul>
      <p v-if="names(g.key).length < count(g)" class="mt-2 text-sm text-faded">
        and {{ count(g) - names(g.key).length }} more
      </p>
    </details>
  </div>
</template>
