<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import { onBeforeRouteLeave } from "vue-router"
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from "@headlessui/vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import MediaDrop from "../components/MediaDrop.vue"
import PreviewFrame from "../components/PreviewFrame.vue"
import HeadScripts from "../components/HeadScripts.vue"
import PageSource from "../components/PageSource.vue"
import AddToKit from "../components/AddToKit.vue"
import { useEditItem, useItem, useItems, useSaveToLibrary, useSurround } from "../composables/useItems"
import { relationWords } from "../words"
import { useSession } from "../composables/useSession"
import { alone, short, showable, titleOf, weight } from "../composables/format"

const props = defineProps<{ site: string; address: string }>()
const item = useItem(toRef(props, "site"), toRef(props, "address"))
const all = useItems(toRef(props, "site"))
const detail = computed(() => item.data.value?.value)
const slug = computed(() => (props.address.startsWith("page/") ? (detail.value?.item.meta.slug ?? "") : ""))
const surround = useSurround(toRef(props, "site"), slug)
const preview = computed(() => {
  const origin = all.data.value?.preview
  if (!origin || !showable(props.address)) return ""
  return slug.value && props.site !== "library" ? origin + slug.value : alone(origin, props.address)
})
const { may } = useSession()
const librarian = may("librarian")
const keeper = may("keeper")
const save = useSaveToLibrary()
const edit = useEditItem()
const scripts = computed(() => props.address === "setting/head-scripts")
const text = ref("")
watch(
  detail,
  (d) => {
    text.value = d?.content ?? ""
  },
  { immediate: true },
)
const unsaved = computed(
  () => detail.value?.content !== undefined && text.value !== detail.value.content && !edit.isSuccess.value,
)
onBeforeRouteLeave(
  () =>
    !unsaved.value ||
    window.confirm("Your edits of the source are not in a draft yet. Leave, and lose them?"),
)
const back = computed(() =>
  props.site === "library"
    ? { to: "/library", label: "Library" }
    : { to: `/sites/${props.site}`, label: props.site },
)
const to = (address: string) =>
  props.site === "library" ? `/library/${address}` : `/sites/${props.site}/${address}`
</script>

