<script setup lang="ts">
import { computed } from "vue"
import { pageName } from "../composables/format"
import { linkWords, loadWords } from "../words"
import type { Schemas } from "../api/client"

const props = defineProps<{ plan: Schemas["Plan"] }>()
// Where rules of the site override the kit's, by page and rule.
const overrides = computed(() => {
  const by = new Map<string, Schemas["StyleOverride"][]>()
  for (const h of props.plan.styleOverrides)
    by.set(`${h.page}|${h.by}`, [...(by.get(`${h.page}|${h.by}`) ?? []), h])
  return [...by.values()]
})
const said = (list: Schemas["StyleOverride"][]) =>
  [...new Set(list.map((h) => `${h.property}: ${h.value}`))].join("; ")
</script>

<template>
  <section class="mb-8 grid gap-6 lg:grid-cols-2">
    <div>
      <h2 class="mb-3">Pages it touches</h2>
      <p v-if="!plan.touched.length" class="text-faded">None.</p>
      <ul v-else class="sheet divide-y divide-hair">
        <li v-for="t in plan.touched" :key="t.slug" class="px-4 py-2.5">
          <b>{{ pageName(t.slug) }}</b> <span class="text-faded">through {{ t.ways.join("; ") }}</span>
        </li>
      </ul>
      <p class="mt-2 text-sm text-faded">
        All other pages stay the same, byte for byte. Staging checks this.
      </p>
    </div>
    <div>
      <h2 class="mb-3">To know</h2>
      <ul class="sheet divide-y divide-hair">
        <li v-for="(l, k) in plan.links" :key="'l' + k" class="px-4 py-2.5">
          <b>A link {{ linkWords[l.state] }}</b> in <span class="addr">{{ l.from }}</span>, line {{ l.line }}:
          <span class="addr">{{ l.slug }}</span> <span class="text-faded">{{ l.message }}</span>
        </li>
        <li v-for="list in overrides" :key="list[0].page + list[0].by" class="px-4 py-2.5">
          <details>
            <summary>
              <b>The site’s rules override the kit’s on</b> <span class="addr">{{ list[0].page }}</span>:
              {{ said(list) }}
            </summary>
            <ul class="mt-1 text-sm text-faded">
              <li v-for="h in list" :key="h.element + h.property" class="addr">
                {{ h.element.replace(":scope > ", "") }}: {{ h.property }} {{ h.value
                }}<template v-if="h.kit">, in the kit {{ h.kit }}</template>
              </li>
              <li>
                by <span class="addr">{{ list[0].by }}</span><template v-if="list[0].when"
                  >, {{ list[0].when }}</template
                >
              </li>
            </ul>
          </details>
        </li>
        <li v-for="s in plan.scripts" :key="s" class="px-4 py-2.5"><b class="text-amber">Code</b> {{ s }}</li>
        <li v-for="(h, k) in plan.hosts" :key="'h' + k" class="px-4 py-2.5">
          <b>{{ loadWords[h.kind] }} from {{ h.host }}</b> in <span class="addr">{{ h.from }}</span>, line
          {{ h.line }}
        </li>
        <li v-for="s in plan.notes" :key="s" class="px-4 py-2.5">{{ s }}</li>
        <li v-for="l in plan.leftOut" :key="l.key" class="px-4 py-2.5">
          <b>An answer of the file does not fit here:</b> <span class="addr">{{ l.key }}={{ l.answer }}</span
          >, since
          {{ l.why }}
        </li>
        <li
          v-if="
            !overrides.length &&
            ![plan.links, plan.scripts, plan.hosts, plan.notes, plan.leftOut].some((l) => l.length)
          "
          class="px-4 py-2.5 text-faded"
        >
          Nothing else.
        </li>
      </ul>
    </div>
  </section>
</template>
