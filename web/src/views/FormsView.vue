<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useRouter } from "vue-router"
import EditedNote from "../components/EditedNote.vue"
import PageHead from "../components/PageHead.vue"
import PieceThumb from "../components/PieceThumb.vue"
import ProblemNote from "../components/ProblemNote.vue"
import { useForms } from "../composables/useForms"
import { useItems } from "../composables/useItems"
import { useMyDraft } from "../composables/useMyDraft"
import { useSession } from "../composables/useSession"
import { useSiteEdits } from "../composables/useSiteEdits"
import { alone, anchorOf, moment } from "../composables/format"

// The forms of a site, those of my draft among them.
const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const router = useRouter()
const { drafts, draft } = useMyDraft(site)
const keeper = useSession().may("keeper")
const edits = useSiteEdits(site, draft)
const items = useItems(site, draft)
const forms = useForms(site)
const preview = computed(
  () =>
    drafts.data.value?.drafts.find((d) => d.id === draft.value)?.preview ?? items.data.value?.preview ?? "",
)
const list = computed(() =>
  (items.data.value?.items ?? [])
    .filter((i) => i.address.startsWith("form/"))
    .map((i) => {
      const name = i.address.slice(5)
      const live = forms.data.value?.forms.find((f) => f.name === name)
      return { name, address: i.address, title: live?.title || i.meta.title || name, live }
    }),
)
const title = ref("")
async function make() {
  const name = anchorOf(title.value)
  if (await edits.run([{ op: "form-new", item: `form/${name}`, value: title.value.trim() }]))
    router.push(`/sites/${props.site}/forms/${name}`)
}
</script>

<template>
  <PageHead title="Forms" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>The forms of the site, who gets what is sent, and what has come.</template>
  </PageHead>
  <EditedNote :edits="edits" :site="site" :draft="draft" />
  <ProblemNote :error="items.error.value ?? forms.error.value" />
  <p v-if="items.data.value && !list.length" class="mb-4 text-faded">There is no form yet.</p>
  <ul class="mb-6 grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
    <li v-for="f in list" :key="f.name" class="sheet overflow-hidden" :data-form-card="f.name">
      <PieceThumb :src="alone(preview, f.address)" :title="f.title" />
      <div class="px-4 py-3">
        <router-link class="link text-lg font-semibold" :to="`/sites/${site}/forms/${f.name}`">{{
          f.title
        }}</router-link>
        <p v-if="f.live" class="text-faded">
          {{ f.live.entries }} {{ f.live.entries === 1 ? "entry" : "entries"
          }}<template v-if="f.live.last">, the last {{ moment(f.live.last) }}</template>
        </p>
        <p v-else class="text-faded">in your draft</p>
        <p v-if="f.live?.note" class="text-amber">{{ f.live.note }}</p>
        <p v-if="f.live && !f.live.receiver.to.length" class="text-amber">Nobody gets what is sent.</p>
      </div>
    </li>
  </ul>
  <form v-if="keeper" class="flex flex-wrap items-end gap-3" @submit.prevent="make">
    <div>
      <label class="label" for="new-form">New form</label>
      <input id="new-form" v-model="title" class="field w-72" placeholder="Its title" required />
    </div>
    <button class="btn" :disabled="!title.trim() || edits.busy.value">Make the form</button>
  </form>
</template>
