<script setup lang="ts">
import { faultWords } from "../words"
import { pageName } from "../composables/format"
import type { Schemas } from "../api/client"

// root is where items open; without it their addresses stand as text.
defineProps<{ faults: Schemas["Fault"][]; root?: string }>()
</script>

<template>
  <p v-if="!faults.length" class="sheet px-4 py-3">No faults found.</p>
  <table v-else class="sheet">
    <thead>
      <tr>
        <th>What</th>
        <th>Where to mend it</th>
        <th>Shown on</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(f, k) in faults" :key="k">
        <td>
          <b :class="f.grave ? 'text-call' : ''">{{ faultWords[f.kind] }}</b>
          <span v-if="f.new" class="ml-2 rounded bg-amber-soft px-1.5 text-sm">new</span>
          <p class="first-letter:uppercase">{{ f.message }}</p>
          <p class="text-sm text-faded first-letter:uppercase">{{ f.remedy }}</p>
        </td>
        <td>
          <router-link v-if="f.address && root" class="link addr" :to="`${root}/${f.address}`">{{
            f.address
          }}</router-link><span v-else-if="f.address" class="addr">{{ f.address }}</span
          ><template v-else>the page</template><template v-if="f.line">, line {{ f.line }}</template>
        </td>
        <td>
          <template v-if="f.count === 0"><span class="text-faded">no page</span></template>
          <template v-else-if="f.count === 1">{{ pageName(f.pages[0]) }}</template>
          <details v-else>
            <summary>{{ f.count }} pages</summary>
            <ul>
              <li v-for="p in f.pages" :key="p">{{ pageName(p) }}</li>
              <li v-if="f.count > f.pages.length" class="text-faded">
                and {{ f.count - f.pages.length }} more
              </li>
            </ul>
          </details>
        </td>
      </tr>
    </tbody>
  </table>
</template>
