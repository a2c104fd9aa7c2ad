<script setup lang="ts">
import { ref } from "vue"
import ProblemNote from "./ProblemNote.vue"
import { api, result } from "../api/client"

// The live site in one file, to be kept. What is the site's own is sealed under a pass phrase, or left out.
const props = defineProps<{ site: string }>()
const passphrase = ref("")
const busy = ref(false)
const problem = ref<unknown>(null)
const says = ref("")
async function take() {
  busy.value = true
  problem.value = null
  says.value = ""
  try {
    const file = (await result(
      api.POST("/api/v1/sites/{site}/archive", {
        params: { path: { site: props.site } },
        body: { passphrase: passphrase.value || undefined },
        parseAs: "blob",
      }),
    )) as unknown as Blob
    const link = document.createElement("a")
    link.href = URL.createObjectURL(file)
    link.download = `${props.site}-${new Date().toISOString().slice(0, 10)}.zip`
    link.click()
    setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
    says.value = `${link.download} was written.`
  } catch (e) {
    problem.value = e
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="sheet mb-8 max-w-3xl p-5" data-archive>
    <h2 class="mb-2">Back up to a file</h2>
    <form class="flex flex-wrap items-end gap-3" @submit.prevent="take">
      <label class="min-w-56 flex-1"
        ><span class="label">Pass phrase</span>
        <input
          v-model="passphrase"
          type="password"
          class="field"
          autocomplete="new-password"
          placeholder="empty: what is the site’s own is left out"
      /></label>
      <button class="btn-quiet" :disabled="busy">Write the file</button>
    </form>
    <p class="mt-2 text-sm text-faded">
      Addresses, recipients and secrets are sealed under the pass phrase.
      <router-link class="link" to="/sites">A new site</router-link> can be made of the file.
    </p>
    <ProblemNote :error="problem" />
    <p v-if="says" role="status" class="mt-2 text-calm">{{ says }}</p>
  </section>
</template>
