<script setup lang="ts">
import { computed, ref, watch } from "vue"
import type { Schemas } from "../api/client"
import type { Picked } from "../composables/usePicked"
import { briefly } from "../composables/usePicked"
import PickFrame from "./PickFrame.vue"
import { useVocabulary } from "../composables/useVocabulary"

/** Marks blanks on the pieces of a kit: point at an element, say what of it is filled in. */
const props = defineProps<{ kit: Schemas["Kit"]; busy: boolean; stamp: string }>()
const emit = defineEmits<{ save: [body: Schemas["KitMetadata"]] }>()
const { vocabulary } = useVocabulary()
const pieces = computed(() =>
  props.kit.items
    .map((i) => i.address)
    .filter((a) => ["page", "section", "part", "block"].includes(a.split("/")[0])),
)
const piece = ref("")
watch(
  pieces,
  (p) => {
    if (!p.includes(piece.value)) piece.value = p[0] ?? ""
  },
  { immediate: true },
)
const picked = ref<Picked | null>(null)
const target = ref("text")
const name = ref("")
const label = ref("")
const type = ref("text")
const pattern = ref("")
const targets = computed(() => {
  const p = picked.value
  if (!p) return []
  return [
    ...(p.bare ? [{ v: "text", says: "its text" }] : []),
    ...(p.text ? [{ v: "html", says: "all that it holds" }] : []),
    ...(p.href || p.tag === "a" ? [{ v: "href", says: "where it leads" }] : []),
    ...(p.src
      ? [
          { v: "src", says: "the picture" },
          { v: "alt", says: "the picture’s alternative text" },
        ]
      : []),
  ]
})
function take(p: Picked) {
  picked.value = p
  target.value = targets.value[0]?.v ?? "html"
}
watch([target, picked], () => {
  type.value =
    { text: "text", html: "rich-text", href: "url", src: "image", alt: "text" }[target.value] ?? "text"
  const scheme = target.value === "href" ? (/^(tel|mailto):/.exec(picked.value?.href ?? "")?.[0] ?? "") : ""
  pattern.value = scheme
  if (scheme) type.value = scheme === "tel:" ? "phone" : "email"
})
const said = (n: string) => (n ? n[0].toUpperCase() + n.slice(1).replaceAll("-", " ") : "")
watch(name, (n, old) => {
  if (!label.value || label.value === said(old)) label.value = said(n)
})
const fills = () => Object.fromEntries(props.kit.fillins.map((f) => [f.name, f]))
function mark() {
  const p = picked.value
  if (!p) return
  const bind = `${target.value}:${pattern.value ? `${pattern.value}{${name.value}}` : name.value}`
  const known = fills()
  emit("save", {
    marks: [...props.kit.marks, { in: piece.value, element: p.cpPick, bind }],
    fillins: {
      ...known,
      [name.value]: known[name.value] ?? {
        name: name.value,
        label: label.value || said(name.value),
        type: type.value,
        required: true,
      },
    },
  })
  picked.value = null
  name.value = label.value = ""
}
const unmark = (n: number) => emit("save", { marks: props.kit.marks.filter((_, k) => k !== n) })
</script>

<template>
  <p v-if="!pieces.length" class="text-faded">Add a page, a section, a part or a block first.</p>
  <template v-else>
    <div class="mb-3 flex flex-wrap items-end gap-3">
      <div>
        <label class="label" for="blank-piece">The piece</label
        ><select id="blank-piece" v-model="piece" class="field min-w-56" @change="picked = null">
          <option v-for="a in pieces" :key="a">{{ a }}</option>
        </select>
      </div>
      <p class="pb-2.5 text-faded">
        Point at a text, a link or a picture that each site fills in for itself.
      </p>
    </div>
    <PickFrame :key="piece + stamp" :origin="kit.preview" :address="piece" :stamp="stamp" @picked="take" />
    <form v-if="picked" class="sheet mt-3 grid gap-3 p-4 sm:grid-cols-2" @submit.prevent="mark">
      <p v-if="picked.fill" class="font-semibold text-amber sm:col-span-2">
        It is already a blank: {{ picked.fill }}
      </p>
      <div>
        <label class="label" for="blank-target">What is filled in</label
        ><select id="blank-target" v-model="target" class="field">
          <option v-for="t in targets" :key="t.v" :value="t.v">{{ t.says }}</option>
        </select>
      </div>
      <div>
        <label class="label" for="blank-name">Name of the blank</label
        ><input
          id="blank-name"
          v-model="name"
          class="field"
          pattern="[a-z0-9][a-z0-9_\-]*"
          placeholder="hut-name"
          list="blank-names"
          required
        /><datalist id="blank-names">
          <option v-for="f in kit.fillins" :key="f.name" :value="f.name" />
        </datalist>
      </div>
      <div>
        <label class="label" for="blank-label">Label</label
        ><input id="blank-label" v-model="label" class="field" required />
      </div>
      <div>
        <label class="label" for="blank-type">Type</label
        ><select id="blank-type" v-model="type" class="field">
          <option v-for="t in vocabulary.data.value?.fillinTypes ?? [type]" :key="t">{{ t }}</option>
        </select>
      </div>
      <div class="flex gap-2 sm:col-span-2">
        <button class="btn" :disabled="busy || !targets.length">Mark this blank</button
        ><button type="button" class="btn-quiet" @click="picked = null">Cancel</button>
      </div>
    </form>
    <ul v-if="kit.marks.length" class="sheet mt-4 divide-y divide-hair">
      <li v-for="(m, n) in kit.marks" :key="n" class="flex items-baseline gap-3 px-4 py-2.5">
        <span class="min-w-0 flex-1"
          ><b class="addr">{{ m.bind }}</b>
          <span class="text-faded">in {{ m.in }}, {{ briefly(m.element) }}</span></span
        ><button class="link text-sm" :disabled="busy" @click="unmark(n)">Remove the mark</button>
      </li>
    </ul>
  </template>
</template>
