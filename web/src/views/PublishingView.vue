<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import OutletRow from "../components/OutletRow.vue"
import FolderAgain from "../components/FolderAgain.vue"
import { useOutlets } from "../composables/useOutlets"
import { useSession } from "../composables/useSession"
import type { Schemas } from "../api/client"

const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const { list, add, publish, remove } = useOutlets(site)
const keeper = useSession().may("keeper")
const name = ref("")
const base = ref("/")
const links = ref<NonNullable<Schemas["NewOutlet"]["links"]>>("rooted")
const zip = computed(
  () =>
    `/api/v1/sites/${site.value}/published?${new URLSearchParams({ base: base.value || "/", links: links.value })}`,
)
const busy = computed(() => publish.isPending.value || add.isPending.value)
</script>

<template>
  <PageHead title="Publishing" :back="{ to: `/sites/${site}`, label: site }"
    ><template #about
      >A complete static site: pages, files under their digests, a page for unknown addresses, a site map, and
      an index for the search.</template
    ></PageHead
  >
  <section class="mb-10">
    <h2 class="mb-1">Outlets</h2>
    <p class="mb-3 max-w-3xl text-faded">
      Folders on the service’s machine. What goes live is published there at once, in one switch: no visitor
      sees a mixture. Older releases are kept by their number.
    </p>
    <ProblemNote :error="list.error.value ?? add.error.value ?? publish.error.value ?? remove.error.value" />
    <p v-if="publish.data.value" role="status" class="mb-3 rounded-md bg-calm-soft px-4 py-2 text-calm">
      {{ publish.data.value.outlet.name }} shows release {{ publish.data.value.number
      }}<template v-if="publish.data.value.files"
        >: {{ publish.data.value.files }} files, {{ publish.data.value.written }} of them new or
        changed</template
      >.
    </p>
    <EmptyNote v-if="list.data.value && !list.data.value.outlets.length"
      >No outlet yet: what goes live is seen in the preview only.</EmptyNote
    >
    <ul v-else class="sheet divide-y divide-hair">
      <OutletRow
        v-for="o in list.data.value?.outlets ?? []"
        :key="o.name"
        :outlet="o"
        :keeper="keeper"
        :busy="busy"
        @publish="(body) => publish.mutate({ name: o.name, body })"
        @remove="remove.mutate(o.name)"
      />
    </ul>
  </section>
  <form class="mb-10 max-w-3xl" @submit.prevent="add.mutate({ name, body: { base, links } })">
    <h2 class="mb-3">{{ keeper ? "Add an outlet, or take the site as a zip" : "Take the site as a zip" }}</h2>
    <div class="grid gap-4 sm:grid-cols-3">
      <div v-if="keeper">
        <label class="label" for="outlet-name">Its name</label
        ><input id="outlet-name" v-model="name" class="field" placeholder="main" />
      </div>
      <div>
        <label class="label" for="base">Path it is served below</label
        ><input id="base" v-model="base" class="field addr" />
      </div>
      <div>
        <label class="label" for="links">Links</label
        ><select id="links" v-model="links" class="field">
          <option value="rooted">rooted, from the path above</option>
          <option value="relative">relative, to be served from anywhere</option>
          <option value="file">for files, to be opened from disk</option>
        </select>
      </div>
    </div>
    <div class="mt-4 flex flex-wrap gap-2">
      <button v-if="keeper" class="btn" :disabled="!name || busy">
        {{ busy ? "One moment…" : "Add and publish" }}</button><a class="btn-quiet" :href="zip" download
        >Download the zip</a
      >
    </div>
  </form>
  <FolderAgain v-if="keeper" :site="site" />
</template>
