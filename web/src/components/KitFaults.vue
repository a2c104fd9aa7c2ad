<script setup lang="ts">
import { toRef } from "vue"
import FaultList from "./FaultList.vue"
import ProblemNote from "./ProblemNote.vue"
import { useKitFaults } from "../composables/useFaults"

const props = defineProps<{ name: string; version: string }>()
const found = useKitFaults(toRef(props, "name"), toRef(props, "version"))
</script>

<template>
  <section class="mt-8">
    <h2 class="mb-3">For visitors, as its pages show it</h2>
    <ProblemNote :error="found.error.value" />
    <p v-if="found.isPending.value" class="text-faded" role="status">Looking at all pages…</p>
    <FaultList v-if="found.data.value" :faults="found.data.value.faults" />
  </section>
</template>
