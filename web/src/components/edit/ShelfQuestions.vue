<script setup lang="ts">
import { ref } from "vue"
import type { Schemas } from "../../api/client"

defineProps<{ asked: Schemas["Question"][]; busy: boolean }>()
const emit = defineEmits<{ answer: [q: Schemas["Question"], word: string]; cancel: [] }>()
const value = ref("")
const written = (c: Schemas["Choice"]) => (c.to ? `${c.decision}:${c.to}` : c.decision)
</script>

<template>
  <div
    class="border-y border-call/40 bg-call-soft px-3 py-2"
    role="group"
    aria-label="Questions"
    data-shelf-questions
  >
    <template v-for="q in asked.slice(0, 1)" :key="q.key">
      <p class="font-semibold">
        {{ q.message }} <span v-if="asked.length > 1" class="text-faded">({{ asked.length }} questions)</span>
      </p>
      <form
        v-if="q.kind === 'fill'"
        class="mt-1 flex gap-2"
        @submit.prevent="(emit('answer', q, value), (value = ''))"
      >
        <input v-model="value" class="field min-h-9 max-w-sm py-1" :aria-label="q.message" /><button
          class="btn shrink-0 px-3 py-1 whitespace-nowrap"
          :disabled="!value || busy"
        >
          Go on
        </button>
        <button type="button" class="link" @click="emit('cancel')">Cancel</button>
      </form>
      <div v-else class="mt-1 flex flex-wrap gap-2">
        <button
          v-for="c in q.choices.filter((c) => c.decision !== 'map')"
          :key="written(c)"
          type="button"
          class="btn-quiet px-3 py-1 text-left text-sm"
          :disabled="busy"
          :data-decide="`${q.key}=${written(c)}`"
          @click="emit('answer', q, written(c))"
        >
          {{ c.effect }}
        </button>
        <button type="button" class="link" @click="emit('cancel')">Cancel</button>
      </div>
    </template>
  </div>
</template>
