<script setup lang="ts">
import { ref, watch } from "vue"
import ConfirmAct from "./ConfirmAct.vue"
import StateBadge from "./StateBadge.vue"
import { moment } from "../composables/format"
import type { Schemas } from "../api/client"

const props = defineProps<{ outlet: Schemas["Outlet"]; keeper: boolean; busy: boolean }>()
const emit = defineEmits<{ publish: [body: Schemas["PublishOutlet"]]; remove: [] }>()
/** The release to be shown again: the one before, unless another is asked for. */
const back = ref<number>()
watch(
  () => props.outlet.release,
  (now) => (back.value = now - 1),
  { immediate: true },
)
</script>

<template>
  <li class="flex flex-wrap items-center justify-between gap-3 px-4 py-3">
    <div class="min-w-0">
      <p class="flex items-center gap-2">
        <b>{{ outlet.name }}</b> <StateBadge :state="outlet.behind ? 'behind' : 'level'" />
      </p>
      <p class="text-faded">
        <span class="addr break-all">{{ outlet.folder }}</span>, below {{ outlet.base }},
        {{ outlet.links }} links<template v-if="outlet.publishedAt">
          · release {{ outlet.release }}, {{ moment(outlet.publishedAt) }}</template
        >
      </p>
      <p v-if="outlet.message" class="mt-1 text-amber">{{ outlet.message }}</p>
    </div>
    <div v-if="keeper" class="flex flex-wrap items-center gap-2">
      <form
        v-if="outlet.release > 1"
        class="flex items-center gap-2"
        @submit.prevent="back && emit('publish', { back })"
      >
        <label class="self-center text-faded" :for="`back-${outlet.name}`">Release</label
        ><input
          :id="`back-${outlet.name}`"
          v-model.number="back"
          type="number"
          min="1"
          :max="outlet.release"
          class="field w-20"
        /><button class="btn-quiet" :disabled="!back || busy">Show it again</button>
      </form>
      <button
        v-if="!outlet.attempts"
        type="button"
        class="btn-quiet"
        :disabled="busy"
        @click="emit('publish', {})"
      >
        Publish now
      </button>
      <ConfirmAct
        v-else
        act="Overwrite"
        :title="`Overwrite what changed in ${outlet.folder}?`"
        :busy="busy"
        danger
        @act="emit('publish', { over: true })"
        ><p>
          Visitors no longer see what somebody changed in that folder. It stays in the previous release.
        </p></ConfirmAct
      >
      <ConfirmAct
        quiet
        danger
        act="Forget it"
        :title="`Forget the outlet ${outlet.name}?`"
        @act="emit('remove')"
        ><p>Going live no longer publishes there. The folder stays as it is.</p></ConfirmAct
      >
    </div>
  </li>
</template>
