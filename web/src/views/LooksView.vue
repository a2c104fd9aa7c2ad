<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import ColourSource from "../components/ColourSource.vue"
import EditedNote from "../components/EditedNote.vue"
import FaultList from "../components/FaultList.vue"
import FontsCard from "../components/FontsCard.vue"
import LookAlong from "../components/LookAlong.vue"
import PartLooks from "../components/PartLooks.vue"
import PageHead from "../components/PageHead.vue"
import PreviewFrame from "../components/PreviewFrame.vue"
import ProblemNote from "../components/ProblemNote.vue"
import TokenField from "../components/TokenField.vue"
import { useLook, type LookToken } from "../composables/useLook"
import { useMyDraft } from "../composables/useMyDraft"
import { usePages } from "../composables/usePages"
import { useSession } from "../composables/useSession"
import { useSiteEdits } from "../composables/useSiteEdits"
import { useSiteFaults } from "../composables/useFaults"

// What a site looks like: its colours, type and spacing; looks that are kept, tried on any page and worn.
const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const { drafts, draft } = useMyDraft(site)
const session = useSession()
const keeper = session.may("keeper")
const librarian = session.may("librarian")
const edits = useSiteEdits(site, draft)
const { items, tokens, names } = useLook(site, draft)
const { pages } = usePages(site, draft)
const groups = computed(() =>
  [
    { says: "Colours", list: tokens.value.filter((t) => t.type === "color") },
    { says: "Type", list: tokens.value.filter((t) => /font|letter|line-?height/i.test(t.type)) },
    { says: "Spacing", list: tokens.value.filter((t) => t.type === "dimension") },
    {
      says: "More",
      list: tokens.value.filter(
        (t) => t.type !== "color" && t.type !== "dimension" && !/font|letter|line-?height/i.test(t.type),
      ),
    },
  ].filter((g) => g.list.length),
)
const proposed = ref("")
const name = ref("")
const tried = ref("")
const page = ref("/")
const origin = computed(() => {
  const mine = drafts.data.value?.drafts.find((d) => d.id === draft.value)
  return mine?.preview ?? items.data.value?.preview ?? ""
})
// A page that was changed is loaded again.
const state = computed(() => tokens.value.map((t) => t.value).join())
const src = computed(
  () =>
    `${origin.value}${page.value}${tried.value ? `?try=${encodeURIComponent(`look:${tried.value}`)}` : ""}`,
)
const faults = useSiteFaults(
  site,
  computed(() => draft.value ?? undefined),
  ref(false),
)
const contrasts = computed(() => faults.data.value?.faults.filter((f) => f.kind === "contrast") ?? [])
const set = (t: LookToken, value: string) =>
  edits.run([{ op: "token", item: t.item, property: t.path, value }])
const looks = (op: "look-keep" | "look-wear" | "look-drop", value: string) =>
  edits.run([{ op, item: "setting/looks", value }])
async function keep() {
  const as = name.value.trim()
  name.value = "" // the next may be typed meanwhile
  if (!(await looks("look-keep", as))) name.value ||= as
}
async function wear(n: string) {
  if (await looks("look-wear", n)) tried.value = ""
}
</script>

<template>
  <PageHead title="Looks" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>Its colours, type and spacing. A look is a set of all of them, kept by a name.</template>
    <LookAlong v-if="librarian" :site="site" />
  </PageHead>
  <EditedNote :edits="edits" :site="site" :draft="draft" />
  <ProblemNote :error="items.error.value" />
  <div class="grid gap-8 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
    <div class="min-w-0 space-y-6">
      <section>
        <h2 class="mb-2">Looks</h2>
        <ul v-if="names.length" class="sheet mb-3 divide-y divide-hair">
          <li v-for="n in names" :key="n" class="flex flex-wrap items-center gap-2 px-4 py-2" :data-look="n">
            <b class="flex-1">{{ n }}</b>
            <button
              type="button"
              class="btn-quiet px-3 py-1"
              :class="tried === n && 'border-ink bg-slate-soft'"
              :aria-pressed="tried === n"
              :aria-label="`Try ${n}`"
              @click="tried = tried === n ? '' : n"
            >
              Try
            </button>
            <template v-if="keeper">
              <button
                type="button"
                class="btn-quiet px-3 py-1"
                :disabled="edits.busy.value"
                :aria-label="`Wear ${n}`"
                @click="wear(n)"
              >
                Wear
              </button>
              <button type="button" class="link" :aria-label="`Forget ${n}`" @click="looks('look-drop', n)">
                Forget
              </button>
            </template>
          </li>
        </ul>
        <p v-else class="mb-3 text-faded">None is kept yet. Keep what the site wears now, then change it.</p>
        <form v-if="keeper && tokens.length" class="flex gap-2" @submit.prevent="keep">
          <input
            v-model="name"
            class="field"
            maxlength="60"
            placeholder="A name for what it wears now"
            aria-label="Name of the look"
          />
          <button class="btn-quiet shrink-0" :disabled="!name.trim() || edits.busy.value">
            Keep this look
          </button>
        </form>
      </section>
      <PartLooks
        :site="site"
        :draft="draft"
        :keeper="keeper"
        @change="(part, look) => edits.run([{ op: 'part-look', item: part, value: look }])"
      />
      <p v-if="items.data.value && !tokens.length" class="text-faded">
        This site has no named colours, type and spacing. “What repeats” proposes some from its stylesheets.
        <router-link class="link" :to="`/sites/${site}/proposals`">What repeats</router-link>
      </p>
      <section v-for="g in groups" :key="g.says">
        <h2 class="mb-2">{{ g.says }}</h2>
        <ul class="sheet divide-y divide-hair">
          <TokenField
            v-for="t in g.list"
            :key="t.item + t.path"
            :token="t"
            :others="tokens.filter((o) => o.item === t.item)"
            :proposed="proposed"
            :keeper="keeper"
            @change="(v) => set(t, v)"
          />
        </ul>
      </section>
      <FontsCard :site="site" :draft="draft" :keeper="keeper" :edits="edits" />
      <ColourSource v-if="keeper && tokens.length" v-model="proposed" />
    </div>
    <div class="min-w-0">
      <section class="lg:sticky lg:top-4">
        <label class="label" for="look-page">On the page</label>
        <select id="look-page" v-model="page" class="field mb-3 max-w-sm">
          <option v-for="p in pages" :key="p.item.address" :value="p.slug">{{ p.title }}</option>
        </select>
        <PreviewFrame
          v-if="origin"
          :key="state"
          :src="src"
          :title="tried ? `In the look ${tried}; nothing is changed by trying` : 'As it is in your draft'"
        />
      </section>
    </div>
  </div>
  <section class="mt-8">
    <h2 class="mb-2">Hard to read</h2>
    <p v-if="faults.isPending.value" class="text-faded" role="status">Looking at all pages…</p>
    <FaultList v-else :faults="contrasts" :root="`/sites/${site}`" :site="site" :draft="draft ?? undefined" />
  </section>
</template>
