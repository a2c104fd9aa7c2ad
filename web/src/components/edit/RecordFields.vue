<script setup lang="ts">
import { computed, toRef } from "vue"
import { useDraftItem } from "../../composables/useDraftItem"
import type { PageActs } from "../../composables/usePageActs"

// A record by the fields that it shows.
const props = defineProps<{ site: string; draft: number | null; record: string; acts: PageActs }>()
const step = computed(() => props.acts.outline.outline.value?.step ?? 0)
const item = useDraftItem(toRef(props, "site"), toRef(props, "record"), toRef(props, "draft"), step)
/** The fields that a record's markup binds, with their values: data-value="text:title; src:picture". */
const fields = computed(() => {
  const doc = new DOMParser().parseFromString(item.data.value?.value.content ?? "", "text/html")
  const out = new Map<string, string>()
  for (const el of doc.querySelectorAll("[data-value]"))
    for (const binding of (el.getAttribute("data-value") ?? "").split(";")) {
      const [target, name] = binding.trim().split(":")
      if (name && /^[a-z0-9-]+$/i.test(name) && !out.has(name))
        out.set(
          name,
          target === "text" || target === "html" ? (el.textContent ?? "") : (el.getAttribute(target) ?? ""),
        )
    }
  return [...out]
})
const set = (property: string, ev: Event) =>
  props.acts.run([
    { op: "field", item: props.record, property, value: (ev.target as HTMLInputElement).value },
  ])
</script>

<template>
  <fieldset class="mb-3 space-y-1 text-sm" data-record>
    <legend class="label">{{ item.data.value?.value.item.meta.title || record }}</legend>
    <label v-for="[name, v] in fields" :key="name" class="block"
      ><span class="font-semibold first-letter:uppercase">{{ name.replaceAll("-", " ") }}</span>
      <input class="field min-h-9 py-1" :value="v" @change="set(name, $event)"
    /></label>
  </fieldset>
</template>
