<script setup lang="ts">
import { computed } from "vue"
import { useQueries } from "@tanstack/vue-query"
import DeliveryCards from "../components/DeliveryCards.vue"
import PageHead from "../components/PageHead.vue"
import PieceThumb from "../components/PieceThumb.vue"
import ProblemNote from "../components/ProblemNote.vue"
import { api, result } from "../api/client"
import { useDeliveries } from "../composables/useDeliveries"
import { useKits } from "../composables/useKits"
import { useSession } from "../composables/useSession"
import { useSites } from "../composables/useSites"
import { moment } from "../composables/format"

// What I am making: deliveries that wait for me, drafts, kits in the making.
const { session } = useSession()
const me = computed(() => session.data.value?.name ?? "")
const sites = useSites()
const kits = useKits()
const deliveries = useDeliveries()
const withDrafts = computed(() => (sites.data.value?.sites ?? []).filter((s) => s.openDrafts > 0))
const lists = useQueries({
  queries: computed(() =>
    withDrafts.value.map((s) => ({
      queryKey: ["drafts", s.name],
      queryFn: () => result(api.GET("/api/v1/sites/{site}/drafts", { params: { path: { site: s.name } } })),
    })),
  ),
})
const drafts = computed(() =>
  withDrafts.value.flatMap((s, i) =>
    (lists.value[i]?.data?.drafts ?? [])
      .filter((d) => d.by === me.value && !d.delivery)
      .map((d) => ({ ...d, site: s.name, siteTitle: s.title || s.name })),
  ),
)
const making = computed(() => (kits.data.value?.kits ?? []).filter((k) => k.state === "making"))
const waits = computed(() =>
  (deliveries.data.value?.deliveries ?? []).filter(
    (d) => d.by === me.value && !["live", "undone"].includes(d.state),
  ),
)
const nothing = computed(
  () =>
    sites.data.value &&
    kits.data.value &&
    deliveries.data.value &&
    !drafts.value.length &&
    !making.value.length &&
    !waits.value.length,
)
</script>

<template>
  <PageHead title="My work" />
  <ProblemNote :error="sites.error.value ?? kits.error.value ?? deliveries.error.value" />
  <p v-if="nothing" class="sheet px-4 py-3">
    Nothing is open. Edit a page of a <router-link class="link" to="/sites">site</router-link>, or begin a
    <router-link class="link" to="/kits">kit</router-link>.
  </p>
  <section v-if="waits.length" class="mb-8">
    <h2 class="mb-3">Deliveries that wait for me</h2>
    <DeliveryCards :deliveries="waits" />
  </section>
  <section v-if="drafts.length" class="mb-8">
    <h2 class="mb-3">My drafts</h2>
    <ul class="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
      <li v-for="d in drafts" :key="d.id" class="sheet overflow-hidden" :data-my-draft="d.id">
        <PieceThumb :src="d.preview + '/'" :title="d.siteTitle" />
        <div class="px-4 py-3">
          <router-link class="link text-lg font-semibold" :to="`/sites/${d.site}/edit/?draft=${d.id}`">{{
            d.siteTitle
          }}</router-link>
          <p class="text-faded">
            {{ d.name }}, {{ moment(d.createdAt)
            }}<template v-if="d.liveAt">; goes live {{ moment(d.liveAt) }}</template>
          </p>
          <router-link class="link" :to="`/sites/${d.site}/go-live?draft=${d.id}`">Go live…</router-link>
        </div>
      </li>
    </ul>
  </section>
  <section v-if="making.length">
    <h2 class="mb-3">Kits in the making</h2>
    <ul class="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
      <li v-for="k in making" :key="k.name + k.version" class="sheet overflow-hidden">
        <PieceThumb v-if="k.face" :src="k.face" :title="k.title || k.name" />
        <div class="px-4 py-3">
          <router-link class="link text-lg font-semibold" :to="`/kits/${k.name}/${k.version}`"
            >{{ k.title || k.name }} {{ k.version }}</router-link
          >
          <p class="text-faded">{{ k.items }} {{ k.items === 1 ? "item" : "items" }}</p>
        </div>
      </li>
    </ul>
  </section>
</template>