<template>
  <ProblemNote :error="item.error.value" />
  <template v-if="detail">
    <PageHead :title="titleOf(detail.item)" :back="back">
      <template #about
        >{{ weight(detail.item.bytes)
        }}<template v-if="detail.origin">
          · from {{ detail.origin.kit }} {{ detail.origin.version }}</template
        >
        <details>
          <summary>Details</summary>
          <span class="addr">{{ address }}</span>, state
          <span class="addr">{{ short(detail.item.state) }}</span>
        </details></template
      >
      <button
        v-if="site !== 'library' && librarian && !scripts"
        class="btn-quiet"
        :disabled="save.isPending.value"
        @click="save.mutate({ from: site, addresses: [address] })"
      >
        Keep for reuse
      </button>
      <AddToKit v-if="librarian && !scripts" :site="site" :address="address" />
    </PageHead>
    <ProblemNote :error="save.error.value" />
    <p v-if="save.data.value" role="status" class="mb-4 rounded-md bg-calm-soft px-4 py-2 text-calm">
      {{
        save.data.value.added.length
          ? `It is kept for reuse, with everything it needs (${save.data.value.added.length} new in the library).`
          : "It was kept before, just as it is, with everything it needs."
      }}
    </p>
    <TabGroup v-if="all.data.value" :default-index="scripts ? 1 : 0">
      <TabList class="mb-5 flex gap-1 border-b border-hair">
        <Tab
          v-for="t in [
            ...(preview ? ['Preview'] : []),
            'Used by and uses',
            ...(slug && site !== 'library' ? ['Where it comes from'] : []),
            ...(detail.content !== undefined ? [scripts ? 'What may travel' : 'Source'] : []),
          ]"
          :key="t"
          v-slot="{ selected }"
          as="template"
        >
          <button
            class="-mb-px border-b-2 px-3 py-2"
            :class="selected ? 'border-ink font-semibold' : 'border-transparent text-faded hover:text-ink'"
          >
            {{ t }}
          </button>
        </Tab>
      </TabList>
      <TabPanels>
        <TabPanel v-if="preview">
          <div v-if="surround.data.value" class="mb-3 flex flex-wrap gap-2 text-sm">
            <template
              v-for="p in surround.data.value.parts.filter(
                (p) => p.part || p.why !== 'no part is placed here',
              )"
              :key="p.role + (p.part ?? '')"
            >
              <router-link
                v-if="p.part"
                :to="to(p.part)"
                class="rounded-md border border-hair bg-sheet px-2.5 py-1 hover:border-ink"
                ><b>{{ p.role }}</b
                >: {{ p.part }}, {{ p.why
                }}<span v-if="p.ties?.length" class="font-semibold text-amber"
                  >; tied with {{ p.ties.join(", ") }}</span
                ></router-link
              >
              <span v-else class="rounded-md border border-dashed border-hair px-2.5 py-1 text-faded"
                ><b>{{ p.role }}</b
                >: {{ p.why }}</span
              >
            </template>
          </div>
          <MediaDrop
            v-if="address.startsWith('media/') && keeper && site !== 'library' && item.data.value"
            class="mb-4"
            :site="site"
            :address="address"
            :etag="item.data.value.etag"
          />
          <PreviewFrame :src="preview" :title="slug || address" tall />
        </TabPanel>
        <TabPanel class="grid gap-6 lg:grid-cols-2">
          <section>
            <h2 class="mb-2">Uses</h2>
            <p v-if="!detail.uses.length" class="text-faded">Nothing.</p>
            <ul v-else class="sheet divide-y divide-hair">
              <li v-for="(u, n) in detail.uses" :key="n" class="px-4 py-2.5">
                <router-link v-if="u.found && u.to" class="link addr" :to="to(u.to)">{{
                  u.to
                }}</router-link><span v-else class="addr">{{ u.to || u.slug }}</span>
                <span class="ml-2 text-faded"
                  >{{ relationWords(u.relation, u.where)
                  }}<template v-if="u.line">, line {{ u.line }}</template></span
                >
                <span v-if="!u.found" class="ml-2 font-semibold text-amber">not there</span>
              </li>
            </ul>
          </section>
          <section>
            <h2 class="mb-2">Used by</h2>
            <p v-if="!detail.usedBy.length" class="text-faded">Nothing.</p>
            <ul v-else class="sheet divide-y divide-hair">
              <li v-for="u in detail.usedBy" :key="u" class="px-4 py-2.5">
                <router-link class="link addr" :to="to(u)">{{ u }}</router-link>
              </li>
            </ul>
          </section>
        </TabPanel>
        <TabPanel v-if="slug && site !== 'library'">
          <PageSource :site="site" :path="slug" />
        </TabPanel>
        <TabPanel v-if="detail.content !== undefined">
          <HeadScripts v-if="scripts" v-model="text" :locked="!keeper" />
          <textarea
            v-else
            v-model="text"
            class="field addr h-[28rem] whitespace-pre"
            spellcheck="false"
            aria-label="Source"
            :readonly="site === 'library' || !keeper"
          />
          <ProblemNote :error="edit.error.value" />
          <p v-if="edit.data.value" role="status" class="my-3 rounded-md bg-calm-soft px-4 py-2 text-calm">
            It is in draft {{ edit.data.value.draft }}; the live site is as it was.
            <a class="link" :href="edit.data.value.preview" target="_blank" rel="noopener"
              >Look at the draft</a
            >, or put it live from <router-link class="link" :to="`/sites/${site}`">the site</router-link>.
          </p>
          <button
            v-if="site !== 'library' && keeper"
            class="btn mt-3"
            :disabled="!unsaved || edit.isPending.value"
            @click="edit.mutate({ site, address, content: text, etag: item.data.value!.etag })"
          >
            Put the edit into a draft
          </button>
        </TabPanel>
      </TabPanels>
    </TabGroup>
  </template>
</template>
