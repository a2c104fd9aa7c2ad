<script setup lang="ts">
import { computed, ref, watch } from "vue"
import { useRoute, useRouter } from "vue-router"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import ShelfTabs from "../components/ShelfTabs.vue"
import PieceThumb from "../components/PieceThumb.vue"
import { useRest } from "../underWay"
import { useLibrary } from "../composables/useItems"
import { useVocabulary } from "../composables/useVocabulary"
import { alone, showable, titleOf, weight } from "../composables/format"

const route = useRoute()
const router = useRouter()
const typed = ref(String(route.query.q ?? ""))
const words = ref(typed.value)
const kind = ref(String(route.query.kind ?? ""))
const { kinds } = useVocabulary()
const pause = useRest("drop")
watch(typed, (v) =>
  pause.after(200, () => {
    words.value = v
  }),
)
watch([words, kind], ([q, k]) => router.replace({ query: { ...(q && { q }), ...(k && { kind: k }) } }))
const library = useLibrary(words, kind)
const items = computed(() => library.data.value?.items ?? [])
// What has a face of its own is a card; the rest is listed.
const isCard = (address: string) => showable(address) && !/^(menu|media)\//.test(address)
const shown = computed(() => items.value.filter((i) => isCard(i.address)))
const rest = computed(() => items.value.filter((i) => !isCard(i.address)))
const narrowed = computed(() => words.value !== "" || kind.value !== "")
</script>

<template>
  <PageHead title="Library"
    ><template #about
      >Pieces that are kept for reuse. Keeping one here changes nothing on any site.</template
    ></PageHead
  >
  <ShelfTabs />
  <div class="mb-6 flex flex-wrap gap-3">
    <input
      v-model="typed"
      type="search"
      class="field max-w-md"
      placeholder="Search as you type"
      aria-label="Search the library"
    />
    <select v-model="kind" class="field max-w-48" aria-label="Kind">
      <option value="">all kinds</option>
      <option v-for="k in kinds" :key="k.kind" :value="k.kind">{{ k.kind }}</option>
    </select>
  </div>
  <ProblemNote :error="library.error.value" />
  <template v-if="library.data.value">
    <EmptyNote v-if="items.length === 0 && !narrowed"
      >The library is empty. Go to a <router-link class="link text-ink" to="/sites">site</router-link>, open a
      section or a part, and choose “Keep for reuse”.</EmptyNote
    >
    <EmptyNote v-else-if="items.length === 0">No matches. Try fewer words or another kind.</EmptyNote>
    <ul class="grid gap-5 sm:grid-cols-2 lg:grid-cols-3">
      <li v-for="i in shown" :key="i.address" class="sheet relative transition-shadow hover:shadow-md">
        <PieceThumb :src="alone(library.data.value.preview, i.address)" :title="titleOf(i)" />
        <div class="px-4 py-3">
          <h3>
            <router-link :to="`/library/${i.address}`" class="after:absolute after:inset-0">{{
              titleOf(i)
            }}</router-link>
          </h3>
          <p class="addr text-faded">{{ i.address }}</p>
          <p v-if="i.meta.tags?.length" class="mt-1 flex flex-wrap gap-1.5">
            <span
              v-for="t in i.meta.tags"
              :key="t"
              class="rounded-full bg-slate-soft px-2 text-sm text-slate"
              >{{ t }}</span
            >
          </p>
        </div>
      </li>
    </ul>
    <section v-if="rest.length" class="mt-8">
      <h2 class="mb-2">What they use</h2>
      <div class="sheet overflow-x-auto">
        <table>
          <thead>
            <tr>
              <th>Item</th>
              <th>Title</th>
              <th>Weight</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="i in rest" :key="i.address">
              <td class="addr">
                <router-link class="link" :to="`/library/${i.address}`">{{ i.address }}</router-link>
              </td>
              <td>{{ i.meta.title }}</td>
              <td>{{ weight(i.bytes) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  </template>
</template>
