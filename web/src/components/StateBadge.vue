<script setup lang="ts">
import { computed, type FunctionalComponent } from "vue"
import {
  ArrowUturnLeftIcon,
  CheckCircleIcon,
  ClockIcon,
  EyeIcon,
  LockClosedIcon,
  MinusCircleIcon,
  PencilIcon,
  PlusCircleIcon,
  QuestionMarkCircleIcon,
  EqualsIcon,
} from "@heroicons/vue/16/solid"

import { stateWords, type BadgeState } from "../words"

const props = defineProps<{ state: BadgeState }>()
// Every state has its own icon and word; colour is never alone.
const looks: Record<BadgeState, [FunctionalComponent, string]> = {
  live: [CheckCircleIcon, "bg-calm-soft text-calm"],
  sealed: [LockClosedIcon, "bg-calm-soft text-calm"],
  met: [CheckCircleIcon, "bg-calm-soft text-calm"],
  staged: [EyeIcon, "bg-amber-soft text-amber"],
  planned: [ClockIcon, "bg-amber-soft text-amber"],
  opened: [ClockIcon, "bg-amber-soft text-amber"],
  making: [PencilIcon, "bg-amber-soft text-amber"],
  level: [EqualsIcon, "bg-calm-soft text-calm"],
  behind: [ClockIcon, "bg-amber-soft text-amber"],
  undone: [ArrowUturnLeftIcon, "bg-slate-soft text-slate"],
  new: [PlusCircleIcon, "bg-calm-soft text-calm"],
  same: [EqualsIcon, "bg-slate-soft text-slate"],
  taken: [QuestionMarkCircleIcon, "bg-call-soft text-call"],
  diverged: [QuestionMarkCircleIcon, "bg-call-soft text-call"],
  newer: [PlusCircleIcon, "bg-calm-soft text-calm"],
  edited: [PencilIcon, "bg-amber-soft text-amber"],
  inside: [CheckCircleIcon, "bg-calm-soft text-calm"],
  missing: [QuestionMarkCircleIcon, "bg-amber-soft text-amber"],
  older: [ClockIcon, "bg-amber-soft text-amber"],
  removed: [MinusCircleIcon, "bg-slate-soft text-slate"],
  withdrawn: [MinusCircleIcon, "bg-amber-soft text-amber"],
  "on-shelf": [PlusCircleIcon, "bg-calm-soft text-calm"],
  "too-old": [ClockIcon, "bg-amber-soft text-amber"],
  "too-new": [ClockIcon, "bg-amber-soft text-amber"],
}
const look = computed(() => looks[props.state])
</script>

<template>
  <span
    class="inline-flex items-center gap-1 whitespace-nowrap rounded-full px-2.5 py-0.5 text-sm font-semibold"
    :class="look[1]"
    ><component :is="look[0]" class="size-4" aria-hidden="true" />{{ stateWords[state] }}</span
  >
</template>
