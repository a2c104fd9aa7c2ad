<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import BeforeAfter from "./BeforeAfter.vue"
import ConfirmAct from "./ConfirmAct.vue"
import ProblemNote from "./ProblemNote.vue"
import { useDraft, useDraftActs } from "../composables/useSites"
import { moment } from "../composables/format"
import type { Schemas } from "../api/client"

// A draft of a site: what differs from live, its steps, and what can be done with it.
const props = defineProps<{ site: string; draft: Schemas["Draft"]; keeper: boolean }>()
const site = toRef(props, "site")
const id = computed(() => props.draft.id)
const looked = ref(false)
const { detail, steps } = useDraft(site, id)
const { live, discard, undo, redo } = useDraftActs(site)
const error = computed(
  () => live.error.value ?? discard.error.value ?? undo.error.value ?? redo.error.value ?? detail.error.value,
)
const changes = computed(() => detail.data.value?.changes ?? [])
const against = (c: Schemas["DraftChange"]) =>
  c.gone ? "removed" : !c.was ? "new" : c.was !== c.address ? `was ${c.was}` : "changed"
</script>

<template>
  <section class="mb-6 rounded-lg border border-amber/40 bg-amber-soft px-5 py-4">
    <div class="flex flex-wrap items-center justify-between gap-3">
      <p>
        <b>Draft {{ draft.id }}</b> “{{ draft.name }}” by {{ draft.by }}, {{ moment(draft.createdAt) }}.
        <a class="link" :href="draft.preview + '/'" target="_blank" rel="noopener">Look at it</a> ·
        <router-link class="link" :to="`/sites/${site}/faults?draft=${draft.id}`"
          >Look for faults</router-link
        >
      </p>
      <div v-if="keeper" class="flex flex-wrap gap-2">
        <button
          class="btn-quiet"
          :disabled="!detail.data.value?.canUndo || undo.isPending.value"
          @click="undo.mutate(draft.id)"
        >
          Undo
        </button>
        <button
          class="btn-quiet"
          :disabled="!detail.data.value?.canRedo || redo.isPending.value"
          @click="redo.mutate(draft.id)"
        >
          Redo
        </button>
        <ConfirmAct
          quiet
          danger
          act="Discard the draft"
          :title="`Discard draft ${draft.id}?`"
          @act="discard.mutate(draft.id)"
          ><p>All changes in it are lost. The live site stays as it is.</p></ConfirmAct
        >
        <ConfirmAct
          act="Make it live"
          :title="`Put draft ${draft.id} live?`"
          :busy="live.isPending.value"
          @act="live.mutate(draft.id)"
          ><p>
            Visitors of {{ site }} see its changes at once. The state before stays in the history.
          </p></ConfirmAct
        >
      </div>
    </div>
    <ProblemNote :error="error" />
    <p v-if="draft.liveAt" class="mt-2">
      It goes live by itself on {{ moment(draft.liveAt) }}, for {{ draft.liveFor }}.
    </p>
    <p v-if="draft.liveSays" class="mt-2 text-call">It did not go live at its time: {{ draft.liveSays }}</p>
    <p v-for="a in detail.data.value?.behind ?? []" :key="a" class="mt-2 text-call">
      <span class="addr">{{ a }}</span> was changed on the live site since.
    </p>
    <details
      v-if="draft.state === 'open'"
      class="mt-2"
      @toggle="looked ||= ($event.target as HTMLDetailsElement).open"
    >
      <summary>Before and after</summary>
      <BeforeAfter v-if="looked" class="mt-3" :of="{ site, draft: draft.id }" />
    </details>
    <details class="mt-2">
      <summary>
        {{ changes.length === 1 ? "One item differs" : `${changes.length} items differ` }} from the live site
      </summary>
      <div class="mt-2 grid gap-4 lg:grid-cols-2">
        <ul>
          <li v-for="c in changes" :key="c.address">
            <span class="addr">{{ c.address }}</span> <span class="text-faded">{{ against(c) }}</span>
          </li>
        </ul>
        <ol>
          <li v-for="s in [...(steps.data.value?.steps ?? [])].reverse()" :key="s.n">
            <span class="tabular-nums">{{ s.n }}</span> {{ s.message }}
            <span class="text-faded">{{ s.by }}, {{ moment(s.at) }}</span>
          </li>
        </ol>
      </div>
    </details>
  </section>
</template>
