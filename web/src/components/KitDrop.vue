<script setup lang="ts">
import { computed, ref } from "vue"
import { useRouter } from "vue-router"
import FileDrop from "./FileDrop.vue"
import ProblemNote from "./ProblemNote.vue"
import { useImportKit, useKits } from "../composables/useKits"
import { useOpenDelivery } from "../composables/useDeliveries"

// A kit comes to a site in one go: chosen from the shelf, or as a file that is dropped, recognised and checked;
// then its plan is shown.
const props = defineProps<{ site: string }>()
const router = useRouter()
const kits = useKits()
const upload = useImportKit()
const open = useOpenDelivery()
const share = ref<number | null>(null)
const sealed = computed(() => (kits.data.value?.kits ?? []).filter((k) => k.state === "sealed"))
const chosen = ref("")
async function deliver(kit: string, version: string) {
  const d = await open.mutateAsync({ kit, version, site: props.site, seats: "ask" })
  await router.push(`/deliveries/${d.id}`)
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
    const kit = got.kits.find((k) => k.state === "sealed")
    if (kit) await deliver(kit.name, kit.version)
  } finally {
    share.value = null
  }
}
function go() {
  const k = sealed.value.find((k) => `${k.name} ${k.version}` === chosen.value)
  if (k) deliver(k.name, k.version).catch(() => {})
}
</script>

<template>
  <div class="space-y-2">
    <form class="flex gap-2" @submit.prevent="go">
      <select v-model="chosen" class="field" aria-label="Kit">
        <option value="">Choose a kit…</option>
        <option v-for="k in sealed" :key="k.name + k.version" :value="`${k.name} ${k.version}`">
          {{ k.title || k.name }} {{ k.version }}
        </option>
      </select>
      <button class="btn shrink-0 whitespace-nowrap" :disabled="!chosen || open.isPending.value">
        Make the plan
      </button>
    </form>
    <FileDrop
      says="Or drop a kit’s file here: it is checked, and its plan is shown. Nothing on the site changes."
      accept=""
      :share="share"
      @file="(f: File) => take(f).catch(() => {})"
    />
    <ProblemNote :error="upload.error.value ?? open.error.value" />
    <p v-if="upload.data.value && !upload.data.value.kits.length" role="status">
      {{ upload.data.value.message }}.
    </p>
  </div>
</template>
