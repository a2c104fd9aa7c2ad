<script setup lang="ts">
import { computed, toRef } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import FaultList from "../components/FaultList.vue"
import { useSiteFaults } from "../composables/useFaults"

const props = defineProps<{ site: string; draft?: number }>()
const found = useSiteFaults(toRef(props, "site"), toRef(props, "draft"))
const title = computed(() => (props.draft ? `Faults of draft ${props.draft}` : "Faults"))
</script>

<template>
  <PageHead :title="title" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>
      What visitors would trip over, found on every page as it is shown, with the place to mend it.
    </template>
    <button class="btn-quiet" :disabled="found.isFetching.value" @click="found.refetch()">Look again</button>
  </PageHead>
  <ProblemNote :error="found.error.value" />
  <p v-if="found.isPending.value" class="text-faded" role="status">Looking at all pages…</p>
  <FaultList v-if="found.data.value" :faults="found.data.value.faults" :root="`/sites/${site}`" />
</template>
