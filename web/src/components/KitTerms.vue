<script setup lang="ts">
import { computed, ref, watch } from "vue"
import { kindWords } from "../words"
import type { Schemas } from "../api/client"

/** What is said of a kit: title, summary, changes, terms. */
const props = defineProps<{ kit: Schemas["Kit"]; editable: boolean; busy: boolean }>()
const emit = defineEmits<{ save: [body: Schemas["KitMetadata"]] }>()
const w = ref({
  title: "",
  summary: "",
  changes: "",
  face: "",
  license: "",
  credit: "",
  resale: false,
  sites: "",
})
/** What can show the kit in lists: all that has a picture of its own. */
const faces = computed(() =>
  props.kit.items.filter((i) => /^(page|section|part|block)\//.test(i.address)).map((i) => i.address),
)
watch(
  () => props.kit,
  (k) => {
    w.value = {
      title: k.title,
      summary: k.summary,
      changes: k.changes,
      face: k.face ?? "",
      license: k.terms.license ?? "",
      credit: k.terms.credit ?? "",
      resale: k.terms.resale,
      sites: k.terms.sites ? String(k.terms.sites) : "",
    }
  },
  { immediate: true },
)
function save() {
  const { title, summary, changes, face, license, credit, resale, sites } = w.value
  emit("save", {
    title,
    summary,
    changes,
    face,
    terms: { license, credit, resale, sites: sites ? Number(sites) : null },
  })
}
</script>

<template>
  <form v-if="editable" class="sheet grid gap-4 p-5 sm:grid-cols-2" @submit.prevent="save">
    <div>
      <label class="label" for="w-title">Title</label><input id="w-title" v-model="w.title" class="field" />
    </div>
    <div>
      <label class="label" for="w-summary">Summary, in a line</label
      ><input id="w-summary" v-model="w.summary" class="field" />
    </div>
    <div class="sm:col-span-2">
      <label class="label" for="w-changes">What is new in this version</label
      ><textarea id="w-changes" v-model="w.changes" class="field" rows="2" />
    </div>
    <div class="sm:col-span-2">
      <label class="label" for="w-face">What shows the kit in lists</label
      ><select id="w-face" v-model="w.face" class="field">
        <option value="">Its home page</option>
        <option v-for="a in faces" :key="a" :value="a">
          {{ kindWords[a.split("/")[0]] }} “{{ a.slice(a.indexOf("/") + 1) }}”
        </option>
      </select>
    </div>
    <div>
      <label class="label" for="w-license">Licence (SPDX)</label
      ><input id="w-license" v-model="w.license" class="field" placeholder="CC-BY-4.0" />
    </div>
    <div>
      <label class="label" for="w-credit">Credit to</label
      ><input id="w-credit" v-model="w.credit" class="field" />
    </div>
    <div>
      <label class="label" for="w-sites">Number of sites (empty: any number)</label
      ><input id="w-sites" v-model="w.sites" class="field max-w-32" type="number" min="1" />
    </div>
    <label class="flex items-center gap-2 self-end pb-2.5"
      ><input v-model="w.resale" type="checkbox" class="size-4" />it may be sold on</label
    >
    <div class="sm:col-span-2"><button class="btn-quiet" :disabled="busy">Save</button></div>
  </form>
  <div v-else>
    <p v-if="kit.summary">{{ kit.summary }}</p>
    <p v-if="kit.changes" class="mt-1 whitespace-pre-line">{{ kit.changes }}</p>
    <p class="mt-1">
      {{ kit.terms.license || "No licence is named."
      }}<template v-if="kit.terms.credit">, credit to {{ kit.terms.credit }}</template
      ><template v-if="kit.terms.sites">, for {{ kit.terms.sites }} sites</template
      >{{ kit.terms.resale ? ", may be sold on" : "" }}
    </p>
  </div>
</template>
