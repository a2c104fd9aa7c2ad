<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useRouter } from "vue-router"
import { ArrowDownOnSquareIcon, PencilSquareIcon, PlusCircleIcon } from "@heroicons/vue/24/outline"
import KitDrop from "./KitDrop.vue"
import PieceThumb from "./PieceThumb.vue"
import { useSources } from "../composables/useSources"

// What one comes to a site for, the page to edit first.
const props = defineProps<{
  site: string
  preview: string
  draft: number | null
  keeper: boolean
  title: string
}>()
const router = useRouter()
const sources = useSources(toRef(props, "site"))
const behind = computed(() => (sources.data.value?.sources ?? []).filter((s) => s.state === "changed"))
const query = computed(() => (props.draft ? `?draft=${props.draft}` : ""))
const edit = computed(() => `/sites/${props.site}/edit/${query.value}`)
const dropping = ref(false)
</script>

<template>
  <div class="mb-8 grid gap-6 lg:grid-cols-[minmax(0,5fr)_minmax(0,4fr)]">
    <router-link :to="edit" class="sheet group block overflow-hidden hover:border-ink" data-open-to-edit>
      <PieceThumb :src="preview + '/'" :title="title" />
      <span class="flex items-center gap-2 px-4 py-3 text-lg font-semibold">
        <PencilSquareIcon class="size-6" aria-hidden="true" />{{
          keeper ? "Edit the home page" : "Look at the home page"
        }}
      </span>
    </router-link>
    <ul class="grid content-start gap-2 sm:grid-cols-2 lg:grid-cols-1">
      <li v-if="keeper">
        <a
          href="#pages-of-site"
          class="btn-quiet w-full justify-start"
          @click.prevent="router.push({ hash: '#new-page-title' })"
        >
          <PlusCircleIcon class="size-5" aria-hidden="true" />New page
        </a>
      </li>
      <li v-if="keeper">
        <router-link :to="`${edit}${query ? '&' : '?'}shelf=1`" class="btn-quiet w-full justify-start">
          <ArrowDownOnSquareIcon class="size-5" aria-hidden="true" />Use a piece
        </router-link>
      </li>
      <li v-if="keeper">
        <button
          type="button"
          class="btn-quiet w-full justify-start"
          :aria-expanded="dropping"
          @click="dropping = !dropping"
        >
          <ArrowDownOnSquareIcon class="size-5" aria-hidden="true" />Deliver a kit
        </button>
        <KitDrop v-if="dropping" class="mt-2" :site="site" />
      </li>
      <li v-if="behind.length" class="rounded-md border border-amber/40 bg-amber-soft px-4 py-2">
        <b>{{ behind.length }} {{ behind.length === 1 ? "piece is" : "pieces are" }} behind</b> what
        {{ behind.length === 1 ? "it" : "they" }} came from:
        <span v-for="(s, i) in behind.slice(0, 4)" :key="s.item"
          >{{ i ? ", " : ""
          }}<router-link class="link" :to="`/sites/${site}/${s.item}`">{{ s.item }}</router-link></span
        >
      </li>
    </ul>
  </div>
</template>
