<script setup lang="ts">
import { ref } from "vue"
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue"

defineOptions({ inheritAttrs: false })
// Says what will happen before the button that does it, in the button's own words.
defineProps<{
  act: string
  title: string
  danger?: boolean
  busy?: boolean
  disabled?: boolean
  quiet?: boolean
}>()
const emit = defineEmits<{ act: [] }>()
const open = ref(false)
function go() {
  open.value = false
  emit("act")
}
</script>

<template>
  <button
    v-bind="$attrs"
    type="button"
    :class="quiet ? 'btn-quiet' : 'btn'"
    :disabled="busy || disabled"
    @click="open = true"
  >
    {{ busy ? "One moment…" : act }}
  </button>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-ink/30" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center p-4">
      <DialogPanel class="sheet w-full max-w-lg p-6 shadow-xl">
        <DialogTitle class="text-xl font-semibold">{{ title }}</DialogTitle>
        <div class="my-4"><slot /></div>
        <div class="flex flex-wrap justify-end gap-2">
          <button type="button" class="btn-quiet" @click="open = false">Cancel</button>
          <button type="button" :class="danger ? 'btn-call' : 'btn'" data-confirm @click="go">
            {{ act }}
          </button>
        </div>
      </DialogPanel>
    </div>
  </Dialog>
</template>
