<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useQueryClient } from "@tanstack/vue-query"
import ConfirmAct from "./ConfirmAct.vue"
import ProblemNote from "./ProblemNote.vue"
import { api, result } from "../api/client"
import { useFormEntries } from "../composables/useForms"
import { moment } from "../composables/format"

// What was sent with a form: searched, written out, deleted.
const props = defineProps<{ site: string; form: string }>()
const client = useQueryClient()
const words = ref("")
const before = ref(0)
const got = useFormEntries(toRef(props, "site"), toRef(props, "form"), words, before)
const fields = computed(() => got.data.value?.fields ?? [])
const problem = ref<unknown>(null)
async function remove(entry: number) {
  problem.value = null
  try {
    await result(
      api.DELETE("/api/v1/sites/{site}/forms/{form}/entries", {
        params: { path: { site: props.site, form: props.form }, query: { entry } },
      }),
    )
    await client.invalidateQueries({ queryKey: ["entries", props.site, props.form] })
  } catch (e) {
    problem.value = e
  }
}
</script>

<template>
  <section data-entries>
    <div class="mb-3 flex flex-wrap items-center gap-3">
      <h2>What has come</h2>
      <input
        v-model="words"
        type="search"
        class="field ml-auto w-64"
        placeholder="Search"
        aria-label="Search what has come"
        @input="before = 0"
      />
      <a class="btn-quiet" :href="`/api/v1/sites/${site}/forms/${form}/table`" download>As a table (CSV)</a>
    </div>
    <ProblemNote :error="problem ?? got.error.value" />
    <p v-if="got.data.value && !got.data.value.entries.length" class="text-faded">
      {{ words ? `Nothing holds “${words}”.` : "Nothing has come yet." }}
    </p>
    <ul class="sheet divide-y divide-hair empty:hidden">
      <li v-for="e in got.data.value?.entries" :key="e.id" class="px-4 py-3" :data-entry="e.id">
        <div class="flex flex-wrap items-baseline gap-3">
          <b>{{ moment(e.at) }}</b>
          <span
            v-for="m in e.mails"
            :key="m.to"
            class="text-sm"
            :class="m.message ? 'text-call' : 'text-faded'"
          >
            mail to the {{ m.to }}: {{ m.message || m.state }}
          </span>
          <ConfirmAct
            class="ml-auto"
            act="Delete"
            title="Delete this entry?"
            :busy="false"
            @act="remove(e.id)"
          >
            <p>It is gone for good: what visitors send is in no history and no archive.</p>
          </ConfirmAct>
        </div>
        <dl class="mt-1 grid gap-x-4 gap-y-0.5 sm:grid-cols-[10rem_1fr]">
          <template v-for="f in fields" :key="f.name">
            <template v-if="e.fields[f.name]">
              <dt class="text-faded">{{ f.label }}</dt>
              <dd class="min-w-0 break-words whitespace-pre-wrap">{{ e.fields[f.name] }}</dd>
            </template>
          </template>
        </dl>
      </li>
    </ul>
    <p class="mt-3 flex gap-3">
      <button v-if="before" type="button" class="btn-quiet" @click="before = 0">The newest</button>
      <button
        v-if="got.data.value?.more"
        type="button"
        class="btn-quiet"
        @click="before = got.data.value?.more ?? 0"
      >
        Earlier ones
      </button>
    </p>
  </section>
</template>
