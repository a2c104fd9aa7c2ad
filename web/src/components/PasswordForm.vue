<script setup lang="ts">
import { computed, ref } from "vue"
import ProblemNote from "./ProblemNote.vue"
import { usePassword } from "../composables/useAccount"

const change = usePassword()
const form = ref({ old: "", new: "", again: "" })
const differ = computed(() => form.value.again !== "" && form.value.again !== form.value.new)
async function send() {
  if (differ.value) return
  await change.mutateAsync({ old: form.value.old, new: form.value.new })
  form.value = { old: "", new: "", again: "" }
}
</script>

<template>
  <form class="grid max-w-3xl gap-3 sm:grid-cols-3" @submit.prevent="send().catch(() => {})">
    <div>
      <label class="label" for="p-old">Password now</label>
      <input
        id="p-old"
        v-model="form.old"
        type="password"
        class="field"
        autocomplete="current-password"
        required
      />
    </div>
    <div>
      <label class="label" for="p-new">New password</label>
      <input
        id="p-new"
        v-model="form.new"
        type="password"
        class="field"
        minlength="10"
        autocomplete="new-password"
        required
      />
    </div>
    <div>
      <label class="label" for="p-again">New password, once more</label>
      <input
        id="p-again"
        v-model="form.again"
        type="password"
        class="field"
        minlength="10"
        autocomplete="new-password"
        :aria-invalid="differ"
        required
      />
    </div>
    <p v-if="differ" role="alert" class="text-call sm:col-span-3">The two new passwords are not the same.</p>
    <p v-if="change.isSuccess.value" role="status" class="text-calm sm:col-span-3">
      Your password is changed. You are signed out everywhere else.
    </p>
    <div class="sm:col-span-3">
      <ProblemNote :error="change.error.value" />
      <button class="btn" :disabled="differ || change.isPending.value">Change my password</button>
    </div>
  </form>
</template>
