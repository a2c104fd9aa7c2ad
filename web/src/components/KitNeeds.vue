<script setup lang="ts">
import { ref } from "vue"
import type { Schemas } from "../api/client"

/** What a kit needs of others and of the site, and what it proposes. */
const props = defineProps<{ kit: Schemas["Kit"]; editable: boolean; busy: boolean }>()
const emit = defineEmits<{ save: [body: Schemas["KitMetadata"]] }>()
const kind = ref<"kit" | "component" | "setting">("kit")
const name = ref("")
const range = ref("")
const optional = ref(false)
function parse(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return text
  }
}
function add() {
  const n = name.value.trim()
  if (kind.value === "kit") emit("save", { needsKits: { ...props.kit.needsKits, [n]: range.value.trim() } })
  else if (kind.value === "component")
    emit("save", {
      needsComponents: {
        ...props.kit.needsComponents,
        [n]: { range: range.value.trim(), optional: optional.value },
      },
    })
  else
    emit("save", {
      proposes: { ...props.kit.proposes, [n.includes("/") ? n : `setting/${n}`]: parse(range.value.trim()) },
    })
  name.value = range.value = ""
}
const without = <T,>(map: Record<string, T>, key: string) =>
  Object.fromEntries(Object.entries(map).filter(([k]) => k !== key))
</script>

<template>
  <ul class="sheet divide-y divide-hair">
    <li v-for="(r, n) in kit.needsKits" :key="'k' + n" class="flex gap-3 px-4 py-2.5">
      <span class="flex-1"
        ><b>Needed</b> the kit <span class="addr">{{ n }} {{ r }}</span></span
      ><button
        v-if="editable"
        class="link text-sm"
        @click="emit('save', { needsKits: without(kit.needsKits, String(n)) })"
      >
        Drop the need
      </button>
    </li>
    <li v-for="(c, n) in kit.needsComponents" :key="'c' + n" class="flex gap-3 px-4 py-2.5">
      <span class="flex-1"
        ><b>{{ c.optional ? "Optional" : "Needed" }}</b> the component
        <span class="addr">{{ n }} {{ c.range }}</span></span
      ><button
        v-if="editable"
        class="link text-sm"
        @click="emit('save', { needsComponents: without(kit.needsComponents, String(n)) })"
      >
        Clear
      </button>
    </li>
    <li v-for="(n, k) in kit.needs" :key="k" class="px-4 py-2.5">
      <b>{{ n.optional ? "Optional" : "Needed" }}</b> <span class="addr">{{ n.address || n.slug }}</span>
      <span class="text-faded">{{ n.why }}</span>
    </li>
    <li v-for="(v, n) in kit.proposes" :key="'p' + n" class="flex gap-3 px-4 py-2.5">
      <span class="flex-1"
        ><b>Proposed</b> <span class="addr">{{ n }}</span>
        <span class="text-faded">{{ typeof v === "string" ? v : JSON.stringify(v) }}</span></span
      ><button
        v-if="editable"
        class="link text-sm"
        @click="emit('save', { proposes: without(kit.proposes, String(n)) })"
      >
        Withdraw the proposal
      </button>
    </li>
    <li
      v-if="
        !kit.needs.length &&
        !Object.keys(kit.needsKits).length &&
        !Object.keys(kit.needsComponents).length &&
        !Object.keys(kit.proposes).length
      "
      class="px-4 py-2.5 text-faded"
    >
      It needs nothing and proposes nothing.
    </li>
  </ul>
  <form v-if="editable" class="mt-4 flex flex-wrap items-end gap-3" @submit.prevent="add">
    <div>
      <label class="label" for="need-kind">Add</label
      ><select id="need-kind" v-model="kind" class="field">
        <option value="kit">a needed kit</option>
        <option value="component">a needed component</option>
        <option value="setting">a proposed setting</option>
      </select>
    </div>
    <div>
      <label class="label" for="need-name">Name</label
      ><input
        id="need-name"
        v-model="name"
        class="field max-w-44"
        :placeholder="kind === 'kit' ? 'hut-basics' : kind === 'component' ? 'x-weather-strip' : 'home'"
        required
      />
    </div>
    <div>
      <label class="label" for="need-range">{{ kind === "setting" ? "Value" : "Versions" }}</label><input
        id="need-range"
        v-model="range"
        class="field max-w-44"
        :placeholder="kind === 'setting' ? 'page/home' : '^1.1 || ^2'"
        required
      />
    </div>
    <label v-if="kind === 'component'" class="flex items-center gap-2 pb-2.5"
      ><input v-model="optional" type="checkbox" class="size-4" />the pieces work without it</label
    >
    <button class="btn-quiet" :disabled="busy">Add</button>
  </form>
</template>
