<script setup lang="ts">
import { ref, toRef } from "vue"
import ProblemNote from "./ProblemNote.vue"
import { sourceWords } from "../words"
import { usePageSource } from "../composables/useItems"

const props = defineProps<{ site: string; path: string }>()
const line = ref(1)
const source = usePageSource(toRef(props, "site"), toRef(props, "path"), line)
</script>

<template>
  <section>
    <label class="mb-3 block">
      <span class="mr-2 text-faded">Line of the page, as “view source” of a browser counts them</span>
      <input v-model.number="line" type="number" min="1" class="field mt-1 w-32" />
    </label>
    <ProblemNote :error="source.error.value" />
    <table v-if="source.data.value?.places.length" class="sheet">
      <thead>
        <tr>
          <th>Text</th>
          <th>Comes from</th>
          <th>Shown on</th>
          <th>How</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(p, n) in source.data.value.places" :key="n">
          <td class="break-all">{{ p.text }}</td>
          <td>
            <router-link v-if="p.address" class="link addr" :to="`/sites/${site}/${p.address}`">{{
              p.address
            }}</router-link><template v-if="p.sourceLine">, line {{ p.sourceLine }}</template
            ><template v-if="p.field">, its {{ p.field }}</template>
          </td>
          <td>
            <template v-if="p.pages">{{ p.pages }} {{ p.pages === 1 ? "page" : "pages" }}</template>
          </td>
          <td class="text-faded">
            {{ sourceWords[p.kind] }}<template v-if="p.reason"> ({{ p.reason }})</template
            ><template v-if="p.through && p.through.length > 1">
              through {{ p.through.slice(0, -1).join(" → ") }}</template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="source.data.value" class="text-faded">The line is empty.</p>
  </section>
</template>
