<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import { useQuery, useQueryClient } from "@tanstack/vue-query"
import PageHead from "../components/PageHead.vue"
import PieceThumb from "../components/PieceThumb.vue"
import ProblemNote from "../components/ProblemNote.vue"
import ShelfQuestions from "../components/edit/ShelfQuestions.vue"
import SiteArchive from "../components/SiteArchive.vue"
import { api, Problem, result, type Schemas } from "../api/client"
import { useItems } from "../composables/useItems"
import { useMyDraft } from "../composables/useMyDraft"
import { useSession } from "../composables/useSession"
import { useHistory } from "../composables/useSites"
import { moment, pageName } from "../composables/format"
import { kindWords } from "../words"

// What a site was: two moments beside each other, and an item, some or all of it brought back into my draft.
const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const client = useQueryClient()
const keeper = useSession().may("keeper")
const { draft } = useMyDraft(site)
const items = useItems(site)
const older = ref<Schemas["Revision"][]>([])
const ended = ref(false)
const problem = ref<unknown>(null)
const first = useHistory(site)
const revisions = computed(() => [...(first.data.value?.revisions ?? []), ...older.value])
const full = 200
const more = computed(
  () => !ended.value && revisions.value.length >= full && revisions.value.at(-1)!.revision > 1,
)
async function earlier() {
  problem.value = null
  try {
    const got = await result(
      api.GET("/api/v1/sites/{site}/revisions", {
        params: { path: { site: props.site }, query: { before: revisions.value.at(-1)?.revision } },
      }),
    )
    older.value = [...older.value, ...got.revisions]
    ended.value = got.revisions.length < full
  } catch (e) {
    problem.value = e
  }
}
const from = ref(0)
const to = ref(0)
watch(
  revisions,
  (list) => {
    if (!from.value && list.length > 1) from.value = list[1].revision
    if (!to.value && list.length) to.value = list[0].revision
  },
  { immediate: true },
)
const one = (n: number) => revisions.value.find((r) => r.revision === n)
const differences = useQuery({
  queryKey: computed(() => ["differences", props.site, from.value, to.value]),
  queryFn: () =>
    result(
      api.GET("/api/v1/sites/{site}/differences", {
        params: { path: { site: props.site }, query: { from: from.value, to: to.value } },
      }),
    ),
  enabled: computed(() => from.value > 0 && to.value > 0 && from.value !== to.value),
})
const rows = computed(() =>
  (differences.data.value?.differences ?? []).map((d) => {
    const address = d.before ?? d.after ?? ""
    const title = items.data.value?.items.find((i) => i.address === (d.after ?? d.before))?.meta.title
    const says = !d.before
      ? "was added"
      : !d.after
        ? "was removed"
        : d.before !== d.after
          ? "was renamed"
          : "differs"
    return { address, title: title || address.slice(address.indexOf("/") + 1), says }
  }),
)
const pages = computed(() => differences.data.value?.touched ?? [])
const most = ref(12)
const chosen = ref<Set<string>>(new Set())
watch([from, to], () => {
  chosen.value = new Set()
  most.value = 12
})
function tick(a: string, on: boolean) {
  const next = new Set(chosen.value)
  if (on) next.add(a)
  else next.delete(a)
  chosen.value = next
}
const busy = ref(false)
const brought = ref<Schemas["BroughtBack"] | null>(null)
const asked = ref<Schemas["Question"][]>([])
const decisions = ref<Record<string, string>>({})
let whole = false
function begin(all: boolean) {
  whole = all
  decisions.value = {}
  void bring()
}
function answer(q: Schemas["Question"], word: string) {
  decisions.value[q.key] = word
  asked.value = asked.value.filter((o) => o.key !== q.key)
  if (!asked.value.length) void bring()
}
// What was changed after the moment that it is compared with stays; where both touch the same, it is asked.
async function bring() {
  busy.value = true
  problem.value = null
  asked.value = []
  try {
    brought.value = await result(
      api.POST("/api/v1/sites/{site}/bring-back", {
        params: { path: { site: props.site } },
        body: {
          revision: from.value,
          draft: draft.value ?? undefined,
          since: to.value > from.value ? to.value : undefined,
          items: whole ? undefined : [...chosen.value],
          decisions: decisions.value,
        },
      }),
    )
    await client.invalidateQueries()
  } catch (e) {
    if (e instanceof Problem && e.type === "waits-for-decisions" && Array.isArray(e.details))
      asked.value = e.details as Schemas["Question"][]
    else problem.value = e
  } finally {
    busy.value = false
  }
}
const said = computed(() => {
  const n = brought.value?.items.length
  if (!n) return "All was in your draft as it had been."
  return `${n} ${n === 1 ? "item is" : "items are"} in your draft as in revision ${from.value}.`
})
const live = computed(() => revisions.value[0]?.revision)
</script>

