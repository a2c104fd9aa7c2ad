<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useQueryClient } from "@tanstack/vue-query"
import FileDrop from "./FileDrop.vue"
import { api, result } from "../api/client"
import { useSetting } from "../composables/useSetting"
import type { useSiteEdits } from "../composables/useSiteEdits"

// The site's icon: one drop, all sizes made, shown in a tab and on a phone.
const props = defineProps<{
  site: string
  title: string
  draft: number | null
  keeper: boolean
  preview: string
  edits: ReturnType<typeof useSiteEdits>
}>()
const client = useQueryClient()
const { value } = useSetting<string>(toRef(props, "site"), toRef(props, "draft"), "icon", props.edits)
const source = computed(() =>
  typeof value.value === "string" && value.value ? `${props.preview}${value.value}` : "",
)
const share = ref<number | null>(null)
async function take(file: File) {
  share.value = 0
  await props.edits.act(async (draft) => {
    const got = await result(
      api.PUT("/api/v1/sites/{site}/icon", {
        params: { path: { site: props.site }, query: { draft } },
        body: file as unknown as string,
        bodySerializer: (b) => b as unknown as BodyInit,
        headers: { "Content-Type": "application/octet-stream" },
      }),
    )
    return got.says?.join(". ") || "The icon was made in all sizes"
  })
  share.value = null
  await client.invalidateQueries({ queryKey: ["items", props.site] })
}
</script>

<template>
  <section class="sheet p-4" data-icon>
    <h2 class="mb-3">The icon</h2>
    <div class="mb-3 flex flex-wrap items-end gap-6" aria-hidden="true">
      <span
        class="flex w-52 items-center gap-2 rounded-t-lg border border-b-0 border-hair bg-white px-3 py-1.5 text-sm"
      >
        <img v-if="source" :src="source" alt="" class="size-4" /><span
          v-else
          class="size-4 rounded-sm bg-slate-soft"
        /><span class="truncate">{{ title }}</span>
      </span>
      <span class="grid w-20 justify-items-center gap-1 text-xs">
        <img v-if="source" :src="source" alt="" class="size-14 rounded-xl bg-white" /><span
          v-else
          class="size-14 rounded-xl bg-slate-soft"
        /><span class="max-w-full truncate">{{ title }}</span>
      </span>
    </div>
    <FileDrop
      v-if="keeper"
      says="Drop a square picture here, or choose one: it is made in all sizes."
      accept="image/*"
      :share="share"
      @file="take"
    />
  </section>
</template>
