<script setup lang="ts">
import { ref, watch } from "vue"

// A field that keeps what is being typed when the view is drawn anew; what it is given comes in where nobody typed.
const props = defineProps<{ value?: string | number }>()
const emit = defineEmits<{ change: [value: string] }>()
const given = () => String(props.value ?? "")
const typed = ref(given())
watch(given, (now, was) => {
  if (String(typed.value) === was) typed.value = now
})
</script>

<template>
  <input v-model="typed" @change="emit('change', String(typed))" />
</template>
