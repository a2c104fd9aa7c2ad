<script setup lang="ts">
import { computed, toRef, watch } from "vue"
import { useRouter } from "vue-router"
import { CheckIcon } from "@heroicons/vue/16/solid"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import StateBadge from "../components/StateBadge.vue"
import DeliveryContents from "../components/DeliveryContents.vue"
import DeliveryPlan from "../components/DeliveryPlan.vue"
import DeliveryFills from "../components/DeliveryFills.vue"
import DeliveryPreview from "../components/DeliveryPreview.vue"
import DeliveryReceipt from "../components/DeliveryReceipt.vue"
import { useDelivery } from "../composables/useDeliveries"
import { useSession } from "../composables/useSession"
import type { Schemas } from "../api/client"

const props = defineProps<{ id: number; heading: string }>()
const router = useRouter()
const { delivery: query, decide, replan, stage, live, undo } = useDelivery(toRef(props, "id"))
const d = computed(() => query.data.value?.value)
const etag = computed(() => query.data.value?.etag ?? "")
const { may } = useSession()
const keeper = may("keeper")
const librarian = may("librarian")
const headings = ["contents", "plan", "blanks", "preview", "receipt"] as const
const open = computed(() => d.value?.plan?.questions ?? [])
const done = computed<Record<string, boolean>>(() => {
  const s = d.value?.state ?? ""
  const settled = ["staged", "live", "undone"].includes(s)
  return {
    contents: true,
    plan: settled || !open.value.some((q) => q.kind !== "fill"),
    blanks: settled || !open.value.some((q) => q.kind === "fill"),
    preview: ["live", "undone"].includes(s),
    receipt: ["live", "undone"].includes(s),
  }
})
const known = computed(() => headings.includes(props.heading as (typeof headings)[number]))
const at = computed(() => (known.value ? props.heading : ""))
// Who comes without a heading is led to the one that needs them; later answers move nobody on.
watch(
  [d, known],
  () => {
    if (!d.value || known.value) return
    const next = done.value.receipt
      ? "receipt"
      : !done.value.plan
        ? "plan"
        : !done.value["blanks"]
          ? "blanks"
          : "preview"
    router.replace(`/deliveries/${props.id}/${next}`)
  },
  { immediate: true },
)
const editable = computed(() => librarian.value && ["opened", "planned"].includes(d.value?.state ?? ""))
const errors = computed(
  () => decide.error.value ?? replan.error.value ?? stage.error.value ?? live.error.value ?? undo.error.value,
)
const go = (heading: string) => router.push(`/deliveries/${props.id}/${heading}`)
const answer = (body: Schemas["Answers"]) => decide.mutateAsync({ body, etag: etag.value }).catch(() => {})
async function stageIt() {
  await stage
    .mutateAsync(d.value?.planDigest ?? "")
    .then(() => go("preview"))
    .catch(() => {})
}
async function liveIt(decisions: Record<string, Schemas["ConflictDecision"]>) {
  await live
    .mutateAsync({ decisions })
    .then(() => go("receipt"))
    .catch(() => {})
}
</script>

<template>
  <ProblemNote :error="query.error.value" />
  <template v-if="d">
    <PageHead
      :title="`${d.kit} ${d.version} to ${d.site}`"
      :back="{ to: '/deliveries', label: 'Deliveries' }"
    >
      <template #about>Delivery {{ d.id }} <StateBadge :state="d.state" class="ml-1" /></template>
      <button v-if="editable" class="btn-quiet" :disabled="replan.isPending.value" @click="replan.mutate()">
        Plan again
      </button>
    </PageHead>
    <nav aria-label="Headings" class="mb-6 overflow-x-auto border-b border-hair">
      <ol class="flex min-w-max gap-1">
        <li v-for="(s, n) in headings" :key="s">
          <button
            class="-mb-px flex items-center gap-2 border-b-2 px-3 py-2"
            :class="at === s ? 'border-ink font-semibold' : 'border-transparent text-faded hover:text-ink'"
            :aria-current="at === s ? 'page' : undefined"
            @click="go(s)"
          >
            <span
              class="grid size-6 place-items-center rounded-full text-sm"
              :class="
                done[s]
                  ? 'bg-calm-soft text-calm'
                  : s === 'plan' || s === 'blanks'
                    ? 'bg-call-soft text-call'
                    : 'bg-slate-soft text-slate'
              "
              ><CheckIcon v-if="done[s]" class="size-4" aria-label="done" /><template v-else>{{
                n + 1
              }}</template></span
            >{{ s }}
          </button>
        </li>
      </ol>
    </nav>
    <ProblemNote :error="errors" />
    <DeliveryContents
      v-if="at === 'contents' && d.plan"
      :delivery="d"
      :plan="d.plan"
      :editable="editable"
      :busy="decide.isPending.value"
      @answer="answer"
      @next="go('plan')"
    />
    <DeliveryPlan
      v-else-if="at === 'plan' && d.plan"
      :delivery="d"
      :etag="etag"
      :plan="d.plan"
      :editable="editable"
      :busy="decide.isPending.value"
      @answer="answer"
      @next="go('blanks')"
    />
    <DeliveryFills
      v-else-if="at === 'blanks' && d.plan"
      :site="d.site"
      :plan="d.plan"
      :editable="editable"
      :busy="decide.isPending.value"
      @answer="answer"
      @next="go('preview')"
    />
    <DeliveryPreview
      v-else-if="at === 'preview'"
      :delivery="d"
      :open="open"
      :keeper="keeper"
      :librarian="librarian"
      :busy="stage.isPending.value || live.isPending.value"
      :error="live.error.value"
      @stage="stageIt"
      @live="liveIt"
      @go="go"
    />
    <DeliveryReceipt
      v-else-if="at === 'receipt'"
      :delivery="d"
      :keeper="keeper"
      :busy="undo.isPending.value"
      :error="undo.error.value"
      @undo="(ask) => undo.mutate(ask)"
    />
  </template>
</template>
