<script setup lang="ts">
import { computed } from "vue"
import ConfirmAct from "./ConfirmAct.vue"
import ProblemNote from "./ProblemNote.vue"
import { useSignIns } from "../composables/useAccount"
import { browserName, moment } from "../composables/format"

const props = defineProps<{ user?: string }>()
const { signIns, end, endOthers } = useSignIns(props.user)
const list = computed(() => signIns.data.value?.sessions ?? [])
const everywhere = props.user ? "Sign out everywhere" : "Sign out everywhere else"
const others = computed(() => list.value.filter((s) => !s.here))
</script>

<template>
  <p v-if="signIns.data.value && !list.length" class="mb-3 text-faded">Nobody is signed in with a browser.</p>
  <ul v-if="list.length" class="sheet mb-4 divide-y divide-hair">
    <li v-for="s in list" :key="s.id" class="flex items-center justify-between gap-3 px-4 py-2.5">
      <span class="min-w-0">
        <b>{{ browserName(s.agent) }}</b>
        <span class="text-faded">
          from {{ s.place || "an unknown place" }}, since {{ moment(s.startedAt) }}</span
        >
        <span v-if="s.here" class="ml-2 rounded-full bg-calm-soft px-2 py-0.5 text-sm text-calm"
          >this one</span
        >
      </span>
      <ConfirmAct
        v-if="!s.here"
        quiet
        danger
        class="shrink-0"
        act="Sign out there"
        title="Sign out there?"
        @act="end.mutate(s.id)"
      >
        <p>Unsaved work in that browser is lost.</p>
      </ConfirmAct>
    </li>
  </ul>
  <ConfirmAct
    v-if="others.length > 1"
    quiet
    danger
    :act="everywhere"
    :title="`${everywhere}?`"
    @act="endOthers.mutate()"
  >
    <p>{{ others.length }} sign-ins end at once.</p>
  </ConfirmAct>
  <ProblemNote :error="signIns.error.value ?? end.error.value ?? endOthers.error.value" />
</template>
