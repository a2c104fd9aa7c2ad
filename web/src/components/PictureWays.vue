<script setup lang="ts">
import { computed } from "vue"
import type { Schemas } from "../api/client"
import { weight } from "../composables/format"

/** How each picture travels: carried, made lighter, or as a placeholder; weights before and after. */
const props = defineProps<{ kit: Schemas["Kit"]; busy: boolean }>()
const emit = defineEmits<{ save: [body: Schemas["KitMetadata"]] }>()
const ways = {
  carried: "carried as it is",
  lighter: "made lighter",
  placeholder: "left out: a placeholder",
} as const
type Way = keyof typeof ways
const files = computed(() =>
  props.kit.items.filter((i) => /^media\/.*\.(jpe?g|png|gif|webp|avif|svg)$/i.test(i.address)),
)
const treated = (a: string) => props.kit.pictures.find((p) => p.address === a)
const all = computed(() => props.kit.media["*"] ?? { how: "carried" as Way })
const how = (a: string) => (props.kit.media[a]?.how ?? "") as Way | ""
const sum = computed(() =>
  files.value.reduce(
    (s, f) => ({ before: s.before + (treated(f.address)?.before ?? f.bytes), after: s.after + f.bytes }),
    { before: 0, after: 0 },
  ),
)
function say(a: string, way: string, width?: number) {
  const media = { ...props.kit.media }
  if (way) media[a] = { ...media[a], how: way as Way, ...(width ? { width } : {}) }
  else delete media[a]
  emit("save", { media })
}
</script>

<template>
  <p v-if="!files.length" class="text-faded">No picture comes along.</p>
  <template v-else>
    <div class="mb-4 flex flex-wrap items-end gap-4">
      <div>
        <label class="label" for="media-all">All pictures</label
        ><select
          id="media-all"
          class="field"
          :value="all.how"
          :disabled="busy"
          @change="say('*', ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="(says, w) in ways" :key="w" :value="w">{{ says }}</option>
        </select>
      </div>
      <div v-if="all.how === 'lighter'">
        <label class="label" for="media-width">Greatest width in pixels</label
        ><input
          id="media-width"
          type="number"
          min="64"
          max="20000"
          class="field max-w-36"
          :value="all.width || 1280"
          :disabled="busy"
          @change="say('*', 'lighter', Number(($event.target as HTMLInputElement).value))"
        />
      </div>
      <p class="pb-2.5 tabular-nums">
        <b>{{ weight(sum.after) }}</b> <span class="text-faded">of {{ weight(sum.before) }}</span>
      </p>
    </div>
    <div class="sheet overflow-x-auto">
      <table>
        <thead>
          <tr>
            <th>Picture</th>
            <th>Now</th>
            <th>Before</th>
            <th>Pixels</th>
            <th>How it travels</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="f in files" :key="f.address">
            <td class="addr">{{ f.address }}</td>
            <td>{{ weight(f.bytes) }}</td>
            <td>{{ treated(f.address) ? weight(treated(f.address)!.before) : "–" }}</td>
            <td>
              {{
                treated(f.address) ? `${treated(f.address)!.is} of ${treated(f.address)!.was}` : "as they are"
              }}
            </td>
            <td>
              <select
                class="field !min-h-9 !py-1"
                :value="how(f.address)"
                :disabled="busy"
                :aria-label="`How ${f.address} travels`"
                @change="say(f.address, ($event.target as HTMLSelectElement).value)"
              >
                <option value="">as all</option>
                <option v-for="(says, w) in ways" :key="w" :value="w">{{ says }}</option>
              </select>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
</template>
