<script setup lang="ts">
import { computed } from "vue"
import type { Schemas } from "../api/client"

const props = defineProps<{ adopted: Schemas["Adopted"] }>()
const counts = computed(() => {
  const n = new Map<string, number>()
  for (const a of props.adopted.report.taken) n.set(a.split("/")[0]!, (n.get(a.split("/")[0]!) ?? 0) + 1)
  return [...n].sort((a, b) => b[1] - a[1])
})
const groups = computed(() =>
  [
    {
      title: "Left where they were",
      rows: props.adopted.report.left.map((l) => ({ at: l.path, says: l.why })),
    },
    {
      title: "Worth a look",
      rows: [
        ...props.adopted.report.notes.map((l) => ({ at: l.path, says: l.why })),
        ...props.adopted.notes.map((n) => ({ at: n.address, says: n.message })),
      ],
    },
    {
      title: "Scripts in heads: site-only until you say otherwise in setting/head-scripts",
      rows: props.adopted.report.headScripts.map((h) => ({
        at: h.script,
        says: `in ${h.pages} pages${h.begins ? `: ${h.begins}` : ""}`,
      })),
    },
  ].filter((g) => g.rows.length),
)
</script>

<template>
  <section class="sheet mb-8 px-5 py-4">
    <h2 class="mb-2">What was taken</h2>
    <ul class="flex flex-wrap gap-2">
      <li v-for="[kind, n] in counts" :key="kind" class="rounded-full bg-calm-soft px-3 py-0.5 text-calm">
        <b class="tabular-nums">{{ n }}</b> × {{ kind }}
      </li>
    </ul>
    <p v-if="adopted.took.length" class="mt-3">
      Made of what repeats:
      <span v-for="(a, n) in adopted.took" :key="a" class="addr">{{ n ? ", " : "" }}{{ a }}</span
      >.
    </p>
    <details v-for="g in groups" :key="g.title" class="mt-3" :open="g.rows.length < 6">
      <summary class="font-semibold">{{ g.title }} ({{ g.rows.length }})</summary>
      <ul class="mt-1 list-disc pl-6">
        <li v-for="(r, n) in g.rows" :key="n">
          <span class="addr break-all">{{ r.at }}</span> <span class="text-faded">{{ r.says }}</span>
        </li>
      </ul>
    </details>
  </section>
</template>
