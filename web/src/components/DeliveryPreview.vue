<script setup lang="ts">
import { computed, ref, watchEffect } from "vue"
import ConfirmAct from "./ConfirmAct.vue"
import BeforeAfter from "./BeforeAfter.vue"
import StandList from "./StandList.vue"
import PreviewFrame from "./PreviewFrame.vue"
import DecisionChoice from "./DecisionChoice.vue"
import { Problem, type Schemas } from "../api/client"
import { pageName } from "../composables/format"

const props = defineProps<{
  delivery: Schemas["Delivery"]
  open: Schemas["Question"][]
  keeper: boolean
  librarian: boolean
  busy: boolean
  error: unknown
}>()
defineEmits<{
  stage: []
  live: [decisions: Record<string, Schemas["ConflictDecision"]>]
  go: [heading: string]
}>()
// What was edited since the draft was staged and cannot be blended is asked here.
const meanwhile = computed(() =>
  props.error instanceof Problem && props.error.type === "waits-for-decisions"
    ? (props.error.details as Schemas["Question"][])
    : [],
)
const settled = ref<Record<string, Schemas["ConflictDecision"]>>({})
const slugs = computed(() => props.delivery.plan?.touched.map((t) => t.slug) ?? [])
const slug = ref("/")
watchEffect(() => {
  if (slugs.value.length && !slugs.value.includes(slug.value)) slug.value = slugs.value[0]
})
</script>

<template>
  <div v-if="delivery.state === 'planned' || delivery.state === 'opened'" class="sheet max-w-2xl p-6">
    <template v-if="open.length"
      ><h2 class="mb-2">Not yet</h2>
      <p class="mb-4">
        {{ open.length }} {{ open.length === 1 ? "question is" : "questions are" }} open: a draft can be
        staged when all are answered.
      </p>
      <button class="btn-call" @click="$emit('go', open.some((q) => q.kind !== 'fill') ? 'plan' : 'blanks')">
        Answer them
      </button></template
    >
    <template v-else
      ><h2 class="mb-2">Ready to stage</h2>
      <p class="mb-4">
        Staging writes a draft of {{ delivery.site }} that you can look at. Visitors do not notice.
      </p>
      <button v-if="librarian" class="btn" :disabled="busy" @click="$emit('stage')">
        {{ busy ? "Staging…" : "Stage the draft" }}
      </button></template
    >
  </div>
  <template v-if="delivery.state === 'planned' && !open.length">
    <h2 class="mb-3 mt-8">Before and after</h2>
    <BeforeAfter :of="{ delivery: delivery.id }" />
  </template>
  <template v-if="delivery.state !== 'planned' && delivery.state !== 'opened'">
    <div class="mb-5 flex flex-wrap items-center justify-between gap-3">
      <label v-if="slugs.length" class="flex items-center gap-2"
        >Page
        <select v-model="slug" class="field">
          <option v-for="s in slugs" :key="s" :value="s">{{ pageName(s) }}</option>
        </select></label
      >
      <router-link
        v-if="delivery.state === 'staged' && delivery.draft && keeper"
        class="btn-quiet"
        :to="`/sites/${delivery.site}/edit${slug.endsWith('/') ? slug : '/'}?draft=${delivery.draft}`"
        >Work on it as it looks</router-link
      >
      <ConfirmAct
        v-if="delivery.state === 'staged' && keeper"
        act="Go live"
        :title="`Make this live on ${delivery.site}?`"
        :busy="busy"
        @act="$emit('live', settled)"
      >
        <p>
          Visitors of {{ delivery.site }} see it at once, on {{ slugs.length }}
          {{ slugs.length === 1 ? "page" : "pages" }}: {{ slugs.map(pageName).join(", ") }}. You can undo it
          with one click afterwards.
        </p>
      </ConfirmAct>
      <p v-else-if="delivery.state === 'staged'" class="text-faded">A keeper of the site can make it live.</p>
    </div>
    <section
      v-if="meanwhile.length"
      class="mb-5 rounded-lg border border-call/40 bg-sheet p-5"
      aria-label="Edited in the meantime"
    >
      <p class="mb-3 font-semibold">
        Somebody edited the site after the draft was staged. Decide, then go live.
      </p>
      <div v-for="q in meanwhile" :key="q.key" class="mb-4">
        <p class="mb-2">{{ q.message }}</p>
        <DecisionChoice
          :choices="q.choices"
          :about="q.key"
          :site="delivery.site"
          :chosen="settled[q.key]"
          :disabled="busy"
          @decide="(w) => (settled[q.key] = w as Schemas['ConflictDecision'])"
        />
      </div>
    </section>
    <div class="grid gap-6" :class="delivery.preview && 'lg:grid-cols-2'">
      <PreviewFrame v-if="delivery.preview" :src="delivery.preview + slug" title="The draft" tall />
      <PreviewFrame :src="delivery.livePreview + slug" title="Live now" tall />
    </div>
    <h2 class="mb-3 mt-8">Before and after</h2>
    <BeforeAfter :of="{ delivery: delivery.id }" />
    <h2 class="mb-3 mt-8">Beside their kit</h2>
    <StandList :delivery="delivery.id" />
  </template>
</template>
