<script setup lang="ts">
import { computed } from "vue"
import ConfirmAct from "./ConfirmAct.vue"
import EmptyNote from "./EmptyNote.vue"
import { Problem, type Schemas } from "../api/client"
import { moment, short } from "../composables/format"

const props = defineProps<{ delivery: Schemas["Delivery"]; keeper: boolean; busy: boolean; error: unknown }>()
defineEmits<{ undo: [keepEdited: boolean] }>()
const r = computed(() => props.delivery.receipt)
const stale = computed(() => props.error instanceof Problem && props.error.type === "stale")
</script>

<template>
  <EmptyNote v-if="!r">The receipt is written when the delivery goes live.</EmptyNote>
  <template v-else>
    <div class="mb-6 flex flex-wrap items-center justify-between gap-4">
      <p v-if="delivery.state === 'live'">Live since {{ moment(r.at) }}, by {{ r.by }}, as revision {{ delivery.liveRevision }}. <a class="link" :href="delivery.livePreview + '/'" target="_blank" rel="noopener">Look at it as a visitor</a></p>
      <p v-else>Taken back, as revision {{ delivery.undoRevision }}. <a class="link" :href="delivery.livePreview + '/'" target="_blank" rel="noopener">Look at the site</a></p>
      <div v-if="delivery.state === 'live' && keeper" class="flex gap-2">
        <ConfirmAct v-if="stale" quiet danger act="Take back all else" :title="`Take ${delivery.kit} ${delivery.version} back, but for what was edited?`" @act="$emit('undo', true)"><p>What was edited since stays as it is; all else is again what it was before.</p></ConfirmAct>
        <ConfirmAct quiet danger act="Take it back" :title="`Take ${delivery.kit} ${delivery.version} back?`" :busy="busy" @act="$emit('undo', false)"><p>{{ r.wrote.length }} items of {{ delivery.site }} are again what they were before: visitors see the old pages at once. If something was edited since, nothing happens and you are told.</p></ConfirmAct>
      </div>
    </div>
    <div class="grid gap-6 lg:grid-cols-2">
      <section><h2 class="mb-3">What is left for a person</h2>
        <p v-if="!r.checklist.length" class="text-faded">Nothing.</p>
        <ul v-else class="sheet divide-y divide-hair"><li v-for="c in r.checklist" :key="c" class="px-4 py-2.5">{{ c }}</li></ul></section>
      <section><h2 class="mb-3">What it wrote</h2>
        <ul class="sheet divide-y divide-hair">
          <li v-for="w in r.wrote" :key="w" class="px-4 py-2.5"><router-link v-if="delivery.state === 'live'" class="link addr" :to="`/sites/${delivery.site}/${w}`">{{ w }}</router-link><span v-else class="addr">{{ w }}</span><span v-for="m in r.renames.filter((m) => m.to === w)" :key="m.from" class="text-faded"> was {{ m.from }} in the kit</span></li>
        </ul>
        <p v-if="r.kept.length" class="mt-3">Left as they are, since they were edited: <span class="addr">{{ r.kept.join(", ") }}</span></p></section>
    </div>
    <p class="mt-6 text-sm text-faded">The site’s digest before: <span class="addr">{{ short(r.before) }}</span>; after: <span class="addr">{{ short(r.after) }}</span></p>
  </template>
</template>
