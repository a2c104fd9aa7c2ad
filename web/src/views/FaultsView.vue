<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import FaultList from "../components/FaultList.vue"
import { useSiteFaults } from "../composables/useFaults"
import { useMyDraft } from "../composables/useMyDraft"

const props = defineProps<{ site: string; draft?: number }>()
const { draft: mine } = useMyDraft(toRef(props, "site"))
const widths = ref(false)
const found = useSiteFaults(toRef(props, "site"), toRef(props, "draft"), widths)
const look = computed(() => (widths.value ? found.data.value?.widths : undefined))
const title = computed(() => (props.draft ? "Faults of the draft" : "Faults"))
</script>

<template>
  <PageHead :title="title" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>
      What visitors would trip over, found on every page as it is shown, with the place to mend it.
    </template>
    <router-link v-if="mine && !draft" class="btn-quiet" :to="`/sites/${site}/faults?draft=${mine}`"
      >Of my draft</router-link
    >
    <router-link v-if="draft" class="btn-quiet" :to="`/sites/${site}/faults`">Of the live site</router-link>
    <label class="flex items-center gap-2"
      ><input v-model="widths" type="checkbox" />also by a browser, at 1280, 768 and 390 px</label
    >
    <button class="btn-quiet" :disabled="found.isFetching.value" @click="found.refetch()">Look again</button>
  </PageHead>
  <ProblemNote :error="found.error.value" />
  <p v-if="found.isPending.value" class="text-faded" role="status">Looking at all pages…</p>
  <p v-if="look" class="mb-4 text-faded" role="status">
    <template v-if="!look.browser">This service has no browser that could look at the pages.</template>
    <template v-else-if="look.waiting"
      >A browser looks at {{ look.pages }} pages: {{ look.waiting }} looks are left…</template
    >
    <template v-else
      >A browser has looked at {{ look.pages }} {{ look.pages === 1 ? "page" : "pages"
      }}<template v-if="look.left">; {{ look.left }} more were not looked at</template>.</template
    >
  </p>
  <FaultList
    v-if="found.data.value"
    :faults="found.data.value.faults"
    :root="`/sites/${site}`"
    :site="site"
    :draft="draft"
  />
</template>
