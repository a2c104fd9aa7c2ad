<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useRouter } from "vue-router"
import { ArrowDownTrayIcon, CheckCircleIcon, XMarkIcon } from "@heroicons/vue/24/outline"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import StateBadge from "../components/StateBadge.vue"
import ConfirmAct from "../components/ConfirmAct.vue"
import ItemPicker from "../components/ItemPicker.vue"
import FillinEditor from "../components/FillinEditor.vue"
import VersionAdvice from "../components/VersionAdvice.vue"
import DeliverKit from "../components/DeliverKit.vue"
import { useKit } from "../composables/useKits"
import { useSession } from "../composables/useSession"
import { moment, weight } from "../composables/format"

const props = defineProps<{ name: string; version: string }>()
const router = useRouter()
const { kit: query, put, leave, words, seal, advice } = useKit(toRef(props, "name"), toRef(props, "version"))
const kit = computed(() => query.data.value?.value)
const etag = computed(() => query.data.value?.etag ?? "")
const librarian = useSession().may("librarian")
const making = computed(() => kit.value?.state === "making")
const stops = computed(() => kit.value?.findings.filter((f) => f.stops) ?? [])
const notes = computed(() => kit.value?.findings.filter((f) => !f.stops) ?? [])
const all = ref(false)
const because = ref("")
const tooSmall = computed(() => advice.data.value?.enough === false && !because.value.trim())
</script>

<template>
  <ProblemNote :error="query.error.value" />
  <template v-if="kit">
    <PageHead :title="`${kit.name} ${kit.version}`" :back="{ to: '/kits', label: 'Kits' }">
      <template #about>{{ kit.title }} <StateBadge :state="kit.state" class="ml-1" /> <template v-if="kit.sealedAt"> sealed {{ moment(kit.sealedAt) }}, {{ weight(kit.fileBytes) }}, digest <span class="addr break-all">{{ kit.digest }}</span></template></template>
      <template v-if="!making">
        <a class="btn-quiet" :href="`/api/v1/kits/${kit.name}/${kit.version}/file`" download><ArrowDownTrayIcon class="size-5" aria-hidden="true" />Download the .cpkit file</a>
        <DeliverKit v-if="librarian" :name="kit.name" :version="kit.version" @opened="(id) => router.push(`/deliveries/${id}`)" />
      </template>
      <ConfirmAct v-else-if="librarian" act="Seal it" :title="`Seal ${kit.name} ${kit.version}?`" :disabled="stops.length > 0 || !kit.items.length || tooSmall" :busy="seal.isPending.value" @act="seal.mutate({ etag, because })">
        <p>The version becomes final: {{ kit.items.length }} items, packed into one file. It cannot be changed afterwards; the next change needs a new version number.</p>
      </ConfirmAct>
    </PageHead>
    <ProblemNote :error="seal.error.value ?? put.error.value ?? leave.error.value ?? words.error.value" />
    <div class="grid gap-8 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]" :class="!making && 'lg:!grid-cols-1'">
      <section v-if="making && librarian">
        <h2 class="mb-3">Put in</h2>
        <ItemPicker :picks="kit.picks" @put="(p) => put.mutate([p])" @leave="(a) => leave.mutate(a)" />
      </section>
      <div class="min-w-0 space-y-8">
        <VersionAdvice v-if="advice.data.value?.last" v-model:because="because" :advice="advice.data.value" :version="kit.version" :making="making" />
        <section>
          <h2 class="mb-3">{{ making ? "What comes with it, and why" : "What is in it" }}</h2>
          <p v-if="!kit.items.length" class="text-faded">Nothing yet. Choose a site or the library, and put a section or a part in.</p>
          <ul v-else class="sheet divide-y divide-hair">
            <li v-for="i in kit.items" :key="i.address" class="flex items-baseline gap-3 px-4 py-2.5">
              <div class="min-w-0 flex-1"><span class="addr font-semibold">{{ i.address }}</span>
                <p v-if="i.picked" class="text-faded">put in by you</p>
                <p v-else-if="i.reasons.length" class="text-faded">{{ i.reasons[0] }}<template v-if="i.reasons.length > 1">; and {{ i.reasons.length - 1 }} more</template></p></div>
              <span class="whitespace-nowrap text-sm text-faded tabular-nums">{{ weight(i.bytes) }}</span>
              <button v-if="i.picked && making && librarian" class="text-faded hover:text-call" :aria-label="`Take ${i.address} out`" @click="leave.mutate(i.address)"><XMarkIcon class="size-5" /></button>
            </li>
          </ul>
          <p v-for="w in kit.weights" :key="w.address" class="mt-2 text-sm text-faded"><span class="addr">{{ w.address }}</span>: {{ w.rules }} of {{ w.wholeRules }} rules are carried, {{ weight(w.bytes) }} of {{ weight(w.wholeBytes) }}</p>
        </section>
        <section v-if="kit.items.length && making">
          <h2 class="mb-3">Check</h2>
          <p v-if="!kit.findings.length" class="flex items-center gap-2 rounded-md bg-calm-soft px-4 py-2.5 text-calm"><CheckCircleIcon class="size-5" aria-hidden="true" />Clean: nothing stops sealing.</p>
          <ul v-else class="sheet divide-y divide-hair">
            <li v-for="(f, n) in [...stops, ...notes]" :key="n" class="px-4 py-2.5"><b :class="f.stops ? 'text-call' : 'text-amber'">{{ f.stops ? "Stops sealing" : "Note" }}</b> <span v-if="f.address" class="addr">{{ f.address }}<template v-if="f.line">:{{ f.line }}</template></span> {{ f.says }}<span v-if="f.wayOut" class="text-faded"> Way out: {{ f.wayOut }}.</span></li>
          </ul>
        </section>
        <section v-if="kit.fillins.length">
          <h2 class="mb-3">Fill-ins</h2>
          <FillinEditor :kit="kit" :etag="etag" :readonly="!making || !librarian" :busy="words.isPending.value" @save="(body) => words.mutate({ body, etag })" />
        </section>
        <section v-if="kit.needs.length || kit.leavesOut.length">
          <h2 class="mb-3">Needs, and what is left out</h2>
          <ul class="sheet divide-y divide-hair">
            <li v-for="(n, k) in all ? kit.needs : kit.needs.slice(0, 4)" :key="k" class="px-4 py-2.5"><b>{{ n.optional ? "Optional" : "Needed" }}</b> <span class="addr">{{ n.slug || n.address }}</span> <span class="text-faded">{{ n.why }}</span></li>
            <li v-for="l in all ? kit.leavesOut : []" :key="l.address + l.why" class="px-4 py-2.5"><b>Left out</b> <span class="addr">{{ l.address }}</span> <span class="text-faded">{{ l.why }}</span></li>
          </ul>
          <button v-if="!all" class="mt-2 link" @click="all = true">Show all {{ kit.needs.length + kit.leavesOut.length }}</button>
        </section>
        <section><h2 class="mb-2">Terms</h2><p>{{ kit.terms.license || "No licence is named." }}<template v-if="kit.terms.credit">, credit to {{ kit.terms.credit }}</template></p></section>
      </div>
    </div>
  </template>
</template>
