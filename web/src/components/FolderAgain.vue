<script setup lang="ts">
import { ref, toRef } from "vue"
import FileDrop from "./FileDrop.vue"
import ProblemNote from "./ProblemNote.vue"
import { fileWords, outsideWords, sharedWords } from "../words"
import type { Schemas } from "../api/client"
import { useAdoptAgain } from "../composables/useProposals"

const props = defineProps<{ site: string }>()
const again = useAdoptAgain(toRef(props, "site"))
const share = ref<number | null>(null)
const shared = ref<Schemas["SharedEdits"]>("ask")
async function take(file: File) {
  share.value = 0
  try {
    await again.mutateAsync({
      file,
      shared: shared.value,
      progress: (s) => {
        share.value = s
      },
    })
  } finally {
    share.value = null
  }
}
</script>

<template>
  <section>
    <h2 class="mb-1">Edits made outside</h2>
    <p class="mb-3 max-w-3xl text-faded">
      Has somebody changed the folder that this site was adopted from or published to? Compare it: the edits
      come into a draft. Where the same place was edited here, the edit here stays and is listed.
    </p>
    <label class="mb-3 block">
      <span class="text-faded">When something that several pages show was edited on some of them only:</span>
      <select v-model="shared" class="field mt-1 max-w-md">
        <option v-for="(words, way) in sharedWords" :key="way" :value="way">{{ words }}</option>
      </select>
    </label>
    <FileDrop
      says="Drop the folder as a zip here, or choose one."
      accept=".zip,application/zip"
      :share="share"
      @file="(f) => take(f).catch(() => {})"
    />
    <ProblemNote :error="again.error.value" />
    <div v-if="again.data.value" role="status" class="mt-4">
      <p
        v-if="!again.data.value.changes.length && !again.data.value.edits.length"
        class="rounded-md bg-calm-soft px-4 py-3 text-calm"
      >
        Nothing has changed there: the site is up to date with the folder.
      </p>
      <table v-if="again.data.value.changes.length" class="sheet">
        <thead>
          <tr>
            <th>File</th>
            <th>Outside</th>
            <th>Item</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(c, n) in again.data.value.changes" :key="n">
            <td class="addr break-all">{{ c.path }}</td>
            <td :class="c.what === 'conflict' ? 'font-semibold text-call' : ''">{{ fileWords[c.what] }}</td>
            <td>
              <span class="addr break-all">{{ c.address }}</span>
              <span class="text-faded">{{ c.message }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <table v-if="again.data.value.edits.length" class="sheet mt-4">
        <caption class="mb-1 text-left text-faded">
          Every edit within the files
        </caption>
        <thead>
          <tr>
            <th>Place</th>
            <th>Edit</th>
            <th>Was, and is</th>
            <th>Item</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(e, n) in again.data.value.edits" :key="n">
            <td class="addr min-w-48 break-all">
              {{ e.path }}<template v-if="e.line">:{{ e.line }}</template
              ><template v-if="e.endLine && e.endLine > (e.line ?? 0)">-{{ e.endLine }}</template>
            </td>
            <td class="whitespace-nowrap" :class="e.state === 'not-taken' ? 'font-semibold text-call' : ''">
              {{ outsideWords[e.state] }}
            </td>
            <td class="break-words">{{ e.before }} → {{ e.after }}</td>
            <td>
              <span class="addr break-all">{{ e.address }}</span>
              <span class="text-faded">{{ e.message }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="again.data.value.draft" class="mt-3">
        The edits are in draft {{ again.data.value.draft }}.
        <a class="link" :href="again.data.value.preview + '/'" target="_blank" rel="noopener">Look at it</a>,
        or put it live from <router-link class="link" :to="`/sites/${site}`">the site</router-link>.
      </p>
    </div>
  </section>
</template>
