<script setup lang="ts">
import { computed, toRef } from "vue"
import EditedNote from "../components/EditedNote.vue"
import FormEntries from "../components/FormEntries.vue"
import FormReceiver from "../components/FormReceiver.vue"
import FormTrial from "../components/FormTrial.vue"
import PageHead from "../components/PageHead.vue"
import PieceThumb from "../components/PieceThumb.vue"
import ProblemNote from "../components/ProblemNote.vue"
import FormFields from "../components/edit/FormFields.vue"
import { parsed, useDraftItem } from "../composables/useDraftItem"
import { useForms } from "../composables/useForms"
import { useItems } from "../composables/useItems"
import { useMyDraft } from "../composables/useMyDraft"
import { useSession } from "../composables/useSession"
import { useSiteEdits } from "../composables/useSiteEdits"
import { alone } from "../composables/format"

// A form: what it asks, who gets it, a trial entry, and what has come.
const props = defineProps<{ site: string; form: string }>()
const site = toRef(props, "site")
const { drafts, draft } = useMyDraft(site)
const keeper = useSession().may("keeper")
const edits = useSiteEdits(site, draft)
const items = useItems(site, draft)
const address = computed(() => `form/${props.form}`)
const head = computed(() => items.data.value?.items.find((i) => i.address === address.value))
const item = useDraftItem(
  site,
  computed(() => head.value?.address ?? ""),
  draft,
  computed(() => head.value?.state ?? ""),
)
interface Text {
  title?: string
  order?: string[]
  schema?: { properties?: Record<string, { title?: string }> }
}
const text = computed(() => parsed<Text>(item.data.value?.value.content))
const title = computed(() => text.value?.title || props.form)
const fields = computed(() => {
  const known = text.value?.schema?.properties ?? {}
  const order = (text.value?.order ?? []).filter((n) => known[n])
  return [...order, ...Object.keys(known).filter((n) => !order.includes(n))].map((name) => ({
    name,
    title: known[name].title || name,
  }))
})
const preview = computed(
  () =>
    drafts.data.value?.drafts.find((d) => d.id === draft.value)?.preview ?? items.data.value?.preview ?? "",
)
const forms = useForms(site)
const live = computed(() => forms.data.value?.forms.find((f) => f.name === props.form))
</script>

<template>
  <PageHead :title="title" :back="{ to: `/sites/${site}/forms`, label: 'Forms' }">
    <template #about
      ><template v-if="live?.address">It is received at {{ live.address }}.</template
      ><template v-else>It goes live with your draft.</template></template
    >
  </PageHead>
  <EditedNote :edits="edits" :site="site" :draft="draft" />
  <ProblemNote :error="items.error.value ?? item.error.value" />
  <p v-if="items.data.value && !head" class="sheet px-4 py-3">
    There is no such form here.
    <router-link class="link" :to="`/sites/${site}/forms`">See the forms of the site</router-link>
  </p>
  <template v-if="head">
    <div class="mb-8 grid gap-6 lg:grid-cols-3">
      <section class="sheet p-4">
        <h2 class="mb-2">What it asks</h2>
        <FormFields
          v-if="keeper"
          :site="site"
          :draft="draft"
          :form="address"
          :step="head.state"
          :run="edits.run"
        />
        <PieceThumb
          bare
          :src="`${alone(preview, address)}?${encodeURIComponent(head.state)}`"
          :title="title"
        />
      </section>
      <FormReceiver :site="site" :form="form" :draft="draft" :keeper="keeper" :edits="edits" />
      <FormTrial v-if="keeper" :site="site" :form="form" :draft="draft" :preview="preview" :fields="fields" />
    </div>
    <FormEntries v-if="keeper && live" :site="site" :form="form" />
  </template>
</template>
