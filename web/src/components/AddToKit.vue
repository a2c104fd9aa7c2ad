<script setup lang="ts">
import { computed, ref } from "vue"
import { useRouter } from "vue-router"
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue"
import ProblemNote from "./ProblemNote.vue"
import { anchorOf } from "../composables/format"
import { useKit, useKits, useNewKit } from "../composables/useKits"

const props = defineProps<{ site: string; address: string }>()
const router = useRouter()
const open = ref(false)
const kits = useKits()
const making = computed(() => kits.data.value?.kits.filter((k) => k.state === "making") ?? [])
const chosen = ref("")
const name = computed(() => chosen.value.split("@")[0])
const version = computed(() => chosen.value.split("@")[1])
const { add } = useKit(name, version)
function show() {
  chosen.value = making.value[0] ? `${making.value[0].name}@${making.value[0].version}` : ""
  open.value = true
}
const begun = ref({ name: "", version: "0.1.0" })
const begin = useNewKit()
async function start() {
  const k = await begin.mutateAsync({
    name: anchorOf(begun.value.name),
    version: begun.value.version.trim(),
    title: begun.value.name.trim(),
  })
  chosen.value = `${k.name}@${k.version}`
  await go()
}
async function go() {
  await add.mutateAsync({ picks: [{ from: props.site, address: props.address }] })
  router.push(`/kits/${name.value}/${version.value}`)
}
</script>

<template>
  <button class="btn" @click="show">Add to a kit</button>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-ink/30" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center p-4">
      <DialogPanel class="sheet w-full max-w-md p-6 shadow-xl">
        <DialogTitle class="text-xl font-semibold">Add {{ address }} to a kit</DialogTitle>
        <template v-if="making.length">
          <label class="label mt-4" for="kit">Kit in the making</label>
          <select id="kit" v-model="chosen" class="field">
            <option v-for="k in making" :key="k.name + k.version">{{ k.name }}@{{ k.version }}</option>
          </select>
          <p class="mt-3 text-faded">Everything it needs comes along; the kit shows what and why.</p>
        </template>
        <form
          class="mt-4 flex flex-wrap items-end gap-2"
          data-begin-kit
          @submit.prevent="start().catch(() => {})"
        >
          <label class="flex-1"
            ><span class="label">{{ making.length ? "Or begin another" : "Begin a kit" }}</span>
            <input v-model="begun.name" class="field" placeholder="Its title" required
          /></label>
          <label class="w-24"
            ><span class="label">Version</span> <input v-model="begun.version" class="field" required
          /></label>
          <button class="btn-quiet" :disabled="begin.isPending.value || !begun.name.trim()">
            Begin and add
          </button>
        </form>
        <ProblemNote :error="add.error.value ?? begin.error.value" />
        <div class="mt-6 flex justify-end gap-2">
          <button class="btn-quiet" @click="open = false">Cancel</button>
          <button
            v-if="making.length"
            class="btn"
            :disabled="add.isPending.value"
            @click="go().catch(() => {})"
          >
            Add
          </button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
