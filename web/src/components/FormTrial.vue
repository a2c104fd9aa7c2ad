<script setup lang="ts">
import { ref } from "vue"
import ProblemNote from "./ProblemNote.vue"
import { api, result, type Schemas } from "../api/client"

// A trial entry: what would become of it, to the words or the page that confirm it. Nothing is kept or sent.
const props = defineProps<{
  site: string
  form: string
  draft: number | null
  preview: string
  fields: { name: string; title: string }[]
}>()
const values = ref<Record<string, string>>({})
const tried = ref<Schemas["FormTried"] | null>(null)
const problem = ref<unknown>(null)
const busy = ref(false)
async function send() {
  busy.value = true
  problem.value = null
  try {
    const fields = Object.fromEntries(
      Object.entries(values.value)
        .filter(([, v]) => v !== "")
        .map(([k, v]) => [k, [v]]),
    )
    tried.value = await result(
      api.POST("/api/v1/sites/{site}/forms/{form}/trial", {
        params: { path: { site: props.site, form: props.form } },
        body: { draft: props.draft ?? undefined, fields },
      }),
    )
  } catch (e) {
    tried.value = null
    problem.value = e
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="sheet p-4" data-trial>
    <h2 class="mb-1">A trial entry</h2>
    <p class="mb-3 text-faded">Fill it in as a visitor would. Nothing is kept, and nothing is sent.</p>
    <form class="space-y-2" @submit.prevent="send">
      <label v-for="f in fields" :key="f.name" class="block"
        >{{ f.title }} <input v-model="values[f.name]" class="field" :data-trial-field="f.name"
      /></label>
      <button class="btn" :disabled="busy">Try it</button>
    </form>
    <ProblemNote :error="problem" />
    <div v-if="tried" role="status" class="mt-3" data-tried>
      <div v-if="tried.wrong.length" class="rounded-md bg-amber-soft px-4 py-2 text-amber">
        <p class="font-semibold">It does not fit yet:</p>
        <ul class="list-disc pl-5">
          <li v-for="w in tried.wrong" :key="w.name">{{ w.label }}: {{ w.message }}</li>
        </ul>
      </div>
      <template v-else>
        <p class="rounded-md bg-calm-soft px-4 py-2 text-calm">
          It fits. <template v-if="tried.text">The visitor reads: “{{ tried.text }}”</template
          ><template v-if="tried.page">
            The visitor comes to
            <a
              v-if="/^\/(?![/\\])/.test(tried.page)"
              class="link"
              :href="preview + tried.page"
              target="_blank"
              rel="noopener"
              >{{ tried.page }}</a><span v-else
              >{{ tried.page }}, which is no page of the site</span
            ></template
          >
        </p>
        <p v-if="!tried.mails.length" class="mt-2 text-amber">Nobody is told: say above who gets it.</p>
        <details v-for="(m, i) in tried.mails" :key="i" class="mt-2" open>
          <summary class="font-semibold">
            {{ m.to.includes("@") ? `Mail to ${m.to}` : `Mail to the ${m.to}` }}: {{ m.subject }}
          </summary>
          <pre class="mt-1 whitespace-pre-wrap rounded-md border border-hair bg-white p-3 font-sans">{{
            m.text
          }}</pre>
        </details>
      </template>
    </div>
  </section>
</template>
