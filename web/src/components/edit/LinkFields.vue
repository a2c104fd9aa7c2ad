<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import { anchorOf } from "../../composables/format"
import { usePages } from "../../composables/usePages"
import type { Element } from "../../composables/useOutline"
import type { PageActs } from "../../composables/usePageActs"

// Where a link leads: a page, a place on this page, a file, a mail address, a phone number or an address elsewhere.
const props = defineProps<{ site: string; draft: number | null; element: Element; acts: PageActs }>()
const { items, pages, at } = usePages(toRef(props, "site"), toRef(props, "draft"))
const files = computed(() =>
  (items.data.value?.items ?? []).filter((i) => i.address.startsWith("media/")).map((i) => "/" + i.address),
)
const places = computed(() =>
  (props.acts.outline.outline.value?.elements ?? []).filter(
    (e) =>
      (e.kind === "heading" || e.tag === "section" || e.anchor) &&
      e.number !== props.element.number &&
      !e.made,
  ),
)
const leads = computed(() => props.element.leads ?? "")
const kinds: [string, string, RegExp][] = [
  ["place", "This page", /^#/],
  ["mail", "Mail", /^mailto:/],
  ["phone", "Phone", /^tel:/],
  ["file", "File", /^\/media\//],
  ["page", "Page", /^\//],
  ["address", "Address", /^/],
]
const kindOf = (to: string) => kinds.find(([, , fits]) => fits.test(to))?.[0] ?? "address"
const bare = (to: string) => to.replace(/^(mailto|tel):/, "")
const kind = ref(kindOf(leads.value))
const text = ref(bare(leads.value))
watch(leads, (now, was) => {
  if (text.value !== bare(was)) return
  kind.value = kindOf(now)
  text.value = bare(now)
})
const lead = (value: string) =>
  props.acts.run([props.acts.at(props.element, "link", { value })], `The link leads to ${value}`)
function toPlace(number: string) {
  const e = places.value.find((p) => String(p.number) === number)
  if (!e) return
  if (e.anchor) return lead("#" + e.anchor)
  const id = anchorOf(e.name ?? "")
  return props.acts.run([
    props.acts.at(e, "anchor", { value: id }),
    props.acts.at(props.element, "link", { value: "#" + id }),
  ])
}
function write() {
  if (kind.value === "mail") return lead("mailto:" + text.value.trim())
  if (kind.value === "phone") return lead("tel:" + text.value.replace(/[^\d+]/g, ""))
  return lead(text.value.trim())
}
</script>

<template>
  <fieldset class="mb-3">
    <legend class="label text-sm">Where it leads</legend>
    <div class="flex gap-1">
      <select v-model="kind" class="field min-h-9 w-28 shrink-0 py-1" aria-label="Kind of target">
        <option v-for="[k, says] in kinds" :key="k" :value="k">{{ says }}</option>
      </select>
      <select
        v-if="kind === 'page'"
        class="field min-h-9 py-1"
        aria-label="Page"
        data-leads
        :value="at(leads)?.slug ?? leads"
        @change="lead(($event.target as HTMLSelectElement).value)"
      >
        <option v-if="!at(leads)" :value="leads">{{ leads || "choose" }}</option>
        <option v-for="p in pages" :key="p.slug" :value="p.slug">{{ p.title }}</option>
      </select>
      <select
        v-else-if="kind === 'place'"
        class="field min-h-9 py-1"
        aria-label="Place on this page"
        data-leads
        :value="places.find((p) => '#' + p.anchor === leads)?.number"
        @change="toPlace(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="p in places" :key="p.number" :value="p.number">{{ acts.outline.called(p) }}</option>
      </select>
      <select
        v-else-if="kind === 'file'"
        class="field min-h-9 py-1"
        aria-label="File"
        :value="leads"
        @change="lead(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="f in files" :key="f" :value="f">{{ f.slice(7) }}</option>
      </select>
      <input
        v-else
        v-model="text"
        class="field min-h-9 py-1"
        aria-label="Target"
        data-leads
        @change="write"
      />
    </div>
    <button type="button" class="link mt-1 text-sm" @click="acts.run([acts.at(element, 'link-end')])">
      Leave the words, end the link
    </button>
  </fieldset>
</template>