<template>
  <PageHead title="History" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>Choose two moments. What is brought back comes into your draft first.</template>
  </PageHead>
  <ProblemNote :error="first.error.value ?? differences.error.value" />
  <div class="grid gap-8 lg:grid-cols-[minmax(0,5fr)_minmax(0,7fr)]">
    <section class="min-w-0">
      <h2 class="mb-2">Moments</h2>
      <p v-if="first.data.value && revisions.length < 2" class="mb-2 text-faded">
        It is as it came: nothing has gone live since.
      </p>
      <div class="sheet max-h-[36rem] overflow-y-auto">
        <table>
          <thead>
            <tr>
              <th>This</th>
              <th>with this</th>
              <th>What was done</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in revisions" :key="r.revision" :data-revision="r.revision">
              <td>
                <input
                  v-model="from"
                  type="radio"
                  name="from"
                  :value="r.revision"
                  :aria-label="`Revision ${r.revision}, to be compared`"
                />
              </td>
              <td>
                <input
                  v-model="to"
                  type="radio"
                  name="to"
                  :value="r.revision"
                  :aria-label="`Compared with revision ${r.revision}`"
                />
              </td>
              <td>
                <b>{{ moment(r.at) }}</b><template v-if="r.revision === live"> (live)</template>
                <span class="block break-words">{{ r.message }}</span>
                <span class="block text-sm text-faded"
                  >by {{ r.by }}, revision {{ r.revision }}, {{ r.changed }}
                  {{ r.changed === 1 ? "item" : "items" }}
                  <router-link v-if="r.delivery" class="link" :to="`/deliveries/${r.delivery}`"
                    >delivery {{ r.delivery }}</router-link
                  ></span
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <button v-if="more" type="button" class="btn-quiet mt-3" @click="earlier">Earlier ones</button>
    </section>
    <section v-if="revisions.length > 1" class="min-w-0" data-differences>
      <h2 class="mb-2">What differs</h2>
      <p v-if="!from || !to || from === to" class="text-faded">Choose two moments that are not the same.</p>
      <p v-else-if="differences.isPending.value" class="text-faded" role="status">Looking…</p>
      <p v-else-if="!rows.length" class="text-faded">Nothing: the site was the same.</p>
      <template v-else>
        <template v-if="pages.length">
          <p class="mb-2 text-faded">
            {{ pages.length }} {{ pages.length === 1 ? "page" : "pages" }} may look otherwise: then, and
            beside it as compared.
          </p>
          <ul class="mb-4 space-y-4">
            <li v-for="p in pages.slice(0, most)" :key="p.slug" :data-page-differs="p.slug">
              <p class="mb-1 font-semibold">{{ pageName(p.slug) }}</p>
              <div class="grid grid-cols-2 gap-3">
                <a :href="one(from)?.preview + p.slug" target="_blank" rel="noopener"
                  ><PieceThumb bare :src="one(from)?.preview + p.slug" :title="`${p.slug} then`" /><span
                    class="text-sm text-faded"
                    >revision {{ from }}</span
                  ></a
                >
                <a :href="one(to)?.preview + p.slug" target="_blank" rel="noopener"
                  ><PieceThumb bare :src="one(to)?.preview + p.slug" :title="`${p.slug} compared`" /><span
                    class="text-sm text-faded"
                    >revision {{ to }}</span
                  ></a
                >
              </div>
            </li>
          </ul>
          <button v-if="pages.length > most" type="button" class="btn-quiet mb-4" @click="most += 24">
            {{ pages.length - most }} more pages
          </button>
        </template>
        <h3 class="mb-1">Bring back from revision {{ from }}</h3>
        <ul class="sheet mb-3 max-h-96 divide-y divide-hair overflow-y-auto">
          <li v-for="d in rows" :key="d.address">
            <label class="flex items-center gap-3 px-4 py-2"
              ><input
                type="checkbox"
                :checked="chosen.has(d.address)"
                :disabled="!keeper"
                :data-bring="d.address"
                @change="tick(d.address, ($event.target as HTMLInputElement).checked)"
              /><span class="min-w-0 flex-1 truncate"
                >{{ d.title }}
                <span class="text-faded">{{
                  kindWords[d.address.split("/")[0]] ?? d.address.split("/")[0]
                }}</span></span
              ><span class="text-sm text-faded">{{ d.says }}</span></label
            >
          </li>
        </ul>
        <div v-if="keeper" class="flex flex-wrap gap-2">
          <button type="button" class="btn" :disabled="!chosen.size || busy" @click="begin(false)">
            Bring back {{ chosen.size === 1 ? "one item" : `${chosen.size || "the chosen"} items` }}
          </button>
          <button type="button" class="btn-quiet" :disabled="busy" @click="begin(true)">
            Bring back the whole site
          </button>
        </div>
        <ProblemNote class="mt-3" :error="problem" />
        <div
          v-if="brought"
          role="status"
          class="mt-3 flex flex-wrap gap-3 rounded-md bg-calm-soft px-4 py-2 text-calm"
          data-brought
        >
          <span class="flex-1">{{ said }}</span>
          <a class="link" :href="brought.preview + '/'" target="_blank" rel="noopener">Look at it</a>
          <router-link class="link" :to="`/sites/${site}/go-live?draft=${brought.draft}`"
            >Go live…</router-link
          >
        </div>
        <p v-if="keeper" class="mt-2 text-sm text-faded">
          What is not chosen stays as it is now. The whole site is the whole: what was added
          {{ to > from && to !== live ? `until revision ${to}` : "since" }} goes, in the draft. What was
          changed later, in your draft too, stays; where it touches the same you are asked.
        </p>
        <ShelfQuestions
          v-if="asked.length"
          class="mt-3"
          :asked="asked"
          :busy="busy"
          @answer="answer"
          @cancel="asked = []"
        />
      </template>
    </section>
  </div>
  <SiteArchive v-if="keeper" class="mt-8" :site="site" />
</template>
