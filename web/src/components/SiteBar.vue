<script setup lang="ts">
import { useRoute } from "vue-router"
import { sitePlaces } from "../sitePlaces"

// From any view of a site to any other.
const props = defineProps<{ site: string }>()
const route = useRoute()
const here = (to: string) => {
  const at = `/sites/${props.site}${to && `/${to}`}`
  return route.path === at || (!!to && route.path.startsWith(at + "/"))
}
</script>

<template>
  <nav aria-label="The site" class="mb-4 flex flex-wrap gap-x-4 gap-y-1 border-b border-hair pb-2 text-sm">
    <router-link
      v-for="p in [{ to: '', says: 'Pages and parts' }, ...sitePlaces]"
      :key="p.to"
      :to="`/sites/${site}${p.to && `/${p.to}`}`"
      :aria-current="here(p.to) ? 'page' : undefined"
      class="py-1"
      :class="
        here(p.to)
          ? 'font-semibold'
          : 'text-faded underline decoration-hair underline-offset-4 hover:text-ink'
      "
      >{{ p.says }}</router-link
    >
  </nav>
</template>
