<script setup lang="ts">
import { ref } from "vue"
import { CheckBadgeIcon, QuestionMarkCircleIcon } from "@heroicons/vue/24/outline"
import type { Schemas } from "../api/client"
import FileDrop from "./FileDrop.vue"
import ProblemNote from "./ProblemNote.vue"
import { useImportKit } from "../composables/useKits"

/** Who signed a sealed kit, and how a signature gets on it: its private key never comes here. */
const props = defineProps<{ kit: Schemas["Kit"]; editable: boolean }>()
const upload = useImportKit()
const share = ref<number | null>(null)
async function take(file: File) {
  share.value = 0
  try {
    await upload.mutateAsync({
      file,
      progress: (s) => {
        share.value = s
      },
    })
  } finally {
    share.value = null
  }
}
const command = `cparcel kit sign ${props.kit.name}@${props.kit.version} --key FILE`
</script>

<template>
  <p v-if="!kit.signers.length" class="mb-3 text-faded">It is not signed.</p>
  <ul v-else class="sheet mb-4 divide-y divide-hair">
    <li v-for="s in kit.signers" :key="s.keyid" class="flex items-center gap-3 px-4 py-2.5">
      <component
        :is="s.trusted ? CheckBadgeIcon : QuestionMarkCircleIcon"
        class="size-6"
        :class="s.trusted ? 'text-calm' : 'text-amber'"
        aria-hidden="true"
      />
      <span v-if="s.trusted"
        ><b>{{ s.name }}</b
        >, a key that {{ s.team }} trusts <span class="addr text-faded">{{ s.keyid }}</span></span
      ><span v-else
        >A key that no team trusts <span class="addr text-faded">{{ s.keyid }}</span></span
      >
    </li>
  </ul>
  <template v-if="editable"
    ><p class="mb-3 text-faded">
      Sign it where the private key is: <code class="addr text-ink">{{ command }}</code>. Or sign the
      downloaded file, and drop it here.
    </p>
    <FileDrop
      says="Drop the signed .cpkit file here, or choose it."
      accept=".cpkit,.zip,application/zip"
      :share="share"
      @file="(f) => take(f).catch(() => {})"
  /></template>
  <ProblemNote :error="upload.error.value" />
</template>
