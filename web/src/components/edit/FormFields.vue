<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import KeptField from "../KeptField.vue"
import { parsed, useDraftItem } from "../../composables/useDraftItem"
import { anchorOf } from "../../composables/format"
import type { Schemas } from "../../api/client"

type Operation = Schemas["Operation"]

// What a form asks: its fields in order, with their labels and hints, its button and its thanks.
const props = defineProps<{
  site: string
  draft: number | null
  form: string
  /** Another when the form may be another. */
  step: number | string
  run: (operations: Operation[]) => unknown
}>()
interface FormText {
  title?: string
  submit?: string
  confirmation?: { text?: string; page?: string }
  order?: string[]
  schema?: { properties?: Record<string, { title?: string; description?: string }> }
}
const item = useDraftItem(
  toRef(props, "site"),
  toRef(props, "form"),
  toRef(props, "draft"),
  toRef(props, "step"),
)
const text = computed(() => parsed<FormText>(item.data.value?.value.content))
const fields = computed(() => {
  const known = text.value?.schema?.properties ?? {}
  const order = (text.value?.order ?? []).filter((n) => known[n])
  return [...order, ...Object.keys(known).filter((n) => !order.includes(n))].map((name) => ({
    name,
    ...known[name],
  }))
})
const op = (name: Operation["op"], property: string, more: Partial<Operation> = {}): Operation => ({
  op: name,
  item: props.form,
  property,
  ...more,
})
const run = (o: Operation) => props.run([o])
const set = (property: string, value: string) => run(op("form-set", property, { value }))
const name = ref("")
function add() {
  if (name.value.trim())
    void run(op("form-field", anchorOf(name.value), { value: "text", label: name.value.trim() }))
  name.value = ""
}
</script>

<template>
  <fieldset class="mb-3 space-y-2 text-sm" data-form>
    <legend class="label">The form {{ text?.title }}</legend>
    <ol class="space-y-1">
      <li v-for="(f, i) in fields" :key="f.name" class="rounded border border-hair bg-white p-1.5">
        <KeptField
          class="w-full rounded border border-faded/60 px-1.5 py-1"
          :value="f.title ?? f.name"
          :aria-label="`Label of ${f.name}`"
          @change="(v) => set(`${f.name}.label`, v)"
        />
        <KeptField
          class="mt-1 w-full rounded border border-faded/60 px-1.5 py-1"
          :value="f.description"
          placeholder="Hint"
          :aria-label="`Hint of ${f.name}`"
          @change="(v) => set(`${f.name}.hint`, v)"
        />
        <span class="flex gap-3 pt-1">
          <button
            type="button"
            class="link"
            :disabled="!i"
            @click="run(op('form-move', f.name, { entry: String(i) }))"
          >
            earlier<span class="sr-only">: {{ f.name }}</span>
          </button>
          <button
            type="button"
            class="link"
            :disabled="i + 1 === fields.length"
            @click="run(op('form-move', f.name, { entry: String(i + 2) }))"
          >
            later<span class="sr-only">: {{ f.name }}</span>
          </button>
          <button type="button" class="link" @click="run(op('form-remove', f.name))">
            remove<span class="sr-only">: {{ f.name }}</span>
          </button>
        </span>
      </li>
    </ol>
    <form class="flex gap-1" @submit.prevent="add">
      <input
        v-model="name"
        class="field min-h-9 py-1"
        placeholder="Another field"
        aria-label="Label of another field"
      />
      <button class="btn-quiet px-3 py-1">Add</button>
    </form>
    <label class="block"
      >Its button
      <KeptField class="field min-h-9 py-1" :value="text?.submit" @change="(v) => set('submit', v)"
    /></label>
    <label class="block"
      >After sending, visitors read
      <KeptField
        class="field min-h-9 py-1"
        :value="text?.confirmation?.page || text?.confirmation?.text"
        @change="(v) => set('confirmation', v)"
    /></label>
  </fieldset>
</template>
