<script setup lang="ts">
import { computed } from "vue"
import { useRoute } from "vue-router"
import SiteBar from "./SiteBar.vue"
import { useTitle } from "../composables/useTitle"

// What a place is: also in the window's title, and on a site the way to all that belongs to it.
const props = defineProps<{ title: string; back?: { to: string; label: string } }>()
const route = useRoute()
const site = computed(() => (typeof route?.params.site === "string" ? route.params.site : undefined))
const beside = computed(() => (site.value && route.path !== `/sites/${site.value}` ? site.value : undefined))
useTitle(() => [props.title, site.value])
</script>

<template>
  <SiteBar v-if="beside" :site="beside" />
  <header class="mb-6">
    <router-link v-if="back" :to="back.to" class="text-faded hover:text-ink">← {{ back.label }}</router-link>
    <div class="flex flex-wrap items-end justify-between gap-x-6 gap-y-3">
      <div class="min-w-0">
        <h1 class="break-words">{{ title }}</h1>
        <p class="mt-1 max-w-3xl text-faded"><slot name="about" /></p>
      </div>
      <div class="flex flex-wrap gap-2"><slot /></div>
    </div>
  </header>
</template>
