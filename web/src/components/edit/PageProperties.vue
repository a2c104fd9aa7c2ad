<script setup lang="ts">
import { ref } from "vue"
import { useRouter } from "vue-router"
import PageRegions from "./PageRegions.vue"
import type { Schemas } from "../../api/client"
import type { PageActs } from "../../composables/usePageActs"

// What is known of a page beside its content.
const props = defineProps<{
  site: string
  page: string
  draft: number | null
  item: Schemas["Item"]
  step: number
  parts: string[]
  acts: PageActs
}>()
const router = useRouter()
const address = ref(props.page)
const op = (name: Schemas["Operation"]["op"], value: string) =>
  props.acts.run([{ op: name, page: props.page, value }])
async function move() {
  if (address.value === props.page) return
  if (await op("page-address", address.value))
    router.replace({
      path: `/sites/${props.site}/edit${address.value}`,
      query: props.draft ? { draft: props.draft } : {},
    })
}
</script>

<template>
  <div class="grid gap-2 py-2 sm:grid-cols-2 lg:grid-cols-4">
    <label class="block"
      ><span class="font-semibold">Title</span>
      <input
        class="field min-h-9 py-1"
        :value="item.meta.title"
        data-page-title
        @change="op('page-title', ($event.target as HTMLInputElement).value)"
    /></label>
    <label class="block"
      ><span class="font-semibold">Address</span>
      <input v-model="address" class="field min-h-9 py-1" data-page-address @change="move" />
    </label>
    <label class="block"
      ><span class="font-semibold">Width</span>
      <select
        class="field min-h-9 py-1"
        :value="item.meta.width ?? 'text'"
        @change="op('page-width', ($event.target as HTMLSelectElement).value)"
      >
        <option value="text">text width</option>
        <option value="edge">edge to edge</option>
      </select></label
    >
    <div class="flex items-end gap-2">
      <button type="button" class="btn-quiet px-3 py-1" @click="op('page-hidden', 'yes')">
        Hide from search engines
      </button>
    </div>
    <PageRegions
      :site="site"
      :page="page"
      :item="item.address"
      :draft="draft"
      :step="step"
      :parts="parts"
      :acts="acts"
    />
  </div>
</template>
