<script setup lang="ts">
import { computed, toRef } from "vue"
import { useRouter } from "vue-router"
import {
  ArrowLeftIcon,
  ArrowUturnLeftIcon,
  ArrowUturnRightIcon,
  CheckIcon,
  CloudArrowUpIcon,
  CodeBracketIcon,
  ComputerDesktopIcon,
  DevicePhoneMobileIcon,
  DeviceTabletIcon,
  EyeIcon,
  SignalSlashIcon,
} from "@heroicons/vue/24/outline"
import { usePages } from "../../composables/usePages"
import { pageName } from "../../composables/format"

const props = defineProps<{
  site: string
  page: string
  draft: number | null
  state: "offline" | "saving" | "saved" | "live"
  samples: number
  keeper: boolean
  origin: string
}>()
const width = defineModel<number>("width", { required: true })
const asVisitors = defineModel<boolean>("asVisitors", { required: true })
const source = defineModel<boolean>("source", { required: true })
const emit = defineEmits<{ undo: []; redo: []; sample: [] }>()
const router = useRouter()
const { pages, at } = usePages(toRef(props, "site"), toRef(props, "draft"))
const shown = computed(() => at(props.page)?.slug ?? props.page)
const title = computed(() => at(props.page)?.title ?? pageName(props.page))
const widths = [
  { px: 390, label: "Phone", icon: DevicePhoneMobileIcon },
  { px: 768, label: "Tablet", icon: DeviceTabletIcon },
  { px: 1280, label: "Desk", icon: ComputerDesktopIcon },
]
const states = {
  offline: { icon: SignalSlashIcon, says: "Not connected: kept here, and sent again", tone: "text-call" },
  saving: { icon: CloudArrowUpIcon, says: "Saving…", tone: "text-faded" },
  saved: { icon: CheckIcon, says: "Saved in your draft", tone: "text-calm" },
  live: { icon: EyeIcon, says: "As it is live", tone: "text-faded" },
}
const go = (slug: string) =>
  router.push({ path: `/sites/${props.site}/edit${slug}`, query: props.draft ? { draft: props.draft } : {} })
</script>

<template>
  <header class="flex flex-wrap items-center gap-x-3 gap-y-2 border-b border-hair bg-paper px-3 py-2">
    <router-link
      :to="`/sites/${site}`"
      class="flex items-center gap-1.5 rounded-md px-1.5 py-1 text-faded hover:text-ink"
    >
      <ArrowLeftIcon class="size-5" aria-hidden="true" /><span class="max-md:sr-only">{{ site }}</span>
    </router-link>
    <h1 class="sr-only">{{ title }}</h1>
    <select
      class="min-h-9 max-w-56 rounded-md border border-faded/60 bg-white px-2 font-semibold"
      aria-label="Page"
      :value="shown"
      @change="go(($event.target as HTMLSelectElement).value)"
    >
      <option v-if="!at(page)" :value="page">{{ title }}</option>
      <option v-for="p in pages" :key="p.slug" :value="p.slug">{{ p.title }}</option>
    </select>
    <div class="flex" role="group" aria-label="Width">
      <button
        v-for="w in widths"
        :key="w.px"
        type="button"
        class="flex items-center gap-1 border px-2 py-1 text-sm first:rounded-l-md last:rounded-r-md"
        :class="width === w.px ? 'border-ink bg-ink text-sheet' : 'border-hair bg-sheet'"
        :aria-pressed="width === w.px"
        :title="`${w.label}, ${w.px} px`"
        @click="width = w.px"
      >
        <component :is="w.icon" class="size-4" aria-hidden="true" />{{ w.px }}
      </button>
    </div>
    <div v-if="keeper" class="flex gap-1">
      <button
        type="button"
        class="btn-quiet min-h-9 px-2 py-1"
        title="Undo (Ctrl+Z)"
        :disabled="!draft"
        @click="emit('undo')"
      >
        <ArrowUturnLeftIcon class="size-4" aria-hidden="true" /><span class="max-lg:sr-only">Undo</span>
      </button>
      <button
        type="button"
        class="btn-quiet min-h-9 px-2 py-1"
        title="Redo (Ctrl+Y)"
        :disabled="!draft"
        @click="emit('redo')"
      >
        <ArrowUturnRightIcon class="size-4" aria-hidden="true" /><span class="max-lg:sr-only">Redo</span>
      </button>
    </div>
    <span class="flex items-center gap-1 text-sm" :class="states[state].tone" role="status" data-state>
      <component :is="states[state].icon" class="size-4" aria-hidden="true" />{{ states[state].says }}
    </span>
    <button
      v-if="samples"
      type="button"
      class="rounded-md border border-amber/50 bg-amber-soft px-2 py-1 text-sm font-semibold text-amber"
      data-samples
      @click="emit('sample')"
    >
      {{ samples === 1 ? "1 sample still stands here" : `${samples} samples still stand here` }}
    </button>
    <span class="flex-1" />
    <button
      type="button"
      class="btn-quiet min-h-9 px-2 py-1 text-sm"
      :aria-pressed="asVisitors"
      :class="asVisitors && 'border-ink'"
      @click="((asVisitors = !asVisitors), (source = false))"
    >
      <EyeIcon class="size-4" aria-hidden="true" />As visitors see it
    </button>
    <button
      type="button"
      class="btn-quiet min-h-9 px-2 py-1 text-sm"
      :aria-pressed="source"
      :class="source && 'border-ink'"
      @click="((source = !source), (asVisitors = false))"
    >
      <CodeBracketIcon class="size-4" aria-hidden="true" />Source
    </button>
    <router-link
      v-if="draft"
      class="btn min-h-9 px-3 py-1 text-sm"
      :to="`/sites/${site}/go-live?draft=${draft}`"
    >
      Go live…
    </router-link>
  </header>
</template>
