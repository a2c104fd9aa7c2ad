<script setup lang="ts">
import { computed } from "vue"
import KeptField from "./KeptField.vue"
import { resolve, type LookToken } from "../composables/useLook"

// One value of a look, shown as what it is, and another typed or chosen.
const props = defineProps<{ token: LookToken; others: LookToken[]; proposed: string; keeper: boolean }>()
const emit = defineEmits<{ change: [value: string] }>()
const hex = computed(() => (/^#[0-9a-f]{6}$/i.test(props.token.value) ? props.token.value : ""))
const sample = computed(() => {
  const v = props.token.value
  if (/font-?family/i.test(props.token.type)) return { fontFamily: v }
  if (/weight/i.test(props.token.type)) return { fontWeight: v }
  return null
})
const length = computed(() =>
  props.token.type === "dimension" && /^[\d.]+(px|rem|em)$/.test(props.token.value) ? props.token.value : "",
)
const says = (path: string) => path.replaceAll(".", " ").replaceAll("-", " ")
const label = computed(() => says(props.token.path))
// Tokens of its kind that it can be the same as: those that follow no other, so that none goes in a circle.
const likes = computed(() =>
  props.others.filter((o) => o.type === props.token.type && o.path !== props.token.path && !o.alias),
)
const resolved = computed(() => resolve(props.token.value, props.others))
</script>

<template>
  <li class="flex flex-wrap items-center gap-3 px-4 py-2" :data-token="token.path">
    <input
      v-if="hex && keeper"
      type="color"
      class="size-9 shrink-0 cursor-pointer rounded-md border border-hair p-0.5"
      :value="hex"
      :aria-label="`Choose ${label}`"
      @change="emit('change', ($event.target as HTMLInputElement).value)"
    />
    <span
      v-if="token.type === 'color' && !(hex && keeper)"
      class="size-9 shrink-0 rounded-md border border-hair"
      :style="{ background: resolved }"
      aria-hidden="true"
    />
    <span v-else-if="sample" class="w-28 shrink-0 truncate text-lg" :style="sample" aria-hidden="true"
      >First light</span
    >
    <span
      v-else-if="length"
      class="h-3 max-w-24 shrink-0 rounded-sm bg-ink/70"
      :style="{ width: length }"
      aria-hidden="true"
    />
    <span class="min-w-0 flex-1 first-letter:uppercase">{{ label }}</span>
    <select
      v-if="token.alias || likes.length"
      class="field min-h-9 w-28 px-2 py-1 text-sm"
      :aria-label="`What ${label} is`"
      :value="token.alias ? token.value : ''"
      :disabled="!keeper"
      @change="emit('change', ($event.target as HTMLSelectElement).value || resolved)"
    >
      <option value="">own value</option>
      <option v-for="o in likes" :key="o.path" :value="`{${o.path}}`">as {{ says(o.path) }}</option>
    </select>
    <template v-if="!token.alias">
      <KeptField
        :class="['field addr min-h-9 py-1', sample ? 'w-full' : 'w-28']"
        :value="token.value"
        :readonly="!keeper"
        :aria-label="label"
        @change="(v) => emit('change', v)"
      />
      <button
        v-if="proposed && token.type === 'color' && keeper"
        type="button"
        class="btn-quiet px-2 py-1 text-sm"
        :aria-label="`Use ${proposed} as ${label}`"
        @click="emit('change', proposed)"
      >
        <span
          class="size-4 rounded-sm border border-hair"
          :style="{ background: proposed }"
          aria-hidden="true"
        />use
      </button>
    </template>
  </li>
</template>
