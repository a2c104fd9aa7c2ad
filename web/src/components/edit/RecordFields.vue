<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import KeptField from "../KeptField.vue"
import MediaPick from "../MediaPick.vue"
import { bindings } from "../../composables/blanks"
import { parsed, useDraftItem } from "../../composables/useDraftItem"
import type { Schemas } from "../../api/client"

// A record by the fields that it shows.
const props = defineProps<{
  site: string
  draft: number | null
  record: string
  /** Another when the record may be another. */
  step: number | string
  run: (operations: Schemas["Operation"][]) => unknown
}>()
const site = toRef(props, "site")
const draft = toRef(props, "draft")
const item = useDraftItem(site, toRef(props, "record"), draft, toRef(props, "step"))
interface Type {
  fields?: Record<string, { label?: string }>
  schema?: { properties?: Record<string, { label?: string }> }
}
const typeOf = computed(() => (props.record ? `record-type/${props.record.split("/")[1]}` : ""))
const type = useDraftItem(site, typeOf, draft, ref(0))
const declared = computed(() => {
  const t = parsed<Type>(type.data.value?.value.content)
  return t?.fields ?? t?.schema?.properties ?? {}
})
interface Field {
  name: string
  label: string
  value: string
  picture: boolean
}
/** The fields that a record's markup binds, with their values: data-value="text:title; src:picture". */
const fields = computed(() => {
  const doc = new DOMParser().parseFromString(item.data.value?.value.content ?? "", "text/html")
  const out = new Map<string, Field>()
  for (const el of doc.querySelectorAll("[data-value]"))
    for (const { place, name } of bindings(el.getAttribute("data-value"))) {
      if (!/^[a-z0-9-]+$/i.test(name) || out.has(name)) continue
      const inside = place === "text" || place === "html"
      out.set(name, {
        name,
        label: declared.value[name]?.label ?? name.replaceAll("-", " "),
        value: (inside ? el.textContent : el.getAttribute(place)) ?? "",
        picture: place === "src" && el.tagName === "IMG",
      })
    }
  return [...out.values()]
})
/** How many are shown at first. */
const few = 40
const all = ref(false)
const set = (property: string, value: string) =>
  props.run([{ op: "field", item: props.record, property, value }])
</script>

<template>
  <fieldset class="mb-3 space-y-2 text-sm" data-record>
    <legend class="label">{{ item.data.value?.value.item.meta.title || record }}</legend>
    <template v-for="f in fields.slice(0, all ? undefined : few)" :key="f.name">
      <div v-if="f.picture">
        <span class="block font-semibold first-letter:uppercase">{{ f.label }}</span>
        <MediaPick
          :site="site"
          :draft="draft"
          :value="f.value"
          :label="f.label"
          @pick="(path) => set(f.name, path)"
        />
      </div>
      <label v-else class="block"
        ><span class="font-semibold first-letter:uppercase">{{ f.label }}</span>
        <KeptField
          class="field min-h-9 py-1"
          :value="f.value"
          :data-field="f.name"
          @change="(v) => set(f.name, v)"
      /></label>
    </template>
    <button v-if="!all && fields.length > few" type="button" class="link" @click="all = true">
      {{ fields.length - few }} more fields
    </button>
  </fieldset>
</template>
