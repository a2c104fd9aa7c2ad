<script setup lang="ts">
import { computed, toRef } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import DraftCard from "../components/DraftCard.vue"
import MediaDrop from "../components/MediaDrop.vue"
import PieceThumb from "../components/PieceThumb.vue"
import PreviewFrame from "../components/PreviewFrame.vue"
import SiteTrust from "../components/SiteTrust.vue"
import { useItems } from "../composables/useItems"
import { useDrafts, useHistory } from "../composables/useSites"
import { useSession } from "../composables/useSession"
import { alone, moment, short, weight } from "../composables/format"
import type { Schemas } from "../api/client"

const props = defineProps<{ site: string }>()
const site = toRef(props, "site")
const items = useItems(site)
const drafts = useDrafts(site)
const history = useHistory(site)
const keeper = useSession().may("keeper")
const of = (kind: string) => items.data.value?.items.filter((i) => i.address.startsWith(kind + "/")) ?? []
const pages = computed(() =>
  [...of("page")].sort((a, b) => (a.meta.slug ?? "").localeCompare(b.meta.slug ?? "")),
)
const parts = computed(() => of("part"))
const groups = computed(() =>
  [
    "section",
    "block",
    "stylesheet",
    "tokens",
    "menu",
    "form",
    "record-type",
    "record",
    "component",
    "media",
    "setting",
  ]
    .map((k) => ({ kind: k, items: of(k) }))
    .filter((g) => g.items.length || g.kind === "media"),
)
const depth = (i: Schemas["Item"]) => Math.max(0, (i.meta.slug ?? "/").split("/").length - 3)
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
    <PageHead :title="site" :back="{ to: '/sites', label: 'Sites' }">
      <template #about
        ><details>
          <summary>Details</summary>
          Revision {{ items.data.value.revision }}, digest
          <span class="addr">{{ short(items.data.value.digest) }}</span>
        </details></template
      >
      <router-link class="btn-quiet" :to="`/sites/${site}/proposals`">What repeats</router-link>
      <router-link class="btn-quiet" :to="`/sites/${site}/faults`">Faults</router-link>
      <router-link class="btn-quiet" :to="`/sites/${site}/publishing`">Publishing</router-link>
    </PageHead>
    <DraftCard
      v-for="d in drafts.data.value?.drafts ?? []"
      :key="d.id"
      :site="site"
      :draft="d"
      :keeper="keeper"
    />
    <div class="grid gap-8 lg:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
      <div class="min-w-0 space-y-8">
        <PreviewFrame :src="items.data.value.preview + '/'" title="As visitors see it" />
        <section>
          <h2 class="mb-2">History</h2>
          <ol class="sheet divide-y divide-hair">
            <li
              v-for="r in history.data.value?.revisions ?? []"
              :key="r.revision"
              class="flex flex-wrap gap-x-4 px-4 py-2.5"
            >
              <b class="tabular-nums">{{ r.revision }}</b><span class="min-w-0 flex-1"
                >{{ r.message }} <span class="text-faded">by {{ r.by }}, {{ moment(r.at) }}</span></span
              ><router-link v-if="r.delivery" class="link" :to="`/deliveries/${r.delivery}`"
                >delivery {{ r.delivery }}</router-link
              ><span class="addr text-faded">{{ short(r.digest) }}</span>
            </li>
          </ol>
        </section>
      </div>
      <div class="min-w-0 space-y-8">
        <section>
          <h2 class="mb-2">Pages</h2>
          <ul class="sheet divide-y divide-hair">
            <li
              v-for="p in pages"
              :key="p.address"
              class="px-4 py-2.5"
              :style="{ paddingLeft: `${1 + depth(p) * 1.25}rem` }"
            >
              <span class="flex items-center gap-3"
                ><PieceThumb
                  bare
                  class="w-20 shrink-0"
                  :src="items.data.value.preview + p.meta.slug"
                  :title="p.meta.title || p.address"
                /><span class="min-w-0"
                  ><router-link class="link font-semibold" :to="`/sites/${site}/${p.address}`">{{
                    p.meta.title || p.address
                  }}</router-link>
                  <span class="block truncate text-faded">{{ p.meta.slug }}</span></span
                ></span
              >
            </li>
          </ul>
        </section>
        <section v-if="parts.length">
          <h2 class="mb-2">Parts</h2>
          <ul class="sheet divide-y divide-hair">
            <li v-for="p in parts" :key="p.address" class="px-4 py-2.5">
              <span class="flex items-center gap-3"
                ><PieceThumb
                  bare
                  class="w-20 shrink-0"
                  :src="alone(items.data.value.preview, p.address)"
                  :title="p.meta.title || p.address"
                /><span class="min-w-0"
                  ><router-link class="link font-semibold" :to="`/sites/${site}/${p.address}`">{{
                    p.meta.title || p.address
                  }}</router-link>
                  <span class="block text-faded">{{ p.meta.role }}, {{ place(p) }}</span></span
                ></span
              >
            </li>
          </ul>
        </section>
        <SiteTrust :site="site" :editable="keeper" />
        <section v-for="g in groups" :key="g.kind">
          <h2 class="mb-2 first-letter:uppercase">{{ g.kind }}</h2>
          <MediaDrop v-if="g.kind === 'media' && keeper" class="mb-2" :site="site" />
          <ul class="sheet divide-y divide-hair">
            <li v-for="i in g.items" :key="i.address" class="flex justify-between gap-3 px-4 py-2">
              <router-link class="link min-w-0 truncate" :to="`/sites/${site}/${i.address}`">{{
                i.meta.title || i.address.slice(g.kind.length + 1)
              }}</router-link><span class="whitespace-nowrap text-sm text-faded">{{ weight(i.bytes) }}</span>
            </li>
          </ul>
        </section>
      </div>
    </div>
  </template>
</template>
