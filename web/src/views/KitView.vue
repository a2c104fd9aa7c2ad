<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useRoute, useRouter } from "vue-router"
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from "@headlessui/vue"
import { ArrowDownTrayIcon } from "@heroicons/vue/24/outline"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import StateBadge from "../components/StateBadge.vue"
import ConfirmAct from "../components/ConfirmAct.vue"
import ItemPicker from "../components/ItemPicker.vue"
import FillinEditor from "../components/FillinEditor.vue"
import NextVersion from "../components/NextVersion.vue"
import DeliverKit from "../components/DeliverKit.vue"
import KitContents from "../components/KitContents.vue"
import NeedGraph from "../components/NeedGraph.vue"
import BlankMarks from "../components/BlankMarks.vue"
import PictureWays from "../components/PictureWays.vue"
import KitNeeds from "../components/KitNeeds.vue"
import KitResolution from "../components/KitResolution.vue"
import KitCheck from "../components/KitCheck.vue"
import KitFaults from "../components/KitFaults.vue"
import KitTerms from "../components/KitTerms.vue"
import KitSigners from "../components/KitSigners.vue"
import PieceThumb from "../components/PieceThumb.vue"
import KitPieces from "../components/KitPieces.vue"
import { useKit } from "../composables/useKits"
import { useSession } from "../composables/useSession"
import { alone, moment, showable, weight } from "../composables/format"
import type { Schemas } from "../api/client"

const props = defineProps<{ name: string; version: string }>()
const route = useRoute()
const router = useRouter()
const {
  kit: query,
  add,
  exclude,
  describe,
  seal,
  nextVersion,
} = useKit(toRef(props, "name"), toRef(props, "version"))
const kit = computed(() => query.data.value?.value)
const etag = computed(() => query.data.value?.etag ?? "")
const librarian = useSession().may("librarian")
const making = computed(() => kit.value?.state === "making")
const editable = computed(() => making.value && librarian.value)
const stops = computed(() => kit.value?.findings.filter((f) => f.stops) ?? [])
const face = computed(() =>
  kit.value?.shownBy && showable(kit.value.shownBy) ? alone(kit.value.preview, kit.value.shownBy) : "",
)
const because = ref("")
const pending = computed(() => describe.isPending.value || add.isPending.value || exclude.isPending.value)
const tooSmall = computed(() => nextVersion.data.value?.enough === false && !because.value.trim())
const tabs = computed(() => {
  const n = kit.value?.findings.length ?? 0
  return [
    { id: "contents", says: "Contents" },
    { id: "graph", says: "Graph" },
    { id: "look", says: "Preview" },
    { id: "blanks", says: `Blanks (${kit.value?.fillins.length ?? 0})` },
    ...(making.value ? [{ id: "pictures", says: "Pictures" }] : []),
    { id: "needs", says: "Needs" },
    ...(making.value
      ? [
          {
            id: "check",
            says: stops.value.length
              ? `Check: ${stops.value.length} stop${stops.value.length > 1 ? "" : "s"} it`
              : `Check (${n})`,
          },
        ]
      : [{ id: "signatures", says: `Signatures (${kit.value?.signers.length ?? 0})` }]),
    { id: "version", says: "Version and terms" },
  ]
})
const tab = computed(() =>
  Math.max(
    0,
    tabs.value.findIndex((t) => t.id === route.query.tab),
  ),
)
const show = (n: number) => router.replace({ query: { ...route.query, tab: tabs.value[n].id } })
const save = (body: Schemas["KitMetadata"]) => describe.mutate({ body, etag: etag.value })
const back = (address: string) =>
  save({ exclusions: kit.value?.exclusions.filter((l) => l.address !== address) ?? [] })
</script>

