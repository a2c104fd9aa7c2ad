<script setup lang="ts">
import { computed, toRef } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import PieceThumb from "../components/PieceThumb.vue"
import SiteDrafts from "../components/SiteDrafts.vue"
import SiteFace from "../components/SiteFace.vue"
import SiteNav from "../components/SiteNav.vue"
import SitePages from "../components/SitePages.vue"
import SiteWords from "../components/SiteWords.vue"
import SiteTrust from "../components/SiteTrust.vue"
import { useItems } from "../composables/useItems"
import { useMyDraft } from "../composables/useMyDraft"
import { useSites } from "../composables/useSites"
import { useSession } from "../composables/useSession"
import { alone, short, titleOf, weight } from "../composables/format"
import type { Schemas } from "../api/client"

// A site: what one comes for first, then what waits, its pages and parts, and the rest.
const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const items = useItems(site)
const sites = useSites()
const { drafts, draft } = useMyDraft(site)
const keeper = useSession().may("keeper")
const title = computed(() => sites.data.value?.sites.find((s) => s.name === props.site)?.title || props.site)
const of = (kind: string) => items.data.value?.items.filter((i) => i.address.startsWith(kind + "/")) ?? []
const parts = computed(() => of("part"))
const kinds = "section block stylesheet tokens menu form record-type record component media setting".split(
  " ",
)
const groups = computed(() => kinds.map((kind) => ({ kind, items: of(kind) })).filter((g) => g.items.length))
const place = (i: Schemas["Item"]) =>
  i.meta.off
    ? "switched off"
    : i.meta.placement
      ? i.meta.placement.where.length
        ? "appears on " +
          i.meta.placement.where.join(", ") +
          (i.meta.placement.unless?.length ? " except on " + i.meta.placement.unless.join(", ") : "")
        : "not placed"
      : "where its role stands"
</script>

<template>
  <ProblemNote :error="items.error.value" />
  <template v-if="items.data.value">
    <PageHead :title="title" :back="{ to: '/sites', label: 'Sites' }">
      <template #about>
        <a class="link" :href="items.data.value.preview + '/'" target="_blank" rel="noopener"
          >As visitors see it</a
        >
      </template>
    </PageHead>
    <SiteFace
      :site="site"
      :preview="items.data.value.preview"
      :draft="draft"
      :keeper="keeper"
      :title="title"
    />
    <SiteNav :site="site" :query="draft ? `?draft=${draft}` : ''" />
    <SiteDrafts :site="site" :drafts="drafts.data.value?.drafts ?? []" />
    <div class="grid gap-8 lg:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
      <SitePages v-model:draft="draft" :site="site" :keeper="keeper" class="min-w-0" />
      <div class="min-w-0 space-y-8">
        <section v-if="parts.length">
          <h2 class="mb-2">Parts</h2>
          <ul class="sheet divide-y divide-hair">
            <li v-for="p in parts" :key="p.address" class="px-4 py-2.5">
              <span class="flex items-center gap-3"
                ><PieceThumb
                  bare
                  class="w-20 shrink-0"
                  :src="alone(items.data.value.preview, p.address)"
                  :title="titleOf(p)"
                /><span class="min-w-0"
                  ><router-link class="link font-semibold" :to="`/sites/${site}/${p.address}`">{{
                    titleOf(p)
                  }}</router-link>
                  <router-link
                    class="block text-faded underline decoration-hair underline-offset-4 hover:text-ink"
                    :to="`/sites/${site}/appears/${p.address.slice(5)}`"
                    >{{ p.meta.role }}, {{ place(p) }}</router-link
                  ></span
                ></span
              >
            </li>
          </ul>
        </section>
        <SiteWords v-model:draft="draft" :site="site" :keeper="keeper" />
        <SiteTrust :site="site" :editable="keeper" />
        <details>
          <summary class="text-xl font-semibold">All items</summary>
          <p class="my-2 text-faded">
            Revision {{ items.data.value.revision }}, digest
            <span class="addr">{{ short(items.data.value.digest) }}</span>
          </p>
          <section v-for="g in groups" :key="g.kind" class="mb-4">
            <h3 class="mb-1 first-letter:uppercase">{{ g.kind }}</h3>
            <ul class="sheet divide-y divide-hair">
              <li v-for="i in g.items" :key="i.address" class="flex justify-between gap-3 px-4 py-2">
                <router-link class="link min-w-0 truncate" :to="`/sites/${site}/${i.address}`">{{
                  titleOf(i)
                }}</router-link><span class="whitespace-nowrap text-sm text-faded">{{
                  weight(i.bytes)
                }}</span>
              </li>
            </ul>
          </section>
        </details>
      </div>
    </div>
  </template>
</template>
