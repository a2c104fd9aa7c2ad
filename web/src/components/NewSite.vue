<script setup lang="ts">
import { computed, onScopeDispose, ref, shallowRef, watch } from "vue"
import { useRouter } from "vue-router"
import { useQueryClient } from "@tanstack/vue-query"
import FillField from "./FillField.vue"
import FileDrop from "./FileDrop.vue"
import NewSiteHolds from "./NewSiteHolds.vue"
import ProblemNote from "./ProblemNote.vue"
import ShelfQuestions from "./edit/ShelfQuestions.vue"
import { api, Problem, result, type Schemas } from "../api/client"
import { useKit, useKits } from "../composables/useKits"
import { anchorOf } from "../composables/format"
import { siteNameFault } from "../composables/siteName"
import { useAdopt, useRestore } from "../composables/useSites"
import { zipHolds, type ZipHolds } from "../composables/zipHolds"

// A new site: empty, of a kit with those that it needs, as a copy of another, of a folder, or of a backup. What a kit
// asks for stands as its sample until somebody writes over it on the page.
const props = defineProps<{ sites: Schemas["Site"][] }>()
const router = useRouter()
const client = useQueryClient()
const title = ref("")
const name = ref("")
const from = ref<"empty" | "kit" | "copy" | "folder" | "backup">("empty")
const chosen = ref("")
const copyOf = ref("")
const kits = useKits()
const sealed = computed(() => (kits.data.value?.kits ?? []).filter((k) => k.state === "sealed"))
const kitName = computed(() => (from.value === "kit" ? (chosen.value.split(" ")[0] ?? "") : ""))
const version = computed(() => chosen.value.split(" ")[1] ?? "")
const kit = useKit(kitName, version)
const fills = ref<Record<string, string>>({})
const fillins = computed(() => kit.kit.data.value?.value.fillins ?? [])
watch(fillins, (list) => {
  fills.value = Object.fromEntries(list.map((f) => [f.name, f.sample ?? ""]))
})
const pictures = computed(() => ({
  preview: kit.kit.data.value?.value.preview ?? "",
  media: (kit.kit.data.value?.value.items ?? []).map((i) => i.address).filter((a) => a.startsWith("media/")),
}))
const asked = ref<Schemas["Question"][]>([])
const decisions = ref<Record<string, string>>({})
const problem = ref<unknown>(null)
const busy = ref(false)
const called = computed(() => name.value || (title.value ? anchorOf(title.value) : ""))
const fault = computed(() =>
  siteNameFault(
    called.value,
    props.sites.map((s) => s.name),
  ),
)
// A folder, zipped: what it holds is looked at before it is sent.
const adopt = useAdopt()
const restore = useRestore()
const passphrase = ref("")
const parts = ref<"ask" | "auto" | "none">("ask")
const file = shallowRef<File | null>(null)
const holds = shallowRef<ZipHolds | null>(null)
const share = ref<number | null>(null)
const forget = () => holds.value?.pictures.forEach((p) => URL.revokeObjectURL(p.url))
onScopeDispose(forget)
async function take(f: File) {
  problem.value = null
  file.value = f
  name.value ||= anchorOf(f.name.replace(/\.zip$/i, ""))
  title.value ||= f.name.replace(/\.zip$/i, "")
  if (from.value !== "folder") return
  const got = await zipHolds(f)
  if (file.value !== f) return
  forget()
  holds.value = got
}
const sent = computed(() => from.value === "folder" || from.value === "backup")
async function ofFile() {
  if (!file.value) return
  busy.value = true
  problem.value = null
  share.value = 0
  try {
    const more = { name: called.value, file: file.value, progress: (n: number) => (share.value = n) }
    if (from.value === "backup") {
      const got = await restore.mutateAsync({ ...more, passphrase: passphrase.value })
      await router.push(`/sites/${got.site.name}`)
    } else {
      const got = await adopt.mutateAsync({ ...more, parts: parts.value })
      await router.push(`/sites/${got.site.name}/proposals`)
    }
  } catch (e) {
    problem.value = e
  } finally {
    busy.value = false
    share.value = null
  }
}
async function make() {
  busy.value = true
  problem.value = null
  asked.value = []
  const body: Schemas["NewSite"] = { name: called.value, title: title.value || undefined }
  if (from.value === "copy") body.copyOf = copyOf.value
  if (from.value === "kit") {
    Object.assign(body, { kit: kitName.value, version: version.value, decisions: decisions.value })
    body.fills = Object.fromEntries(Object.entries(fills.value).filter(([, v]) => v))
  }
  try {
    const s = await result(api.POST("/api/v1/sites", { body }))
    await client.invalidateQueries({ queryKey: ["sites"] })
    await router.push(`/sites/${s.name}`)
  } catch (e) {
    if (e instanceof Problem && e.type === "waits-for-decisions" && Array.isArray(e.details))
      asked.value = e.details as Schemas["Question"][]
    else problem.value = e
  } finally {
    busy.value = false
  }
}
function answer(q: Schemas["Question"], word: string) {
  if (q.kind === "fill") fills.value[q.key.replace(/^fill:/, "")] = word
  else decisions.value[q.key] = word
  asked.value = asked.value.filter((o) => o.key !== q.key)
  if (!asked.value.length) void make()
}
const ways = [
  ["empty", "Empty: a page, a menu, a header, a footer and a look"],
  ["kit", "Of a kit, with those that it needs"],
  ["copy", "As a copy of another site"],
  ["backup", "Of a backup file of a site"],
  ["folder", "Of a folder: our own layout, or HTML, CSS and pictures as somebody left them"],
] as const
</script>

