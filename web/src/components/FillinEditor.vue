<script setup lang="ts">
import { ref, watch } from "vue"
import type { Schemas } from "../api/client"
import { useVocabulary } from "../composables/useVocabulary"

const props = defineProps<{ kit: Schemas["Kit"]; readonly: boolean; busy: boolean }>()
const emit = defineEmits<{ save: [body: Schemas["KitMetadata"]] }>()
const { vocabulary } = useVocabulary()
const rows = ref<Schemas["Fillin"][]>([])
watch(
  () => props.kit,
  (k) => {
    rows.value = k.fillins.map((f) => ({ ...f }))
  },
  { immediate: true },
)
const save = () => emit("save", { fillins: Object.fromEntries(rows.value.map((f) => [f.name, f])) })
</script>

<template>
  <ul class="sheet divide-y divide-hair">
    <li v-for="f in rows" :key="f.name" class="px-4 py-3">
      <template v-if="readonly"
        ><b>{{ f.label }}</b> <span class="addr text-faded">{{ f.name }}</span> · {{ f.type
        }}{{ f.required ? ", required" : "" }} · sample “{{ f.sample }}”</template
      >
      <div v-else class="flex flex-wrap items-center gap-3">
        <span class="addr text-faded">{{ f.name }}</span>
        <input v-model="f.label" class="field max-w-52" :aria-label="`Label of ${f.name}`" />
        <select v-model="f.type" class="field max-w-36" :aria-label="`Type of ${f.name}`">
          <option v-for="t in vocabulary.data.value?.fillinTypes ?? [f.type]" :key="t">{{ t }}</option>
        </select>
        <label class="flex items-center gap-2"
          ><input v-model="f.required" type="checkbox" class="size-4" />required</label
        >
      </div>
    </li>
  </ul>
  <button v-if="!readonly" class="btn-quiet mt-3" :disabled="busy" @click="save">Save the blanks</button>
</template>
