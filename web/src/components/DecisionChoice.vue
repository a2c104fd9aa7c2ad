<script setup lang="ts">
import { computed, ref } from "vue"
import { RadioGroup, RadioGroupOption } from "@headlessui/vue"
import { useItems } from "../composables/useItems"
import type { Schemas } from "../api/client"

const props = defineProps<{
  choices: Schemas["Choice"][]
  about: string
  site: string
  chosen?: string
  disabled: boolean
  inline?: boolean
  kind?: string
}>()
const emit = defineEmits<{ decide: [word: string] }>()
/** A choice as a decision is written: "take", "as:beds". */
const written = (c: Schemas["Choice"]) => (c.to ? `${c.decision}:${c.to}` : c.decision)
const mapping = ref(false)
const items = useItems(computed(() => (mapping.value ? props.site : "")))
const alike = computed(() =>
  (items.data.value?.items ?? []).filter(
    (i) => i.address.split("/")[0] === (props.kind ?? props.about.split("/")[0]),
  ),
)
const now = computed(() =>
  mapping.value
    ? "map"
    : props.choices.some((c) => written(c) === props.chosen)
      ? props.chosen
      : (props.chosen ?? "").split(":")[0],
)
function choose(word: string) {
  mapping.value = word === "map"
  if (word !== "map") emit("decide", word)
}
</script>

<template>
  <div>
    <div v-if="inline" class="flex gap-1" role="group" :aria-label="`Decision about ${about}`">
      <button
        v-for="c in choices"
        :key="written(c)"
        type="button"
        class="whitespace-nowrap rounded-md border px-2.5 py-1"
        :class="
          now === written(c)
            ? 'border-ink bg-paper font-semibold'
            : 'border-hair text-faded hover:border-ink/50'
        "
        :aria-pressed="now === written(c)"
        :title="c.effect"
        :disabled="disabled"
        :data-decide="`${about}=${written(c)}`"
        @click="choose(written(c))"
      >
        {{ written(c) }}
      </button>
    </div>
    <RadioGroup
      v-else
      :model-value="now"
      :disabled="disabled"
      class="grid gap-2"
      v-bind="{ 'aria-label': `Decision about ${about}` }"
      @update:model-value="choose"
    >
      <RadioGroupOption
        v-for="c in choices"
        :key="written(c)"
        v-slot="{ checked }"
        :value="written(c)"
        as="template"
      >
        <div
          class="flex cursor-pointer items-baseline gap-3 rounded-md border px-4 py-2.5"
          :class="checked ? 'border-ink bg-paper' : 'border-hair hover:border-ink/50'"
          :data-decide="`${about}=${written(c)}`"
        >
          <span class="grid size-4 shrink-0 translate-y-0.5 place-items-center rounded-full border border-ink"
            ><span v-if="checked" class="size-2 rounded-full bg-ink"
          /></span>
          <span
            ><b>{{ written(c) }}</b> <span class="text-faded">{{ c.effect }}</span></span
          >
        </div>
      </RadioGroupOption>
    </RadioGroup>
    <div v-if="mapping" class="mt-3 flex flex-wrap gap-2">
      <button
        v-for="i in alike"
        :key="i.address"
        class="btn-quiet addr"
        @click="emit('decide', `map:${i.address}`)"
      >
        {{ i.address }}
      </button>
    </div>
  </div>
</template>
