<script setup lang="ts">
import { ref } from "vue"
import FileDrop from "./FileDrop.vue"
import { coloursOfFile } from "../composables/colours"

// Colours to choose from: those of a picture, and any that is on the screen where the browser can pick it.
const chosen = defineModel<string>({ required: true })
const found = ref<string[]>([])
const says = ref("")
async function take(file: File) {
  says.value = ""
  try {
    found.value = await coloursOfFile(file)
    if (!found.value.length) says.value = `${file.name} has no colours.`
  } catch {
    says.value = `${file.name} is no picture that browsers show.`
  }
}
interface Picker {
  open: () => Promise<{ sRGBHex: string }>
}
const Dropper = (window as unknown as { EyeDropper?: new () => Picker }).EyeDropper
async function pick() {
  if (!Dropper) return
  try {
    const hex = (await new Dropper().open()).sRGBHex
    found.value = [hex, ...found.value.filter((c) => c !== hex)]
    chosen.value = hex
  } catch {
    /* nothing was picked */
  }
}
</script>

<template>
  <section class="sheet p-4" aria-label="Colours to choose from">
    <h2 class="mb-2">Colours of a picture</h2>
    <FileDrop says="Drop a picture here, or choose one." accept="image/*" :share="null" @file="take" />
    <p v-if="says" class="mt-2 text-call" role="alert">{{ says }}</p>
    <button v-if="Dropper" type="button" class="btn-quiet mt-2 px-3 py-1" @click="pick">
      Pick one off the page
    </button>
    <div v-if="found.length" class="mt-3 flex flex-wrap gap-2" role="group" aria-label="Colours">
      <button
        v-for="c in found"
        :key="c"
        type="button"
        class="flex items-center gap-2 rounded-md border px-2 py-1"
        :class="chosen === c ? 'border-ink bg-slate-soft' : 'border-hair'"
        :aria-pressed="chosen === c"
        :data-colour="c"
        @click="chosen = chosen === c ? '' : c"
      >
        <span class="size-6 rounded border border-hair" :style="{ background: c }" aria-hidden="true" /><span
          class="addr"
          >{{ c }}</span
        >
      </button>
    </div>
    <p v-if="chosen" class="mt-2 text-faded">
      Press “use” beside a colour of the look to give it {{ chosen }}.
    </p>
  </section>
</template>
