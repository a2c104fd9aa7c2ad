<script setup lang="ts">
import { useRouter } from "vue-router"
import ProblemNote from "./ProblemNote.vue"
import { useOpenDelivery } from "../composables/useDeliveries"

// Begins the delivery of a kit that another one needs on a site.
const props = defineProps<{ kit: string; version: string; site: string; disabled: boolean }>()
const router = useRouter()
const begin = useOpenDelivery()
const first = () =>
  begin.mutateAsync({ kit: props.kit, version: props.version, site: props.site }).then(
    (d) => router.push(`/deliveries/${d.id}`),
    () => {},
  )
</script>

<template>
  <p class="mb-3">
    <button
      type="button"
      class="btn"
      :disabled="disabled || begin.isPending.value"
      data-deliver-first
      @click="first"
    >
      Deliver {{ kit }} {{ version }} first
    </button>
  </p>
  <ProblemNote :error="begin.error.value" />
</template>
