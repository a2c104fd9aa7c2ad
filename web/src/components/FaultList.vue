<script setup lang="ts">
import { computed, ref } from "vue"
import { faultWords } from "../words"
import { pageName } from "../composables/format"
import type { Schemas } from "../api/client"

// root is where items open; without it their addresses stand as text. site is where pages are mended as they look.
const props = defineProps<{
  faults: Schemas["Fault"][]
  root?: string
  site?: string
  draft?: number
}>()
/** Of one kind that is found again and again, this many are shown at first. */
const enough = 12
const opened = ref<Set<string>>(new Set())
const groups = computed(() => {
  const out = new Map<string, Schemas["Fault"][]>()
  for (const f of props.faults) out.set(f.kind, [...(out.get(f.kind) ?? []), f])
  return [...out].map(([kind, list]) => ({
    kind: kind as Schemas["FaultKind"],
    list: opened.value.has(kind) ? list.slice(0, 500) : list.slice(0, enough),
    count: list.length,
    grave: list.some((f) => f.grave),
  }))
})
function mend(f: Schemas["Fault"]) {
  const page = f.pages[0]
  const query: Record<string, string> = {}
  if (props.draft) query.draft = String(props.draft)
  if (f.address) query.item = f.address
  if (f.line) query.line = String(f.line)
  query.fault = f.kind
  return { path: `/sites/${props.site}/edit${page}`, query }
}
const editable = (f: Schemas["Fault"]) =>
  props.site && f.pages[0] && !/^(stylesheet|tokens|media|setting|component)\//.test(f.address ?? "")
</script>

<template>
  <p v-if="!faults.length" class="sheet px-4 py-3">No faults found.</p>
  <template v-else>
    <section v-for="g in groups" :key="g.kind" class="mb-5" :data-faults="g.kind">
      <h3 class="mb-1" :class="g.grave ? 'text-call' : ''">{{ faultWords[g.kind] }} ({{ g.count }})</h3>
      <ul class="sheet divide-y divide-hair">
        <li v-for="(f, k) in g.list" :key="k" class="flex flex-wrap gap-x-6 gap-y-1 px-4 py-2.5">
          <div class="min-w-64 flex-1">
            <p class="first-letter:uppercase">
              {{ f.message }} <span v-if="f.new" class="ml-1 rounded bg-amber-soft px-1.5 text-sm">new</span>
            </p>
            <p class="text-sm text-faded first-letter:uppercase">{{ f.remedy }}</p>
          </div>
          <div class="text-sm">
            <router-link
              v-if="editable(f)"
              class="link inline-block min-h-6 font-semibold"
              :to="mend(f)"
              data-mend
              >Mend it on {{ pageName(f.pages[0]) }}</router-link
            >
            <p>
              <router-link
                v-if="f.address && root"
                class="link addr inline-block min-h-6"
                :to="`${root}/${f.address}`"
                >{{ f.address }}</router-link><span v-else-if="f.address" class="addr">{{ f.address }}</span
              ><template v-else>the page</template><template v-if="f.line">, line {{ f.line }}</template>
            </p>
            <p v-if="f.count === 0" class="text-faded">shown on no page</p>
            <p v-else-if="f.count === 1" class="text-faded">shown on {{ pageName(f.pages[0]) }}</p>
            <details v-else>
              <summary class="text-faded">shown on {{ f.count }} pages</summary>
              <ul>
                <li v-for="p in f.pages" :key="p">{{ pageName(p) }}</li>
                <li v-if="f.count > f.pages.length" class="text-faded">
                  and {{ f.count - f.pages.length }} more
                </li>
              </ul>
            </details>
          </div>
        </li>
      </ul>
      <button
        v-if="g.count > g.list.length && !opened.has(g.kind)"
        type="button"
        class="link mt-1"
        @click="opened = new Set([...opened, g.kind])"
      >
        {{ g.count - g.list.length }} more
      </button>
      <p v-else-if="g.count > g.list.length" class="mt-1 text-faded">
        and {{ g.count - g.list.length }} more: mend these first.
      </p>
    </section>
  </template>
</template>
