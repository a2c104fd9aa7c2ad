<script setup lang="ts">
import { computed, reactive, toRef, watch } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import AdoptReport from "../components/AdoptReport.vue"
import ProposalCard from "../components/ProposalCard.vue"
import FolderAgain from "../components/FolderAgain.vue"
import { useAccept, useAdopted, useProposals } from "../composables/useProposals"
import { useSession } from "../composables/useSession"

const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const proposals = useProposals(site)
const adopted = useAdopted(site)
const accept = useAccept(site)
const keeper = useSession().may("keeper")
const chosen = reactive<Record<string, boolean>>({})
watch(
  () => proposals.data.value?.proposals,
  (list) => {
    for (const p of list ?? []) chosen[p.address] ??= p.sure && !p.address.startsWith("tokens/")
  },
  { immediate: true },
)
const picked = computed(() =>
  (proposals.data.value?.proposals ?? []).map((p) => p.address).filter((a) => chosen[a]),
)
</script>

<template>
  <PageHead title="What repeats" :back="{ to: `/sites/${site}`, label: site }"
    ><template #about
      >What is on several pages of {{ site }} and could be kept once. Pages look the same afterwards: each is
      shown before and after, and a page that would look different keeps its own copy.</template
    ></PageHead
  >
  <AdoptReport v-if="adopted" :adopted="adopted" />
  <ProblemNote :error="proposals.error.value ?? accept.error.value" />
  <p v-if="proposals.isPending.value" role="status" class="text-faded">Reading the pages…</p>
  <EmptyNote v-if="proposals.data.value && !proposals.data.value.proposals.length"
    >Everything that repeats is already kept once.</EmptyNote
  >
  <div v-if="accept.data.value" role="status" class="mb-5 rounded-md bg-calm-soft px-4 py-3 text-calm">
    <p v-if="accept.data.value.draft">
      {{ accept.data.value.took.length }} of them are in draft {{ accept.data.value.draft }}, with
      {{ accept.data.value.items }} items.
      <a class="link" :href="accept.data.value.preview + '/'" target="_blank" rel="noopener">Look at it</a>,
      or put it live from <router-link class="link" :to="`/sites/${site}`">the site</router-link>.
    </p>
    <ul v-if="accept.data.value.notes.length" class="mt-1 list-disc pl-6 text-ink">
      <li v-for="(n, i) in accept.data.value.notes" :key="i">
        <span class="addr">{{ n.address }}</span> {{ n.message }}
      </li>
    </ul>
  </div>
  <template v-if="proposals.data.value?.proposals.length">
    <ul class="space-y-3">
      <ProposalCard
        v-for="p in proposals.data.value.proposals"
        :key="p.address"
        v-model="chosen[p.address]!"
        :proposal="p"
        :site="site"
      />
    </ul>
    <button
      v-if="keeper"
      class="btn mt-5"
      :disabled="!picked.length || accept.isPending.value"
      @click="accept.mutate(picked)"
    >
      {{ accept.isPending.value ? "Comparing the pages…" : `Put ${picked.length} into a draft` }}
    </button>
  </template>
  <FolderAgain v-if="keeper" class="mt-12" :site="site" />
</template>
