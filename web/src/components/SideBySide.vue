<script setup lang="ts">
import { computed, toRef } from "vue"
import { useComparison } from "../composables/useDeliveries"
import { useKit } from "../composables/useKits"
import { alone, showable } from "../composables/format"
import type { Schemas } from "../api/client"
import ItemSide from "./ItemSide.vue"

// The sides of an item, as they look and as texts: as it was delivered, as the site and the
// kit have it, and as the plan would leave it.
const props = defineProps<{
  delivery: Schemas["Delivery"]
  etag: string
  address: string
  row?: Schemas["PlanRow"]
}>()
const { kit } = useKit(
  computed(() => props.delivery.kit),
  computed(() => props.delivery.version),
)
const sides = useComparison(
  computed(() => props.delivery.id),
  toRef(props, "address"),
  toRef(props, "etag"),
)
const here = computed(() => props.row?.site?.address ?? "")
const becomes = computed(() =>
  ["blend", "take", "both", "again"].includes(props.row?.decision ?? "") &&
  !["new", "taken"].includes(props.row?.standing ?? "")
    ? (props.row?.becomes ?? "")
    : "",
)
const picture = (origin: string | undefined, address: string) =>
  origin && address && showable(address) && !address.startsWith("menu/") ? alone(origin, address) : ""
const planned = computed(() => props.delivery.preview ?? props.delivery.plannedPreview)
</script>

<template>
  <div
    class="mb-4 grid gap-4 sm:grid-cols-2"
    :class="row?.base ? (becomes ? 'lg:grid-cols-4' : 'lg:grid-cols-3') : ''"
  >
    <ItemSide
      v-if="row?.base"
      whose="As delivered"
      none="is not remembered"
      :address="here"
      :picture="picture(delivery.basePreview, here)"
      :content="sides.data.value?.base"
    />
    <ItemSide
      whose="The site’s"
      none="has none"
      :address="here"
      :picture="picture(delivery.livePreview, here)"
      :content="sides.data.value?.site"
      :bytes="row?.site?.bytes"
    />
    <ItemSide
      whose="The kit’s"
      none="no longer has it"
      :address="row?.kit ? address : ''"
      :picture="picture(kit.data.value?.value.preview, row?.kit ? address : '')"
      :content="sides.data.value?.kit"
      :bytes="row?.kit?.bytes"
    />
    <ItemSide
      v-if="becomes && row?.base"
      whose="As it becomes"
      none=""
      :address="becomes"
      :picture="picture(planned, becomes)"
      :content="sides.data.value?.becomes"
    />
  </div>
</template>
