<script setup lang="ts">
import { ref } from "vue"
import { hex, stepped, type AppearanceFieldOf } from "./appearance"
import { useRest } from "../../underWay"
import type { TokenValue } from "../../composables/useTokenValues"

const props = defineProps<{
  field: AppearanceFieldOf
  colours: TokenValue[]
  lengths: TokenValue[]
  media: string[]
}>()
const emit = defineEmits<{ set: [value: string]; look: [value: string] }>()
const text = ref("")
const rest = useRest("do")
/** Arrow keys make a length larger or smaller, ten at a time with Shift. */
function nudge(ev: KeyboardEvent) {
  if (props.field.kind !== "length" || (ev.key !== "ArrowUp" && ev.key !== "ArrowDown")) return
  const next = stepped(
    text.value || (props.field.is ?? ""),
    (ev.shiftKey ? 10 : 1) * (ev.key === "ArrowUp" ? 1 : -1),
  )
  if (!next) return
  ev.preventDefault()
  text.value = next
  emit("look", next)
  rest.after(600, () => emit("set", next))
}
const changed = () => {
  rest.drop()
  emit("set", text.value)
}
const valueOf = (ev: Event) => (ev.target as HTMLInputElement | HTMLSelectElement).value
</script>

<template>
  <div :data-property="field.property">
    <label class="block font-semibold" :for="`f-${field.property}`">{{ field.says }}</label>
    <div class="flex items-center gap-1">
      <select
        v-if="field.kind === 'choice'"
        :id="`f-${field.property}`"
        class="field min-h-9 py-1"
        @change="emit('set', valueOf($event))"
      >
        <option value="">{{ field.is }}</option>
        <option v-for="[v, says] in field.choices" :key="v" :value="v">{{ says }}</option>
      </select>
      <select
        v-else-if="field.kind === 'media'"
        :id="`f-${field.property}`"
        class="field min-h-9 py-1"
        @change="emit('set', valueOf($event))"
      >
        <option value="">choose</option>
        <option v-for="m in media" :key="m" :value="m">{{ m.slice(6) }}</option>
      </select>
      <template v-else>
        <input
          v-if="field.kind === 'colour'"
          type="color"
          class="h-9 w-10 shrink-0 rounded border border-faded/60 bg-white"
          :aria-label="`${field.says}: choose a colour`"
          :value="hex(field.is)"
          @input="emit('look', valueOf($event))"
          @change="emit('set', valueOf($event))"
        />
        <input
          :id="`f-${field.property}`"
          v-model="text"
          class="field min-h-9 py-1"
          :placeholder="field.is"
          :list="field.kind === 'length' ? `l-${field.property}` : undefined"
          @change="changed"
          @keydown="nudge"
        />
        <datalist v-if="field.kind === 'length'" :id="`l-${field.property}`">
          <option v-for="v in lengths" :key="v.property" :value="`var(${v.property})`">{{ v.value }}</option>
        </datalist>
      </template>
      <button type="button" class="link shrink-0" @click="emit('set', '')">
        as it came<span class="sr-only">: {{ field.says }}</span>
      </button>
    </div>
    <div
      v-if="field.kind === 'colour' && colours.length"
      class="mt-1 flex flex-wrap gap-1"
      role="group"
      :aria-label="`Colours of the look, for ${field.says}`"
    >
      <button
        v-for="c in colours"
        :key="c.property"
        type="button"
        class="size-6 rounded border border-faded/60"
        :style="{ background: c.value }"
        :title="`${c.property.slice(2)} ${c.value}`"
        :aria-label="`${field.says}: ${c.property.slice(2)}`"
        @click="emit('set', `var(${c.property})`)"
      />
    </div>
  </div>
</template>
