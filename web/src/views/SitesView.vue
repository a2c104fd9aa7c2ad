<script setup lang="ts">
import { ref } from "vue"
import { useRouter } from "vue-router"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import PieceThumb from "../components/PieceThumb.vue"
import NewSite from "../components/NewSite.vue"
import FileDrop from "../components/FileDrop.vue"
import { useAdopt, useSites } from "../composables/useSites"
import { useSession } from "../composables/useSession"

const sites = useSites()
const keeper = useSession().may("keeper")
const adopt = useAdopt()
const router = useRouter()
const name = ref("")
const parts = ref<"ask" | "auto" | "none">("ask")
const share = ref<number | null>(null)
async function take(file: File) {
  share.value = 0
  try {
    const got = await adopt.mutateAsync({
      name: name.value.trim() || file.name.replace(/\.zip$/i, "").toLowerCase(),
      parts: parts.value,
      file,
      progress: (s) => {
        share.value = s
      },
    })
    router.push(`/sites/${got.site.name}/proposals`)
  } finally {
    share.value = null
  }
}
</script>

<template>
  <PageHead title="Sites"
    ><template #about>The sites that kits are taken from and delivered to.</template></PageHead
  >
  <ProblemNote :error="sites.error.value" />
  <EmptyNote v-if="sites.data.value && !sites.data.value.sites.length"
    >There is no site yet. Adopt one from a zipped folder below.</EmptyNote
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
  <section v-if="keeper" class="mt-10 max-w-2xl">
    <h2 class="mb-3">Adopt a site</h2>
    <div class="mb-3 grid gap-4 sm:grid-cols-2">
      <div>
        <label class="label" for="new-site">Its name here</label
        ><input id="new-site" v-model="name" class="field" placeholder="larch-saddle" />
      </div>
      <div>
        <label class="label" for="parts">What repeats in its pages</label
        ><select id="parts" v-model="parts" class="field">
          <option value="ask">propose it, change nothing yet</option>
          <option value="auto">make parts and sections of what is sure</option>
          <option value="none">leave it in the pages</option>
        </select>
      </div>
    </div>
    <FileDrop
      :says="
        'Drop the site’s folder as a zip here, or choose one: our own layout, or HTML, CSS and pictures ' +
        'as somebody left them.'
      "
      accept=".zip,application/zip"
      :share="share"
      @file="(f) => take(f).catch(() => {})"
    />
    <ProblemNote :error="adopt.error.value" />
  </section>
</template>
