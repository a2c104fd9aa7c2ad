<script setup lang="ts">
import { computed, ref } from "vue"
import BeforeAfter from "./BeforeAfter.vue"
import ConfirmAct from "./ConfirmAct.vue"
import DecisionChoice from "./DecisionChoice.vue"
import EmptyNote from "./EmptyNote.vue"
import { Problem, type Schemas } from "../api/client"
import { moment, short } from "../composables/format"

const props = defineProps<{ delivery: Schemas["Delivery"]; keeper: boolean; busy: boolean; error: unknown }>()
const emit = defineEmits<{ undo: [ask: Schemas["UndoRequest"]] }>()
const r = computed(() => props.delivery.receipt)
const stale = computed(() => props.error instanceof Problem && props.error.type === "stale")
// An undo that blends asks about what it cannot: the answers go with the next try.
const asked = ref<Schemas["UndoRequest"]>({})
const questions = computed(() =>
  props.error instanceof Problem && props.error.type === "waits-for-decisions"
    ? (props.error.details as Schemas["Question"][])
    : [],
)
const settled = ref<Record<string, Schemas["ConflictDecision"]>>({})
function undo(ask: Schemas["UndoRequest"]) {
  asked.value = ask
  settled.value = {}
  emit("undo", ask)
}
const back = (a: string) => r.value?.undone.includes(a) || r.value?.kept.includes(a)
</script>

<template>
  <EmptyNote v-if="!r">The receipt is written when the delivery goes live.</EmptyNote>
  <template v-else>
    <div class="mb-6 flex flex-wrap items-center justify-between gap-4">
      <p v-if="delivery.state === 'live'">
        Live since {{ moment(r.at) }}, by {{ r.by }}, as revision {{ delivery.liveRevision }}.
        <a class="link" :href="delivery.livePreview + '/'" target="_blank" rel="noopener"
          >See it as visitors do</a
        >
      </p>
      <p v-else>
        Taken back, as revision {{ delivery.undoRevision }}.
        <a class="link" :href="delivery.livePreview + '/'" target="_blank" rel="noopener">Look at the site</a>
      </p>
      <div v-if="delivery.state === 'live' && keeper" class="flex gap-2">
        <ConfirmAct
          v-if="stale"
          quiet
          danger
          act="Take back all else"
          :title="`Take ${delivery.kit} ${delivery.version} back, except what was edited?`"
          @act="undo({ ...asked, keepEdited: true })"
          ><p>What was edited since then stays; everything else goes back to what it was.</p></ConfirmAct
        >
        <ConfirmAct
          v-if="stale"
          quiet
          act="Take back, keep the edits"
          :title="`Take ${delivery.kit} ${delivery.version} out of what was edited?`"
          @act="undo({ ...asked, blend: true })"
          ><p>
            Only what the delivery changed is taken back; later edits stay. Where both changed the same thing
            you are asked.
          </p></ConfirmAct
        >
        <ConfirmAct
          quiet
          danger
          act="Take it back"
          :title="`Take ${delivery.kit} ${delivery.version} back?`"
          :busy="busy"
          @act="undo({})"
          ><p>
            {{ r.wrote.length }} items of {{ delivery.site }} are again what they were before: visitors see
            the old pages at once. If something was edited since, nothing happens and you are told.
          </p></ConfirmAct
        >
      </div>
    </div>
    <section
      v-if="questions.length"
      class="mb-6 rounded-lg border border-call/40 bg-sheet p-5"
      aria-label="Edited since"
    >
      <div v-for="q in questions" :key="q.key" class="mb-4">
        <p class="mb-2 font-semibold">{{ q.message }}</p>
        <DecisionChoice
          :choices="q.choices"
          :about="q.key"
          :site="delivery.site"
          :chosen="settled[q.key]"
          :disabled="busy"
          @decide="(w) => (settled[q.key] = w as Schemas['ConflictDecision'])"
        />
      </div>
      <button
        class="btn"
        :disabled="busy || questions.some((q) => !settled[q.key])"
        @click="emit('undo', { ...asked, decisions: settled })"
      >
        Take it back this way
      </button>
    </section>
    <div class="grid gap-6 lg:grid-cols-2">
      <section>
        <h2 class="mb-3">What is left to do</h2>
        <p v-if="!r.checklist.length" class="text-faded">Nothing.</p>
        <ul v-else class="sheet divide-y divide-hair">
          <li v-for="c in r.checklist" :key="c" class="px-4 py-2.5">{{ c }}</li>
        </ul>
      </section>
      <section>
        <h2 class="mb-3">What it wrote</h2>
        <ul class="sheet divide-y divide-hair">
          <li v-for="w in r.wrote" :key="w" class="flex items-center gap-3 px-4 py-1.5">
            <span class="min-w-0 flex-1"
              ><router-link
                v-if="delivery.state === 'live'"
                class="link addr break-all"
                :to="`/sites/${delivery.site}/${w}`"
                >{{ w }}</router-link
              ><span v-else class="addr break-all">{{ w }}</span
              ><span v-for="m in r.renames.filter((m) => m.to === w)" :key="m.from" class="text-faded">
                was {{ m.from }} in the kit</span
              ><span v-if="r.undone.includes(w)" class="text-faded"> taken back separately</span></span
            >
            <ConfirmAct
              v-if="delivery.state === 'live' && keeper && !back(w)"
              quiet
              act="Take back"
              :title="`Take only ${w} back?`"
              :busy="busy"
              @act="undo({ items: [w] })"
              ><p>
                It goes back to what it was before the delivery; the rest of the delivery stays live.
              </p></ConfirmAct
            >
          </li>
          <li v-for="w in r.removed" :key="'gone' + w" class="px-4 py-2.5">
            <span class="addr">{{ w }}</span>
            <span class="text-faded">was removed: the kit no longer holds it</span>
          </li>
        </ul>
        <p v-if="r.meanwhile.length" class="mt-3">
          Edited between staging and going live, and blended in:
          <span class="addr">{{ r.meanwhile.join(", ") }}</span>
        </p>
        <p v-if="r.kept.length" class="mt-3">
          Left as they are, because they were edited: <span class="addr">{{ r.kept.join(", ") }}</span>
        </p>
      </section>
    </div>
    <h2 class="mb-3 mt-8">Before and after</h2>
    <BeforeAfter :of="{ delivery: delivery.id }" />
    <p class="mt-6 text-sm text-faded">
      The site’s digest before: <span class="addr">{{ short(r.before) }}</span>; after:
      <span class="addr">{{ short(r.after) }}</span>
    </p>
  </template>
</template>
