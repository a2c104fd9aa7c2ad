<script setup lang="ts">
import { computed, ref } from "vue"
import { useRouter } from "vue-router"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import StateBadge from "../components/StateBadge.vue"
import ShelfTabs from "../components/ShelfTabs.vue"
import PieceThumb from "../components/PieceThumb.vue"
import FileDrop from "../components/FileDrop.vue"
import { useKits, useNewKit, useImportKit } from "../composables/useKits"
import { useSession } from "../composables/useSession"
import { weight } from "../composables/format"
import type { Schemas } from "../api/client"

const router = useRouter()
const kits = useKits()
const librarian = useSession().may("librarian")
const begin = useNewKit()
const upload = useImportKit()
/** The kits, each with its newest version first and the older ones below it. */
const rows = computed(() => {
  const byName = new Map<string, Schemas["KitSummary"][]>()
  for (const k of kits.data.value?.kits ?? []) byName.set(k.name, [...(byName.get(k.name) ?? []), k])
  return [...byName.values()].map(([newest, ...older]) => ({ newest, older }))
})
const form = ref(false)
const name = ref("")
const version = ref("0.1.0")
const title = ref("")
const license = ref("CC-BY-4.0")
const share = ref<number | null>(null)
async function start() {
  const k = await begin.mutateAsync({
    name: name.value.trim(),
    version: version.value.trim(),
    title: title.value.trim(),
    license: license.value.trim(),
  })
  router.push(`/kits/${k.name}/${k.version}`)
}
async function take(file: File) {
  share.value = 0
  try {
    const got = await upload.mutateAsync({
      file,
      progress: (s) => {
        share.value = s
      },
    })
    if (got.kits.length === 1 && got.what === "kit" && !got.report.length)
      router.push(`/kits/${got.kits[0].name}/${got.kits[0].version}`)
  } finally {
    share.value = null
  }
}
</script>

<template>
  <PageHead title="Kits"
    ><template #about>Named, versioned, sealed sets of items. A sealed version never changes.</template>
    <button v-if="librarian" class="btn" @click="form = !form">Begin a kit</button>
  </PageHead>
  <ShelfTabs />
  <form
    v-if="form"
    class="sheet mb-6 grid gap-4 p-5 sm:grid-cols-2"
    @submit.prevent="start().catch(() => {})"
  >
    <div>
      <label class="label" for="kit-name">Name</label
      ><input id="kit-name" v-model="name" class="field" placeholder="hut-basics" required />
    </div>
    <div>
      <label class="label" for="kit-version">Version</label
      ><input id="kit-version" v-model="version" class="field" required />
    </div>
    <div>
      <label class="label" for="kit-title">Title</label
      ><input id="kit-title" v-model="title" class="field" placeholder="Hut basics" />
    </div>
    <div>
      <label class="label" for="kit-license">Licence (SPDX)</label
      ><input id="kit-license" v-model="license" class="field" />
    </div>
    <div class="sm:col-span-2">
      <ProblemNote :error="begin.error.value" /><button class="btn" :disabled="begin.isPending.value">
        Begin this kit
      </button>
    </div>
  </form>
  <FileDrop
    v-if="librarian"
    class="mb-6"
    :says="
      'Drop a file here, or choose one: a kit, a ZIP of kits, of loose HTML, CSS and pictures, or one piece. ' +
      'All of it is checked before anything is kept.'
    "
    accept=""
    :share="share"
    @file="(f) => take(f).catch(() => {})"
  />
  <ProblemNote :error="upload.error.value" />
  <section
    v-if="upload.data.value && (upload.data.value.what !== 'kit' || upload.data.value.report.length)"
    role="status"
    class="mb-6 rounded-lg border border-hair bg-sheet px-5 py-4"
  >
    <p class="first-letter:uppercase">
      {{ upload.data.value.message }}.
      <template v-for="k in upload.data.value.kits" :key="k.name + k.version"
        ><router-link class="link font-semibold" :to="`/kits/${k.name}/${k.version}`"
          >{{ k.name }} {{ k.version }}</router-link
        >
        is {{ k.state === "making" ? "in the making now" : "on the shelf" }}, {{ k.items.length }} items.
      </template>
    </p>
    <ul v-if="upload.data.value.report.length" class="mt-2 list-disc pl-5 text-faded">
      <li v-for="(r, n) in upload.data.value.report" :key="n">
        <span class="addr">{{ r.path }}</span>: {{ r.why }}
      </li>
    </ul>
  </section>
  <ProblemNote :error="kits.error.value" />
  <template v-if="kits.data.value">
    <EmptyNote v-if="!kits.data.value.kits.length"
      >There is no kit yet. Begin one, then add sections and parts to it.</EmptyNote
    >
    <div v-else class="sheet overflow-x-auto">
      <table>
        <thead>
          <tr>
            <th>Kit</th>
            <th>Version</th>
            <th>State</th>
            <th>Items</th>
            <th>File</th>
            <th>Licence</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ newest: k, older } in rows" :key="k.name">
            <td>
              <div class="flex items-center gap-3">
                <PieceThumb
                  v-if="k.face"
                  bare
                  class="w-24 shrink-0"
                  :src="k.face"
                  :title="k.title || k.name"
                />
                <span v-else class="w-24 shrink-0" />
                <span
                  ><router-link class="link font-semibold" :to="`/kits/${k.name}/${k.version}`">{{
                    k.name
                  }}</router-link
                  ><br /><span class="text-faded">{{ k.title }}</span></span
                >
              </div>
            </td>
            <td>
              {{ k.version }}
              <span v-if="older.length" class="block text-faded"
                >before:
                <template v-for="(o, n) in older" :key="o.version"
                  >{{ n ? ", " : ""
                  }}<router-link class="link" :to="`/kits/${o.name}/${o.version}`">{{
                    o.version
                  }}</router-link
                  ><template v-if="o.state === 'making'"> (in the making)</template></template
                ></span
              >
            </td>
            <td><StateBadge :state="k.state" /></td>
            <td>{{ k.items }}</td>
            <td>{{ k.fileBytes ? weight(k.fileBytes) : "–" }}</td>
            <td>{{ k.license || "–" }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
</template>
