<script setup lang="ts">
import { computed, ref } from "vue"
import { useQueryClient } from "@tanstack/vue-query"
import ProblemNote from "./ProblemNote.vue"
import { api, result, type Schemas } from "../api/client"

// What went live since and touches what a draft changes: brought in by itself where it can be, and asked where both
// changed the same.
const props = defineProps<{ site: string; draft: number; behind: string[] }>()
const client = useQueryClient()
const items = ref<Schemas["BehindItem"][]>([])
const decisions = ref<Record<string, Schemas["DraftSide"]>>({})
/** The places to decide: each conflict, or the item as a whole. */
const asked = computed(() =>
  items.value.flatMap((i) =>
    i.conflicts.length
      ? i.conflicts.map((c) => ({ ...c, where: `${i.address}: ${c.where}` }))
      : [
          {
            key: i.address,
            where: `${i.address}: ${i.why}`,
            draft: "as it is there",
            live: "as it is there",
          },
        ],
  ),
)
const problem = ref<unknown>(null)
async function bringIn() {
  problem.value = null
  try {
    const got = await result(
      api.POST("/api/v1/sites/{site}/drafts/{id}/rebase", {
        params: { path: { site: props.site, id: props.draft } },
        body: { decisions: decisions.value },
      }),
    )
    items.value = got.behind
    await client.invalidateQueries()
  } catch (e) {
    problem.value = e
  }
}
</script>

<template>
  <section v-if="behind.length || asked.length" class="mb-6 rounded-lg border border-call/40 bg-sheet p-5">
    <p class="mb-2 font-semibold">
      The live site is ahead: {{ behind.length }} {{ behind.length === 1 ? "item" : "items" }} of this draft
      changed there since.
    </p>
    <ProblemNote :error="problem" />
    <fieldset v-for="c in asked" :key="c.key" class="mb-3">
      <legend>{{ c.where }}</legend>
      <label class="block"
        ><input v-model="decisions[c.key]" type="radio" :name="c.key" value="draft" /> the draft’s: “{{
          c.draft
        }}”</label
      >
      <label class="block"
        ><input v-model="decisions[c.key]" type="radio" :name="c.key" value="live" /> the live site’s: “{{
          c.live
        }}”</label
      >
    </fieldset>
    <button type="button" class="btn" @click="bringIn">Bring it into the draft</button>
  </section>
</template>
