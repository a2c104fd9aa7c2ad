<script setup lang="ts">
import PageHead from "../components/PageHead.vue"
import PasswordForm from "../components/PasswordForm.vue"
import PeopleList from "../components/PeopleList.vue"
import SignInList from "../components/SignInList.vue"
import TokenList from "../components/TokenList.vue"
import { useSession } from "../composables/useSession"

const { session, may } = useSession()
const admin = may("admin")
</script>

<template>
  <PageHead title="Account">
    <template #about>{{ session.data.value?.name }}, {{ session.data.value?.role }}</template>
  </PageHead>
  <section v-if="admin" class="mb-10 max-w-3xl">
    <h2 class="mb-3">People</h2>
    <PeopleList :me="session.data.value?.name ?? ''" />
  </section>
  <section class="mb-10 max-w-3xl">
    <h2 class="mb-3">Password</h2>
    <PasswordForm />
  </section>
  <section class="mb-10 max-w-3xl">
    <h2 class="mb-3">Signed in</h2>
    <SignInList />
  </section>
  <section class="max-w-3xl">
    <h2 class="mb-3">Access tokens</h2>
    <p class="mb-3 text-faded">For the client and for programs.</p>
    <TokenList />
  </section>
</template>
