<script setup lang="ts">
import { ref } from "vue"
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/vue"
import PickFrame from "./PickFrame.vue"
import type { Picked } from "../composables/usePicked"
import type { Schemas } from "../api/client"

/** Takes one element of a page or piece as a block or section of the kit. */
const props = defineProps<{ from: string; address: string; origin: string }>()
const emit = defineEmits<{ add: [pick: Schemas["Pick"]] }>()
const open = ref(false)
const picked = ref<Picked | null>(null)
const kind = ref("block")
const name = ref("")
function put() {
  if (!picked.value) return
  emit("add", {
    from: props.from,
    address: props.address,
    element: picked.value.cpPick,
    as: `${kind.value}/${name.value}`,
  })
  open.value = false
  picked.value = null
  name.value = ""
}
</script>

<template>
  <button type="button" class="link whitespace-nowrap text-sm" @click="open = true">an element</button>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-ink/30" aria-hidden="true" />
    <div class="fixed inset-0 overflow-y-auto p-4">
      <div class="grid min-h-full place-items-center">
        <DialogPanel class="sheet w-full max-w-5xl p-6 shadow-xl">
          <DialogTitle class="mb-1 text-xl font-semibold">Take one element of {{ address }}</DialogTitle>
          <p class="mb-3 text-faded">
            Point at it. It comes into the kit as a piece of its own, with the rules that make it look as it
            does here.
          </p>
          <PickFrame v-if="open" :origin="origin" :address="address" @picked="(p) => (picked = p)" />
          <form class="mt-3 flex flex-wrap items-end gap-3" @submit.prevent="put">
            <div>
              <label class="label" for="el-kind">It becomes a</label
              ><select id="el-kind" v-model="kind" class="field">
                <option>block</option>
                <option>section</option>
              </select>
            </div>
            <div>
              <label class="label" for="el-name">called</label
              ><input
                id="el-name"
                v-model="name"
                class="field"
                pattern="[a-z0-9][a-z0-9_.\-\/]*"
                placeholder="reasons-to-come"
                required
              />
            </div>
            <button class="btn" :disabled="!picked">Add to the kit</button
            ><button type="button" class="btn-quiet" @click="open = false">Cancel</button>
          </form>
        </DialogPanel>
      </div>
    </div>
  </Dialog>
</template>
