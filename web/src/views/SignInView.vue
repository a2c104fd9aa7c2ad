<script setup lang="ts">
import { useTitle } from "../composables/useTitle"
import { ref } from "vue"
import { useRoute, useRouter } from "vue-router"
import ProblemNote from "../components/ProblemNote.vue"
import { useSession } from "../composables/useSession"

const { signIn } = useSession()
const route = useRoute()
const router = useRouter()
const name = ref("")
const password = ref("")
async function go() {
  await signIn.mutateAsync({ name: name.value.trim(), password: password.value })
  const to =
    typeof route.query.to === "string" && route.query.to.startsWith("/") && !route.query.to.startsWith("//")
      ? route.query.to
      : "/library"
  router.replace(to)
}
useTitle(() => ["Sign in"])
</script>

<template>
  <main class="grid min-h-screen place-items-center px-4">
    <form class="sheet w-full max-w-sm p-8" @submit.prevent="go().catch(() => {})">
      <img src="/parcel.svg" alt="" class="mb-3 size-12" />
      <h1>Compact Parcel</h1>
      <p class="mb-6 text-faded">Sign in to the template library.</p>
      <label class="label" for="name">Name</label>
      <input id="name" v-model="name" class="field mb-4" autocomplete="username" required />
      <label class="label" for="password">Password</label>
      <input
        id="password"
        v-model="password"
        type="password"
        class="field"
        autocomplete="current-password"
        required
      />
      <ProblemNote :error="signIn.error.value" />
      <button class="btn mt-6 w-full" :disabled="signIn.isPending.value">Sign in</button>
    </form>
  </main>
</template>
