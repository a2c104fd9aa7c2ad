<script setup lang="ts">
import { ref } from "vue"
import { ArrowUpTrayIcon } from "@heroicons/vue/24/outline"

const props = defineProps<{ says: string; accept: string; share: number | null }>()
const emit = defineEmits<{ file: [file: File] }>()
const over = ref(false)
function take(files: FileList | null | undefined) {
  over.value = false
  if (files?.[0] && props.share === null) emit("file", files[0])
}
</script>

<template>
  <!-- eslint-disable-next-line vuejs-accessibility/no-static-element-interactions -- the field inside does the same -->
  <div
    role="group"
    :aria-label="says"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="take($event.dataTransfer?.files)"
  >
    <label class="drop" :class="over ? 'border-ink bg-sheet' : 'border-hair'">
      <ArrowUpTrayIcon class="size-5 shrink-0" aria-hidden="true" />
      <span v-if="share === null">{{ says }}</span>
      <span v-else class="flex-1">
        Sending, {{ Math.round(share * 100) }} %
        <progress class="mt-1 block w-full" :value="share" max="1" />
      </span>
      <input
        type="file"
        class="sr-only"
        :accept="accept"
        @change="take(($event.target as HTMLInputElement).files)"
      />
    </label>
  </div>
</template>
