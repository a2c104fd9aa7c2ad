<script setup lang="ts">
import { onBeforeUnmount, ref, shallowRef, toRef, watch } from "vue"
import type { EditorView } from "@codemirror/view"
import ProblemNote from "../ProblemNote.vue"
import { useDraftItem } from "../../composables/useDraftItem"
import { useEditItem, useItems } from "../../composables/useItems"

// The source of what the page is of, with completion of the site's classes, tokens and cp- elements. The editor is
// fetched when it is first wanted.
const props = defineProps<{
  site: string
  address: string
  draft: number | null
  inDraft: () => Promise<number>
}>()
const emit = defineEmits<{ saved: [] }>()
const item = useDraftItem(toRef(props, "site"), toRef(props, "address"), toRef(props, "draft"), ref(0))
const items = useItems(toRef(props, "site"), toRef(props, "draft"))
const edit = useEditItem()
const box = ref<HTMLElement>()
const view = shallowRef<EditorView>()
const changed = ref(false)
let etag = ""
async function show(content: string) {
  if (!box.value) return
  const { sourceEditor } = await import("./codemirror")
  view.value?.destroy()
  view.value = await sourceEditor({
    parent: box.value,
    content,
    site: props.site,
    draft: props.draft,
    items: items.data.value?.items ?? [],
    changed: () => {
      changed.value = true
    },
  })
}
watch(
  [() => item.data.value, box, () => items.data.value],
  ([d]) => {
    if (!d || (changed.value && view.value) || (view.value && d.etag === etag)) return
    etag = d.etag
    void show(d.value.content ?? "")
  },
  { immediate: true },
)
async function save() {
  const draft = await props.inDraft()
  const content = view.value?.state.doc.toString() ?? ""
  await edit.mutateAsync({ site: props.site, address: props.address, content, etag, draft })
  changed.value = false
  await item.refetch()
  emit("saved")
}
onBeforeUnmount(() => view.value?.destroy())
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col bg-white" data-source>
    <div class="flex items-center gap-3 border-b border-hair px-3 py-1 text-sm">
      <span class="addr flex-1">{{ address }}</span>
      <button
        type="button"
        class="btn px-3 py-1"
        :disabled="!changed || edit.isPending.value"
        @click="save().catch(() => {})"
      >
        Keep in the draft
      </button>
    </div>
    <ProblemNote :error="item.error.value ?? edit.error.value" />
    <div ref="box" class="min-h-0 flex-1 overflow-auto" />
  </div>
</template>
