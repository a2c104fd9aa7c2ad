<script setup lang="ts">
import { computed, ref, watch } from "vue"
import FillField from "./FillField.vue"
import type { Schemas } from "../api/client"

const props = defineProps<{ site: string; plan: Schemas["Plan"]; editable: boolean; busy: boolean }>()
const emit = defineEmits<{ answer: [body: Schemas["Answers"]]; next: [] }>()
const values = ref<Record<string, string>>({})
watch(
  () => props.plan,
  (p) => {
    values.value = Object.fromEntries(p.fills.map((f) => [f.name, f.value ?? ""]))
  },
  { immediate: true },
)
const open = computed(() => props.plan.fills.filter((f) => f.required && !f.given).length)
</script>

<template>
  <p v-if="!plan.fills.length" class="mb-6 rounded-md bg-calm-soft px-4 py-2.5 text-calm">
    There is nothing to fill in.
  </p>
  <form v-else class="sheet mb-6 max-w-2xl space-y-5 p-6" @submit.prevent="emit('answer', { fills: values })">
    <div v-for="f in plan.fills" :key="f.name">
      <label class="label" :for="`fill-${f.name}`"
        >{{ f.label }} <span v-if="f.required && !f.given" class="text-call">needs you</span></label
      >
      <FillField
        :id="`fill-${f.name}`"
        v-model="values[f.name]"
        :fill="f"
        :site="site"
        :disabled="!editable"
      />
      <p class="mt-1 text-sm text-faded">
        {{ f.type }}{{ f.required ? "" : ", not required" }}. The kit’s sample: “{{ f.sample }}”<template
          v-if="f.before"
          >. It has the value of the last delivery</template
        >
      </p>
    </div>
    <button v-if="editable" class="btn" :disabled="busy">Fill in</button>
  </form>
  <button class="btn" :disabled="open > 0" @click="$emit('next')">On to the preview</button>
</template>
