<script setup lang="ts">
import { computed } from "vue"
import ConflictChoice from "./ConflictChoice.vue"
import type { Schemas } from "../api/client"
import { conflictKey } from "../api/key"

// All conflicts of one item's blend: one by one, or all to one side.
const props = defineProps<{ row: Schemas["PlanRow"]; disabled: boolean }>()
const emit = defineEmits<{ decide: [about: string, word: string] }>()
const open = computed(() => (props.row.conflicts ?? []).filter((c) => !c.decision).length)
</script>

<template>
  <div v-if="row.conflicts?.length" class="mb-4">
    <div class="mb-2 flex flex-wrap items-center gap-2">
      <h3>
        {{ row.conflicts.length }}
        {{ row.conflicts.length === 1 ? "thing that both sides" : "things that both sides" }} changed<template
          v-if="open"
          >, {{ open }} open</template
        >
      </h3>
      <button
        type="button"
        class="btn-quiet ml-auto"
        :disabled="disabled"
        :data-decide="`${row.address}=blend:site`"
        @click="emit('decide', row.address, 'blend:site')"
      >
        All to the site
      </button>
      <button
        type="button"
        class="btn-quiet"
        :disabled="disabled"
        :data-decide="`${row.address}=blend:kit`"
        @click="emit('decide', row.address, 'blend:kit')"
      >
        All to the kit
      </button>
    </div>
    <ConflictChoice
      v-for="c in row.conflicts"
      :key="c.key"
      :conflict="c"
      :about="conflictKey(row.address, c.key)"
      :disabled="disabled"
      @decide="(w) => emit('decide', conflictKey(row.address, c.key), w)"
    />
  </div>
</template>
