<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useRouter } from "vue-router"
import { useQueryClient } from "@tanstack/vue-query"
import BeforeAfter from "../components/BeforeAfter.vue"
import BehindConflicts from "../components/BehindConflicts.vue"
import ConfirmAct from "../components/ConfirmAct.vue"
import FaultList from "../components/FaultList.vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import { useDraft, useDraftActs, useDrafts } from "../composables/useSites"
import { useSiteFaults } from "../composables/useFaults"
import { useSession } from "../composables/useSession"
import { api, result, type Schemas } from "../api/client"
import { moment } from "../composables/format"

// What a draft changes for visitors, with pictures; then it goes live, now or at a time.
const props = defineProps<{ site: string; draft: number }>()
const site = toRef(props, "site")
const router = useRouter()
const client = useQueryClient()
const keeper = useSession().may("keeper")
const { detail, steps } = useDraft(site, toRef(props, "draft"))
const { live, discard } = useDraftActs(site)
const drafts = useDrafts(site)
const faults = useSiteFaults(site, toRef(props, "draft"), ref(false))
const fresh = computed(() => (faults.data.value?.faults ?? []).filter((f) => f.new))
const changes = computed(() => detail.data.value?.changes ?? [])
const ended = computed(() => detail.data.value?.ended ?? [])
const others = computed(() => (drafts.data.value?.drafts ?? []).filter((d) => d.id !== props.draft))
const done = ref(false)
const unshown = ref<Schemas["UnshownPage"][]>([])
const at = ref("")
const problem = ref<unknown>(null)
const about = computed(() => detail.data.value?.draft)
async function goLive() {
  await live.mutateAsync(props.draft).then(
    (got) => {
      done.value = true
      unshown.value = got.unshown
    },
    () => {},
  )
}
async function time(set: boolean) {
  problem.value = null
  const params = { params: { path: { site: props.site, id: props.draft } } }
  try {
    if (set)
      await result(
        api.PUT("/api/v1/sites/{site}/drafts/{id}/time", {
          ...params,
          body: { at: new Date(at.value).toISOString() },
        }),
      )
    else await result(api.DELETE("/api/v1/sites/{site}/drafts/{id}/time", params))
    await client.invalidateQueries()
  } catch (e) {
    problem.value = e
  }
}
const drop = () =>
  discard.mutateAsync(props.draft).then(
    () => router.push(`/sites/${props.site}`),
    () => {},
  )
</script>

<template>
  <PageHead title="Go live" :back="{ to: `/sites/${site}`, label: site }">
    <template v-if="!done" #about>
      What visitors of {{ site }} will see when draft {{ props.draft }} goes live; nothing has changed for
      them yet.
    </template>
    <router-link v-if="!done" class="btn-quiet" :to="`/sites/${site}/edit/?draft=${props.draft}`"
      >Go on editing</router-link
    >
  </PageHead>
  <ProblemNote :error="detail.error.value ?? live.error.value ?? discard.error.value ?? problem" />
  <p v-if="done" role="status" class="sheet mb-6 px-5 py-4 text-calm">
    It is live. <router-link class="link" :to="`/sites/${site}`">Back to {{ site }}</router-link>
  </p>
  <ul v-if="unshown.length" role="alert" class="sheet mb-6 px-5 py-4 text-call">
    <li v-for="u in unshown" :key="u.path">
      <router-link class="link" :to="`/sites/${site}/edit${u.path}`">{{ u.path }}</router-link> cannot be
      shown to visitors as it is written, and is left out: {{ u.message }}
    </li>
  </ul>
  <template v-if="!done && about">
    <BehindConflicts :site="site" :draft="props.draft" :behind="detail.data.value?.behind ?? []" />
    <section
      v-if="keeper"
      class="sheet mb-6 flex flex-wrap items-end gap-4 p-5"
      aria-label="Now, or at a time"
    >
      <ConfirmAct
        act="Go live now"
        :title="`Make this live on ${site}?`"
        :busy="live.isPending.value"
        @act="goLive"
        ><p>
          Visitors of {{ site }} see it at once: {{ changes.length }}
          {{ changes.length === 1 ? "item changes" : "items change" }}. The state before stays in the history.
        </p></ConfirmAct
      >
      <form v-if="!about.liveAt" class="flex items-end gap-2" @submit.prevent="time(true)">
        <label class="block"
          ><span class="label">Or at a time</span
          ><input v-model="at" type="datetime-local" class="field" required
        /></label>
        <button class="btn-quiet">Go live then</button>
      </form>
      <p v-else>
        It goes live by itself on {{ moment(about.liveAt) }}, for {{ about.liveFor }}.
        <button type="button" class="link" @click="time(false)">Not by itself</button>
      </p>
      <span class="flex-1" />
      <ConfirmAct quiet danger act="Discard the draft" :title="`Discard draft ${props.draft}?`" @act="drop"
        ><p>
          All that was done in it is lost: {{ steps.data.value?.steps.length ?? 0 }} steps. The live site
          stays as it is.
        </p></ConfirmAct
      >
    </section>
    <p v-if="about.liveSays" class="mb-4 text-call">It did not go live at its time: {{ about.liveSays }}</p>
    <section v-if="ended.length" class="mb-8" data-ended>
      <h2 class="mb-3">Addresses that end</h2>
      <ul class="sheet divide-y divide-line">
        <li v-for="x in ended" :key="x.path" class="px-5 py-3">
          <span class="font-semibold">{{ x.path }}</span> will not answer any more.
          <span class="text-faded">{{
            x.linkedFrom.length === 0
              ? "Nothing on the site leads there; mails, other sites and search engines may."
              : x.linkedFrom.length === 1
                ? "One place on the site still leads there."
                : `${x.linkedFrom.length} places on the site still lead there.`
          }}</span>
        </li>
      </ul>
    </section>
    <section class="mb-8">
      <h2 class="mb-3">What changes</h2>
      <BeforeAfter :of="{ site, draft: props.draft }" />
    </section>
    <section class="mb-8">
      <h2 class="mb-3">New faults</h2>
      <p v-if="faults.isPending.value" class="text-faded" role="status">Looking at all pages…</p>
      <p v-else-if="!fresh.length" class="text-faded">None that the live site does not have.</p>
      <FaultList v-else :faults="fresh" :root="`/sites/${site}`" :site="site" :draft="draft" />
    </section>
    <section v-if="others.length" class="mb-8">
      <h2 class="mb-3">What else waits on {{ site }}</h2>
      <ul class="sheet divide-y divide-hair">
        <li v-for="d in others" :key="d.id" class="px-4 py-2.5">
          <router-link
            class="link"
            :to="d.delivery ? `/deliveries/${d.delivery}` : `/sites/${site}/go-live?draft=${d.id}`"
            >{{ d.delivery ? `Delivery ${d.delivery}` : d.name }}</router-link
          >
          <span class="text-faded"> by {{ d.by }}, {{ moment(d.createdAt) }}</span>
        </li>
      </ul>
    </section>
    <details class="mb-8">
      <summary>Details</summary>
      <div class="mt-3 grid gap-4 lg:grid-cols-2">
        <ul>
          <li v-for="c in changes" :key="c.address">
            <span class="addr">{{ c.address }}</span>
            <span class="text-faded"> {{ c.gone ? "removed" : c.was ? "changed" : "new" }}</span>
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
  </template>
</template>