<template>
  <ProblemNote :error="query.error.value" />
  <template v-if="kit">
    <PageHead
      :title="`${kit.title || kit.name} ${kit.version}`"
      :back="{ to: '/kits', label: 'Kits on the shelf' }"
    >
      <template #about
        ><StateBadge :state="kit.state" class="ml-1" />
        <template v-if="kit.sealedAt">
          {{ moment(kit.sealedAt) }}, {{ weight(kit.fileBytes) }}
          <details>
            <summary>Details</summary>
            <p>
              Name <span class="addr">{{ kit.name }}</span>
            </p>
            <p>
              Digest <span class="addr break-all">{{ kit.digest }}</span>
            </p>
            <p v-for="i in kit.items" :key="i.address" class="addr">{{ i.address }}</p>
          </details></template
        ></template
      >
      <template v-if="!making">
        <a class="btn-quiet" :href="`/api/v1/kits/${kit.name}/${kit.version}/file`" download
          ><ArrowDownTrayIcon class="size-5" aria-hidden="true" />Download the kit</a
        >
        <a class="btn-quiet" :href="`/api/v1/kits/${kit.name}/${kit.version}/pieces`" download
          >One per piece</a
        >
        <DeliverKit
          v-if="librarian"
          :name="kit.name"
          :version="kit.version"
          @opened="(id) => router.push(`/deliveries/${id}`)"
        />
      </template>
      <ConfirmAct
        v-else-if="librarian"
        act="Seal"
        :title="`Seal ${kit.name} ${kit.version}?`"
        :disabled="stops.length > 0 || !kit.items.length || tooSmall || pending"
        :busy="seal.isPending.value"
        @act="seal.mutate({ etag, because })"
      >
        <p>
          The version becomes final: {{ kit.items.length }} items, packed into one file. It cannot be changed
          afterwards; the next change needs a new version number.
        </p>
      </ConfirmAct>
    </PageHead>
    <ProblemNote
      :error="seal.error.value ?? add.error.value ?? exclude.error.value ?? describe.error.value"
    />
    <p
      v-if="making && nextVersion.data.value?.enough === false && tabs[tab]?.id !== 'version'"
      class="mb-4 rounded-md bg-amber-soft px-4 py-2.5 text-amber"
    >
      {{ kit.version }} is too small a number: its changes since {{ nextVersion.data.value.last }} ask for
      {{ nextVersion.data.value.next }}.
      <router-link class="link" :to="{ query: { tab: 'version' } }"
        >See why, or say why it is right</router-link
      >
    </p>
    <div v-if="face && !editable" class="sheet mb-6 max-w-2xl overflow-hidden" data-kit-face>
      <PieceThumb :src="face" :title="kit.title || kit.name" />
      <p v-if="kit.summary" class="px-4 py-3">{{ kit.summary }}</p>
    </div>
    <TabGroup :selected-index="tab" as="div" class="min-w-0" @change="show">
      <TabList class="mb-5 flex flex-wrap gap-x-1 border-b border-hair">
        <Tab v-for="t in tabs" :key="t.id" v-slot="{ selected }" as="template"
          ><button
            class="-mb-px border-b-2 px-3 py-2"
            :class="[
              selected ? 'border-ink font-semibold' : 'border-transparent text-faded hover:text-ink',
              t.id === 'check' && stops.length && '!text-call',
            ]"
          >
            {{ t.says }}
          </button></Tab
        >
      </TabList>
      <TabPanels>
        <TabPanel class="grid gap-8" :class="editable && 'lg:grid-cols-[minmax(0,4fr)_minmax(0,6fr)]'">
          <section v-if="editable">
            <h2 class="mb-3">Add</h2>
            <ItemPicker
              :picks="kit.picks"
              @add="(p) => add.mutate({ picks: [p] })"
              @placed="(site) => add.mutate({ placedParts: site })"
              @styles="(from) => add.mutate({ styles: from })"
              @exclude="(a) => exclude.mutate({ address: a })"
            />
          </section>
          <section class="min-w-0">
            <h2 v-if="editable" class="mb-3">What comes with it, and why</h2>
            <KitContents
              :kit="kit"
              :editable="editable"
              :busy="exclude.isPending.value"
              @exclude="(address, optional) => exclude.mutate({ address, optional })"
              @back="back"
            />
          </section>
        </TabPanel>
        <TabPanel><NeedGraph :kit="kit" /></TabPanel>
        <TabPanel><KitPieces :kit="kit" :stamp="etag" /></TabPanel>
        <TabPanel class="space-y-6">
          <FillinEditor
            v-if="kit.fillins.length"
            :kit="kit"
            :readonly="!editable"
            :busy="describe.isPending.value"
            @save="save"
          />
          <p v-else class="text-faded">It has no blanks.</p>
          <BlankMarks
            v-if="editable"
            :kit="kit"
            :busy="describe.isPending.value"
            :stamp="etag"
            @save="save"
          />
        </TabPanel>
        <TabPanel v-if="making"
          ><PictureWays :kit="kit" :busy="describe.isPending.value || !librarian" @save="save"
        /></TabPanel>
        <TabPanel
          ><KitNeeds
            :kit="kit"
            :editable="editable"
            :busy="describe.isPending.value"
            @save="save" /><KitResolution v-if="!making" :name="kit.name" :version="kit.version"
        /></TabPanel>
        <TabPanel v-if="making"
          ><KitCheck :findings="kit.findings" /><KitFaults :name="kit.name" :version="kit.version"
        /></TabPanel>
        <TabPanel v-else><KitSigners :kit="kit" :editable="librarian" /></TabPanel>
        <TabPanel class="space-y-8"
          ><KitTerms :kit="kit" :editable="editable" :busy="describe.isPending.value" @save="save" />
          <NextVersion
            v-if="nextVersion.data.value?.last"
            v-model:because="because"
            :advice="nextVersion.data.value"
            :version="kit.version"
            :making="making"
          />
          <p v-else-if="making" class="text-faded">
            It is the first sealed version of this kit: any number is right.
          </p></TabPanel
        >
      </TabPanels>
    </TabGroup>
  </template>
</template>
