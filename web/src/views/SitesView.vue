<script setup lang="ts">
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import PieceThumb from "../components/PieceThumb.vue"
import NewSite from "../components/NewSite.vue"
import { useSites } from "../composables/useSites"
import { useSession } from "../composables/useSession"

const sites = useSites()
const keeper = useSession().may("keeper")
</script>

<template>
  <PageHead title="Sites"
    ><template #about>The sites that kits are taken from and delivered to.</template></PageHead
  >
  <ProblemNote :error="sites.error.value" />
  <EmptyNote v-if="sites.data.value && !sites.data.value.sites.length"
    >There is no site yet. Make one below: empty, of a kit, or of a folder that you have.</EmptyNote
  >
  <ul class="grid gap-5 sm:grid-cols-2 lg:grid-cols-3">
    <li
      v-for="s in sites.data.value?.sites ?? []"
      :key="s.name"
      class="sheet relative transition-shadow hover:shadow-md"
    >
      <PieceThumb :src="s.preview + '/'" :title="s.title" />
      <div class="px-4 py-3">
        <h3>
          <router-link :to="`/sites/${s.name}`" class="after:absolute after:inset-0">{{
            s.title
          }}</router-link>
        </h3>
        <p class="addr text-faded">{{ s.name }}</p>
        <p class="mt-1 text-faded">{{ s.pages }} pages · {{ s.items }} items · revision {{ s.revision }}</p>
        <p v-if="s.openDrafts" class="mt-1 font-semibold text-amber">
          {{ s.openDrafts }} {{ s.openDrafts === 1 ? "draft" : "drafts" }} ahead of live
        </p>
      </div>
    </li>
  </ul>
  <section v-if="keeper" class="mt-10">
    <h2 class="mb-3">A new site</h2>
    <NewSite :sites="sites.data.value?.sites ?? []" />
  </section>
</template>