<template>
  <form
    class="sheet grid max-w-3xl gap-4 p-5 sm:grid-cols-2"
    data-new-site
    @submit.prevent="sent ? ofFile() : make()"
  >
    <div>
      <label class="label" for="site-title">Title</label>
      <input id="site-title" v-model="title" class="field" placeholder="Larch Hollow" required />
    </div>
    <div>
      <label class="label" for="site-name">Name, in addresses</label>
      <input
        id="site-name"
        v-model="name"
        class="field"
        :placeholder="called || 'larch-hollow'"
        :aria-invalid="!!fault"
        aria-describedby="site-name-fault"
      />
      <p id="site-name-fault" class="mt-1 text-sm text-call" role="status">{{ fault }}</p>
    </div>
    <fieldset class="sm:col-span-2">
      <legend class="label">What it begins with</legend>
      <label v-for="[w, says] in ways" :key="w" class="flex items-center gap-2 py-0.5">
        <input v-model="from" type="radio" name="site-from" :value="w" />{{ says }}
      </label>
    </fieldset>
    <div v-if="from === 'copy'">
      <label class="label" for="site-copy">The site</label>
      <select id="site-copy" v-model="copyOf" class="field" required>
        <option v-for="s in props.sites" :key="s.name" :value="s.name">{{ s.title }}</option>
      </select>
    </div>
    <div v-if="from === 'kit'">
      <label class="label" for="site-kit">The kit</label>
      <select id="site-kit" v-model="chosen" class="field" required>
        <option v-for="k in sealed" :key="k.name + k.version" :value="`${k.name} ${k.version}`">
          {{ k.title || k.name }} {{ k.version }}
        </option>
      </select>
    </div>
    <template v-if="sent">
      <div v-if="from === 'backup'">
        <label class="label" for="site-phrase">Its pass phrase</label>
        <input
          id="site-phrase"
          v-model="passphrase"
          type="password"
          class="field"
          autocomplete="off"
          placeholder="empty: what is sealed is left out"
        />
      </div>
      <div v-else>
        <label class="label" for="parts">What repeats in its pages</label
        ><select id="parts" v-model="parts" class="field">
          <option value="ask">propose it, change nothing yet</option>
          <option value="auto">make parts and sections of what is sure</option>
          <option value="none">leave it in the pages</option>
        </select>
      </div>
      <FileDrop
        class="sm:col-span-2"
        :says="
          file
            ? `${file.name}; drop another to take that`
            : from === 'backup'
              ? 'Drop the file here, or choose one.'
              : 'Drop the folder as a zip here, or choose one.'
        "
        accept=".zip,application/zip"
        :share="share"
        @file="take"
      />
    </template>
    <NewSiteHolds
      :kit="from === 'kit' ? kit.kit.data.value?.value : undefined"
      :copy-of="from === 'copy' ? copyOf : ''"
      :folder="from === 'folder' ? holds : null"
    />
    <template v-if="from === 'kit'">
      <p v-if="fillins.length" class="text-faded sm:col-span-2">
        Samples stand until you write over them on the page; you can do so now, too.
      </p>
      <div v-for="f in fillins" :key="f.name">
        <label class="label" :for="`site-fill-${f.name}`">{{ f.label }}</label>
        <FillField :id="`site-fill-${f.name}`" v-model="fills[f.name]" :fill="f" site="" :kit="pictures" />
      </div>
    </template>
    <ShelfQuestions
      v-if="asked.length"
      class="sm:col-span-2"
      :asked="asked"
      :busy="busy"
      @answer="answer"
      @cancel="asked = []"
    />
    <div class="sm:col-span-2">
      <ProblemNote :error="problem" />
      <button class="btn" :disabled="busy || !called || !!fault || (sent && !file)">
        {{ busy ? "Making it…" : "Make the site" }}
      </button>
    </div>
  </form>
</template>
