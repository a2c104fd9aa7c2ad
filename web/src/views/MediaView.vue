<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import EditedNote from "../components/EditedNote.vue"
import FileDrop from "../components/FileDrop.vue"
import IconCard from "../components/IconCard.vue"
import MediaCard from "../components/MediaCard.vue"
import LogoCard from "../components/LogoCard.vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import ProfilesCard from "../components/ProfilesCard.vue"
import { useItems, putMedia } from "../composables/useItems"
import { useMedia } from "../composables/useMedia"
import { useMyDraft } from "../composables/useMyDraft"
import { useSession } from "../composables/useSession"
import { useSiteEdits } from "../composables/useSiteEdits"
import { useSites } from "../composables/useSites"

// All media of a site, and what is shown of it everywhere: logo, icon, social addresses.
const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const { drafts, draft } = useMyDraft(site)
const keeper = useSession().may("keeper")
const edits = useSiteEdits(site, draft)
const items = useItems(site, draft)
const sites = useSites()
const title = computed(() => sites.data.value?.sites.find((s) => s.name === props.site)?.title || props.site)
const preview = computed(
  () =>
    drafts.data.value?.drafts.find((d) => d.id === draft.value)?.preview ?? items.data.value?.preview ?? "",
)
const words = ref("")
const unused = ref(false)
const media = useMedia(site, draft, words)
const all = computed(() => media.data.value?.media ?? [])
const without = computed(() => all.value.filter((m) => !m.usedBy.length))
const list = computed(() => (unused.value ? without.value : all.value))
const most = ref(60)
const share = ref<number | null>(null)
async function add(file: File) {
  share.value = 0
  await edits.act(async (id) => {
    const address = await putMedia(props.site, id, file, (s) => (share.value = s))
    return `Added ${address.slice(6)}`
  })
  share.value = null
}
</script>

<template>
  <PageHead title="Pictures and logo" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>Logo, icon, social addresses, and all its media.</template>
  </PageHead>
  <EditedNote :edits="edits" :site="site" :draft="draft" />
  <div class="mb-8 grid gap-6 lg:grid-cols-2">
    <LogoCard :site="site" :draft="draft" :keeper="keeper" :preview="preview" :edits="edits" />
    <div class="space-y-6">
      <IconCard
        :site="site"
        :title="title"
        :draft="draft"
        :keeper="keeper"
        :preview="preview"
        :edits="edits"
      />
      <ProfilesCard :site="site" :draft="draft" :keeper="keeper" :edits="edits" />
    </div>
  </div>
  <h2 class="mb-2">Media</h2>
  <ProblemNote :error="media.error.value" />
  <div class="mb-4 flex flex-wrap items-center gap-3">
    <input
      v-model="words"
      type="search"
      class="field max-w-sm"
      placeholder="Search by name"
      aria-label="Search by name"
    />
    <label class="flex items-center gap-2"
      ><input v-model="unused" type="checkbox" />only what nothing shows ({{ without.length }})</label
    >
  </div>
  <FileDrop
    v-if="keeper"
    class="mb-4"
    data-add-media
    says="Drop a picture or another file here to add it, or choose one."
    accept=""
    :share="share"
    @file="add"
  />
  <p v-if="media.data.value && !list.length" class="text-faded">
    {{
      words
        ? `No media are called “${words}”.`
        : unused
          ? "Everything is shown somewhere."
          : "There are no media yet."
    }}
  </p>
  <ul class="grid gap-4 sm:grid-cols-3 lg:grid-cols-4" data-media-list>
    <MediaCard
      v-for="m in list.slice(0, most)"
      :key="m.item.address"
      :site="site"
      :draft="draft"
      :media="m"
      :preview="preview"
      :keeper="keeper"
      :edits="edits"
    />
  </ul>
  <button v-if="list.length > most" type="button" class="btn-quiet mt-4" @click="most += 120">
    {{ list.length - most }} more
  </button>
</template>
