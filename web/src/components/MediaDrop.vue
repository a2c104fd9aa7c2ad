<script setup lang="ts">
import { ref } from "vue"
import FileDrop from "./FileDrop.vue"
import ProblemNote from "./ProblemNote.vue"
import { mediaName, usePutMedia } from "../composables/useItems"

// A file becomes media of a site, in a draft: a new one under its own name, or another in the place of one that is
// there, everywhere it is used.
const props = defineProps<{ site: string; address?: string; etag?: string }>()
const put = usePutMedia()
const share = ref<number | null>(null)
async function take(file: File) {
  share.value = 0
  try {
    await put.mutateAsync({
      site: props.site,
      address: props.address ?? mediaName(file),
      etag: props.etag,
      file,
      progress: (s) => {
        share.value = s
      },
    })
  } finally {
    share.value = null
  }
}
</script>

<template>
  <FileDrop
    :says="
      address
        ? 'Drop a file here to replace this one everywhere it is used, or choose one.'
        : 'Drop a picture or another file here to add it, or choose one.'
    "
    accept=""
    :share="share"
    @file="(f) => take(f).catch(() => {})"
  />
  <ProblemNote :error="put.error.value" />
  <p v-if="put.data.value" role="status" class="my-3 rounded-md bg-calm-soft px-4 py-2 text-calm">
    It is in draft {{ put.data.value.draft }}; the live site is as it was.
    <a class="link" :href="put.data.value.preview" target="_blank" rel="noopener">Look at it</a>
  </p>
</template>
