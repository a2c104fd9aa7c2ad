<script setup lang="ts">
import { ref } from "vue"
import PersonRow from "./PersonRow.vue"
import ProblemNote from "./ProblemNote.vue"
import { roles, usePeople, type Role } from "../composables/useAccount"

defineProps<{ me: string }>()
const { people, add } = usePeople()
const form = ref({ name: "", password: "", role: "viewer" as Role })
async function send() {
  await add.mutateAsync({ ...form.value })
  form.value = { name: "", password: "", role: "viewer" }
}
</script>

<template>
  <ul class="sheet mb-4 divide-y divide-hair">
    <PersonRow v-for="u in people.data.value?.users ?? []" :key="u.name" :person="u" :self="u.name === me" />
  </ul>
  <form class="flex flex-wrap items-end gap-3" @submit.prevent="send().catch(() => {})">
    <div>
      <label class="label" for="n-name">Name</label>
      <input id="n-name" v-model="form.name" class="field max-w-48" maxlength="80" required />
    </div>
    <div>
      <label class="label" for="n-password">Password</label>
      <input
        id="n-password"
        v-model="form.password"
        type="password"
        class="field max-w-48"
        minlength="10"
        autocomplete="new-password"
        required
      />
    </div>
    <div>
      <label class="label" for="n-role">Role</label>
      <select id="n-role" v-model="form.role" class="field max-w-36">
        <option v-for="r in roles" :key="r">{{ r }}</option>
      </select>
    </div>
    <button class="btn" :disabled="add.isPending.value">Add a person</button>
  </form>
  <ProblemNote :error="people.error.value ?? add.error.value" />
</template>
