<script setup lang="ts">
import { ref, watchEffect } from "vue"
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue"
import ProblemNote from "./ProblemNote.vue"
import type { Schemas } from "../api/client"
import { seatWords } from "../words"
import { useSites } from "../composables/useSites"
import { useOpenDelivery } from "../composables/useDeliveries"

const props = defineProps<{ name: string; version: string }>()
const emit = defineEmits<{ opened: [id: number] }>()
const open = ref(false)
const site = ref("")
const seats = ref<Schemas["SeatOption"]>("ask")
const next = ref(false)
const sites = useSites()
const begin = useOpenDelivery()
watchEffect(() => {
  if (!site.value && sites.data.value?.sites.length) site.value = sites.data.value.sites[0].name
})
async function go() {
  const d = await begin.mutateAsync({
    kit: props.name,
    version: props.version,
    site: site.value,
    seats: seats.value,
    next: next.value || undefined,
  })
  open.value = false
  emit("opened", d.id)
}
</script>

<template>
  <button class="btn" @click="open = true">Use on a site</button>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-ink/30" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center p-4">
      <DialogPanel class="sheet w-full max-w-md p-6 shadow-xl">
        <DialogTitle class="text-xl font-semibold">Deliver {{ name }} {{ version }}</DialogTitle>
        <label class="label mt-4" for="site">To the site</label>
        <select id="site" v-model="site" class="field">
          <option v-for="s in sites.data.value?.sites ?? []" :key="s.name" :value="s.name">
            {{ s.title || s.name }}
          </option>
        </select>
        <label class="label mt-4" for="seats">Where both have a header, a footer or the like</label>
        <select id="seats" v-model="seats" class="field">
          <option v-for="(says, w) in seatWords" :key="w" :value="w">{{ says }}</option>
        </select>
        <label class="mt-4 flex items-baseline gap-2"
          ><input v-model="next" type="checkbox" /><span
            ><b>As the next one of a series</b>
            <span class="text-faded"
              >what has blanks to fill in comes once more, beside the one before, which stays as it is</span
            ></span
          ></label
        >
        <p class="mt-4 text-faded">A plan is made first. Nothing on the site changes until you say so.</p>
        <ProblemNote :error="begin.error.value" />
        <div class="mt-6 flex justify-end gap-2">
          <button class="btn-quiet" @click="open = false">Cancel</button
          ><button class="btn" :disabled="!site || begin.isPending.value" @click="go().catch(() => {})">
            Make the plan
          </button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
