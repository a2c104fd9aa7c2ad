<script setup lang="ts">
import { useTitle } from "../composables/useTitle"
import { ref } from "vue"
import { useRouter } from "vue-router"
import { useMutation } from "@tanstack/vue-query"
import ProblemNote from "../components/ProblemNote.vue"
import { api, result } from "../api/client"

const router = useRouter()
const link = location.hash.slice(1)
const name = ref("")
const password = ref("")
const setUp = useMutation({
  mutationFn: () =>
    result(api.POST("/api/v1/setup", { body: { link, name: name.value.trim(), password: password.value } })),
  onSuccess: () => router.replace("/sign-in"),
})
useTitle(() => ["Set up"])
</script>

<template>
  <main class="grid min-h-screen place-items-center px-4">
    <form class="sheet w-full max-w-sm p-8" @submit.prevent="setUp.mutate()">
      <h1>The first admin</h1>
      <p class="mb-6 text-faded">This link works once. The account made here can make all others.</p>
      <label class="label" for="name">Name, in small letters</label>
      <input id="name" v-model="name" class="field mb-4" autocomplete="username" required />
      <label class="label" for="password">Password, ten characters or more</label>
      <input
        id="password"
        v-model="password"
        type="password"
        minlength="10"
        class="field"
        autocomplete="new-password"
        required
      />
      <ProblemNote :error="setUp.error.value" />
      <button class="btn mt-6 w-full" :disabled="!link || setUp.isPending.value">Make the first admin</button>
    </form>
  </main>
</template>
