<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import EditedNote from "../components/EditedNote.vue"
import PageHead from "../components/PageHead.vue"
import PieceThumb from "../components/PieceThumb.vue"
import ProblemNote from "../components/ProblemNote.vue"
import RecordFields from "../components/edit/RecordFields.vue"
import { usePlacement } from "../composables/usePlacement"
import { useItems } from "../composables/useItems"
import { useMyDraft } from "../composables/useMyDraft"
import { useSession } from "../composables/useSession"
import { useSiteEdits } from "../composables/useSiteEdits"
import { alone, anchorOf } from "../composables/format"
import type { Schemas } from "../api/client"

// The records of a site by their types: a list with pictures, and the fields of the one that is chosen.
const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const { drafts, draft } = useMyDraft(site)
const keeper = useSession().may("keeper")
const edits = useSiteEdits(site, draft)
const items = useItems(site, draft)
const all = computed(() => items.data.value?.items ?? [])
const records = computed(() => all.value.filter((i) => i.address.startsWith("record/")))
const typeOf = (r: Schemas["Item"]) => r.address.split("/")[1]
const types = computed(() => [
  ...new Set([
    ...all.value.filter((i) => i.address.startsWith("record-type/")).map((i) => i.address.slice(12)),
    ...records.value.map((r) => typeOf(r)),
  ]),
])
const type = ref("")
watch(types, (t) => (type.value = t.includes(type.value) ? type.value : (t[0] ?? "")), { immediate: true })
const words = ref("")
const most = ref(50)
const list = computed(() =>
  records.value
    .filter((r) => typeOf(r) === type.value)
    .filter((r) => `${r.meta.title} ${r.address}`.toLowerCase().includes(words.value.toLowerCase()))
    .toSorted((a, b) => (a.meta.title || a.address).localeCompare(b.meta.title || b.address)),
)
const chosen = ref("")
const head = computed(() => records.value.find((r) => r.address === chosen.value))
const preview = computed(
  () =>
    drafts.data.value?.drafts.find((d) => d.id === draft.value)?.preview ?? items.data.value?.preview ?? "",
)
// A record has a page of its own where a part shows it.
const showing = computed(
  () => all.value.find((i) => i.address.startsWith("part/") && i.meta.role === "record")?.address ?? "",
)
const pages = usePlacement(site, showing, draft, ref(null))
const pageOf = (r: Schemas["Item"]) => {
  const path = `/${r.address.slice(7)}/`
  return showing.value && pages.data.value?.pages.some((p) => p.path === path && p.part) ? path : ""
}
const title = ref("")
async function copy() {
  const label = title.value.trim()
  const name = `${type.value}/${anchorOf(label)}`
  const like = head.value?.address ?? list.value[0]?.address
  if (!like) return
  title.value = "" // the next may be typed meanwhile
  if (await edits.run([{ op: "record-new", item: like, value: name, label }])) chosen.value = `record/${name}`
  else title.value ||= label
}
const says = (t: string) => t.replaceAll("-", " ")
</script>

<template>
  <PageHead title="Records" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>Each is written by its fields, and shown wherever a page lists it.</template>
  </PageHead>
  <EditedNote :edits="edits" :site="site" :draft="draft" />
  <ProblemNote :error="items.error.value" />
  <p v-if="items.data.value && !types.length" class="text-faded">This site has no records.</p>
  <div v-else class="grid gap-8 lg:grid-cols-[minmax(0,6fr)_minmax(0,5fr)]">
    <section class="min-w-0">
      <div class="mb-3 flex flex-wrap items-center gap-2" role="group" aria-label="Type">
        <button
          v-for="t in types"
          :key="t"
          type="button"
          class="btn-quiet px-3 py-1"
          :class="type === t && 'border-ink bg-slate-soft'"
          :aria-pressed="type === t"
          @click="((type = t), (chosen = ''))"
        >
          {{ says(t) }}
        </button>
        <input
          v-model="words"
          type="search"
          class="field ml-auto w-52"
          placeholder="Search"
          aria-label="Search the records"
        />
      </div>
      <p v-if="!list.length" class="text-faded">
        {{ words ? `None holds “${words}”.` : `There is no ${says(type)} yet.` }}
      </p>
      <ul class="sheet divide-y divide-hair empty:hidden">
        <li v-for="r in list.slice(0, most)" :key="r.address">
          <button
            type="button"
            class="flex w-full items-center gap-3 px-4 py-2 text-left hover:bg-paper"
            :class="chosen === r.address && 'bg-slate-soft'"
            :aria-pressed="chosen === r.address"
            :data-record-row="r.address"
            @click="chosen = r.address"
          >
            <PieceThumb
              bare
              class="w-24 shrink-0"
              :src="alone(preview, r.address)"
              :title="r.meta.title || ''"
            />
            <span class="min-w-0 flex-1 truncate font-semibold">{{
              r.meta.title || r.address.split("/").at(-1)
            }}</span>
          </button>
        </li>
      </ul>
      <button v-if="list.length > most" type="button" class="btn-quiet mt-3" @click="most += 100">
        {{ list.length - most }} more
      </button>
      <form v-if="keeper && list.length" class="mt-4 flex flex-wrap gap-2" @submit.prevent="copy">
        <input
          v-model="title"
          class="field w-60"
          placeholder="Title of a new one"
          aria-label="Title of a new one"
        />
        <button class="btn-quiet" :disabled="!title.trim() || edits.busy.value">
          Make it like {{ head?.meta.title || list[0].meta.title || "the first" }}
        </button>
      </form>
    </section>
    <section v-if="head" class="min-w-0" data-record-chosen>
      <div class="sheet p-4">
        <h2 class="mb-3">{{ head.meta.title || chosen.slice(7) }}</h2>
        <RecordFields
          v-if="keeper"
          :key="chosen"
          :site="site"
          :draft="draft"
          :record="chosen"
          :step="head.state"
          :run="edits.run"
        />
        <p class="flex flex-wrap gap-4">
          <router-link
            v-if="pageOf(head)"
            class="link font-semibold"
            :to="`/sites/${site}/edit${pageOf(head)}${draft ? `?draft=${draft}` : ''}`"
            >Open it as its page shows it</router-link
          >
          <router-link class="link" :to="`/sites/${site}/${chosen}`">Details</router-link>
        </p>
      </div>
    </section>
    <p v-else class="text-faded">Choose one to write in its fields.</p>
  </div>
</template>
