<script setup lang="ts">
import { computed } from "vue"
import PlanKnow from "./PlanKnow.vue"
import PlanNeeds from "./PlanNeeds.vue"
import PlanQuestions from "./PlanQuestions.vue"
import PlanRows from "./PlanRows.vue"
import PlanSettled from "./PlanSettled.vue"
import PlanTokens from "./PlanTokens.vue"
import type { Schemas } from "../api/client"

const props = defineProps<{
  delivery: Schemas["Delivery"]
  etag: string
  plan: Schemas["Plan"]
  editable: boolean
  busy: boolean
}>()
const emit = defineEmits<{ answer: [body: Schemas["Answers"]]; next: [] }>()
const open = computed(() => props.plan.questions.filter((q) => q.kind !== "fill").length)
const disabled = computed(() => !props.editable || props.busy)
const decide = (about: string, word: string) => emit("answer", { decisions: { [about]: word } })
</script>

<template>
  <PlanQuestions :delivery="delivery" :etag="etag" :plan="plan" :disabled="disabled" @decide="decide" />
  <PlanRows :delivery="delivery" :etag="etag" :plan="plan" :disabled="disabled" @decide="decide" />
  <PlanSettled :delivery="delivery" :plan="plan" :disabled="disabled" @decide="decide" />
  <PlanNeeds :delivery="delivery" :plan="plan" :disabled="disabled" @decide="decide" />
  <PlanTokens :delivery="delivery" :plan="plan" :disabled="disabled" @decide="decide" />
  <PlanKnow :plan="plan" />
  <button class="btn" :disabled="open > 0" @click="$emit('next')">On to the blanks</button>
</template>
