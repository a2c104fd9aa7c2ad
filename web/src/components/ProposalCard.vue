<script setup lang="ts">
import { computed } from "vue"
import type { Schemas } from "../api/client"

const props = defineProps<{ proposal: Schemas["Proposal"]; site: string }>()
const chosen = defineModel<boolean>({ required: true })
const alike = computed(() => Math.round(props.proposal.likeness * 100))
const kind = computed(() => props.proposal.address.split("/")[0])
const shown = computed(() => props.proposal.stands.slice(0, 5))
</script>

<template>
  <li class="sheet flex gap-4 px-5 py-4" :class="chosen ? 'border-ink' : ''">
    <input
      :id="`take-${proposal.address}`"
      v-model="chosen"
      type="checkbox"
      class="mt-1 size-5 shrink-0 accent-ink"
      :data-proposal="proposal.address"
    />
    <div class="min-w-0 flex-1">
      <label :for="`take-${proposal.address}`" class="flex flex-wrap items-baseline gap-x-3">
        <b class="addr break-all">{{ proposal.address }}</b>
        <span>{{ proposal.message }}</span>
      </label>
      <div v-if="kind !== 'tokens'" class="mt-2 flex items-center gap-3 text-sm text-faded">
        <span class="block h-2 w-40 overflow-hidden rounded-full bg-slate-soft" aria-hidden="true"
          ><span
            class="block h-full"
            :class="proposal.sure ? 'bg-calm' : 'bg-amber'"
            :style="{ width: `${alike}%` }"
        /></span>
        <span class="tabular-nums"
          >{{ alike }} % alike{{
            proposal.sure ? ", sure" : kind === "record-type" ? "" : ", look at it first"
          }}</span
        >
      </div>
      <p class="mt-2 text-sm text-faded">
        <template v-for="(s, n) in shown" :key="s.address"
          ><template v-if="n">, </template
          ><router-link class="link" :to="`/sites/${site}/${s.address}`">{{
            s.slug || s.address
          }}</router-link
          ><span v-if="kind !== 'tokens'"> line {{ s.line }}</span></template
        >
        <template v-if="proposal.stands.length > shown.length">
          and {{ proposal.stands.length - shown.length }} more</template
        >
      </p>
      <ul v-if="proposal.differs.length" class="mt-2 flex flex-wrap gap-1.5 text-sm">
        <li
          v-for="d in proposal.differs"
          :key="d.what"
          class="inline-flex items-center gap-1.5 rounded-full bg-slate-soft px-2.5 py-0.5"
        >
          <span
            v-if="kind === 'tokens' && /#[0-9a-f]{3,8}/i.test(d.what)"
            class="size-3.5 rounded-full border border-hair"
            :style="{ background: d.what.split(': ')[1] }"
            aria-hidden="true"
          />
          {{ d.what }}<span v-if="kind !== 'tokens'" class="text-faded">{{ d.values }} values</span>
        </li>
      </ul>
    </div>
  </li>
</template>
