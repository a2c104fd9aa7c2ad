<script setup lang="ts">
import { ref, watch } from "vue"
import type { Schemas } from "../api/client"

/** What is said of a kit: title, summary, changes, terms. */
const props = defineProps<{ kit: Schemas["Kit"]; editable: boolean; busy: boolean }>()
const emit = defineEmits<{ save: [body: Schemas["KitMetadata"]] }>()
const w = ref({ title: "", summary: "", changes: "", license: "", credit: "", resale: false, sites: "" })
watch(
  () => props.kit,
  (k) => {
    w.value = {
      title: k.title,
      summary: k.summary,
      changes: k.changes,
      license: k.terms.license ?? "",
      credit: k.terms.credit ?? "",
      resale: k.terms.resale,
      sites: k.terms.sites ? String(k.terms.sites) : "",
    }
  },
  { immediate: true },
)
function save() {
  const { title, summary, changes, license, credit, resale, sites } = w.value
  emit("save", {
    title,
    summary,
    changes,
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
