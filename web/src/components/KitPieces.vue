<script setup lang="ts">
import { computed, ref, watch } from "vue"
import type { Schemas } from "../api/client"
import PreviewFrame from "./PreviewFrame.vue"
import { alone, showable } from "../composables/format"

/** The pieces of a kit as they look, one at a time. */
const props = defineProps<{ kit: Schemas["Kit"]; stamp: string }>()
const pieces = computed(() => props.kit.items.map((i) => i.address).filter(showable))
const piece = ref("")
watch(pieces, (p) => { if (!p.includes(piece.value)) piece.value = p[0] ?? "" }, { immediate: true })
</script>

<template>
  <p v-if="!pieces.length" class="text-faded">There is nothing in it that can be shown.</p>
  <template v-else><select v-model="piece" class="field mb-3 max-w-80" aria-label="The piece"><option v-for="a in pieces" :key="a">{{ a }}</option></select>
    <PreviewFrame :key="piece + stamp" :src="alone(kit.preview, piece)" :title="piece" tall /></template>
</template>
