<script setup lang="ts">
import { computed } from "vue"
import { useItem, useItems } from "../composables/useItems"
import { useKit, useKitItem } from "../composables/useKits"
import { alone, showable } from "../composables/format"
import type { Schemas } from "../api/client"
import ItemSide from "./ItemSide.vue"

// Both sides of an item: the site's as it is, the kit's as it was sealed.
const props = defineProps<{ site: string; address: string; row?: Schemas["PlanRow"]; kit: string }>()
const { kit } = useKit(computed(() => props.kit.split("@")[0]), computed(() => props.kit.split("@")[1]))
const here = computed(() => props.row?.site?.address ?? "")
const items = useItems(computed(() => (here.value ? props.site : "")))
const ours = useItem(computed(() => props.site), here)
const theirs = useKitItem(computed(() => props.kit), computed(() => (props.row?.kit ? props.address : "")))
const picture = (origin: string | undefined, address: string) => (origin && address && showable(address) && !address.startsWith("menu/") ? alone(origin, address) : "")
</script>

<template>
  <div class="mb-4 grid gap-4 sm:grid-cols-2">
    <ItemSide whose="The site’s" none="has none" :address="here" :picture="picture(items.data.value?.preview, here)" :content="ours.data.value?.value.content" :bytes="row?.site?.bytes" />
    <ItemSide whose="The kit’s" none="no longer has it" :address="row?.kit ? address : ''" :picture="picture(kit.data.value?.value.preview, row?.kit ? address : '')" :content="theirs.data.value?.content" :bytes="row?.kit?.bytes" />
  </div>
</template>
