<script setup lang="ts">
import { ref } from "vue"
import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import ConfirmAct from "../components/ConfirmAct.vue"
import { api, result } from "../api/client"
import { useSession } from "../composables/useSession"
import { moment } from "../composables/format"

const { session, may } = useSession()
const admin = may("admin")
const client = useQueryClient()
const tokens = useQuery({ queryKey: ["tokens"], queryFn: () => result(api.GET("/api/v1/access-tokens")) })
const name = ref("")
const make = useMutation({ mutationFn: () => result(api.POST("/api/v1/access-tokens", { body: { name: name.value } })), onSuccess: () => { name.value = ""; client.invalidateQueries({ queryKey: ["tokens"] }) } })
const drop = useMutation({ mutationFn: (id: number) => result(api.DELETE("/api/v1/access-tokens/{id}", { params: { path: { id } } })), onSuccess: () => client.invalidateQueries({ queryKey: ["tokens"] }) })
const users = useQuery({ queryKey: ["users"], queryFn: () => result(api.GET("/api/v1/users")), enabled: admin })
const person = ref({ name: "", password: "", role: "viewer" as "viewer" | "librarian" | "keeper" | "admin" })
const add = useMutation({ mutationFn: () => result(api.POST("/api/v1/users", { body: person.value })), onSuccess: () => { person.value = { name: "", password: "", role: "viewer" }; client.invalidateQueries({ queryKey: ["users"] }) } })
</script>

<template>
  <PageHead title="Account"><template #about>{{ session.data.value?.name }}, {{ session.data.value?.role }}</template></PageHead>
  <section class="mb-10 max-w-3xl">
    <h2 class="mb-3">Access tokens</h2>
    <p class="mb-3 text-faded">For the client and for programs. Each may do what you may do.</p>
    <p v-if="make.data.value" role="status" class="mb-3 rounded-md bg-calm-soft px-4 py-3 text-calm">Your new token, shown only now: <code class="break-all font-mono text-ink">{{ make.data.value.token }}</code></p>
    <ul v-if="tokens.data.value?.tokens.length" class="sheet mb-4 divide-y divide-hair"><li v-for="t in tokens.data.value.tokens" :key="t.id" class="flex items-center justify-between gap-3 px-4 py-2.5"><span><b>{{ t.name }}</b> <span class="text-faded">made {{ moment(t.createdAt) }}{{ t.usedAt ? `, last used ${moment(t.usedAt)}` : "" }}</span></span><ConfirmAct quiet danger act="End it" :title="`End the token “${t.name}”?`" @act="drop.mutate(t.id)"><p>Whatever uses it is signed out at once.</p></ConfirmAct></li></ul>
    <form class="flex flex-wrap gap-2" @submit.prevent="make.mutate()"><input v-model="name" class="field max-w-xs" placeholder="what it is for" aria-label="Name of the token" required><button class="btn">Make a token</button></form>
    <ProblemNote :error="make.error.value ?? drop.error.value ?? tokens.error.value" />
  </section>
  <section v-if="admin" class="max-w-3xl">
    <h2 class="mb-3">People</h2>
    <ul class="sheet mb-4 divide-y divide-hair"><li v-for="u in users.data.value?.users ?? []" :key="u.name" class="px-4 py-2.5"><b>{{ u.name }}</b> <span class="text-faded">{{ u.role }}</span></li></ul>
    <form class="flex flex-wrap gap-2" @submit.prevent="add.mutate()">
      <input v-model="person.name" class="field max-w-48" placeholder="name" aria-label="Name" required><input v-model="person.password" type="password" class="field max-w-48" placeholder="password" aria-label="Password" minlength="10" autocomplete="new-password" required>
      <select v-model="person.role" class="field max-w-36" aria-label="Role"><option>viewer</option><option>librarian</option><option>keeper</option><option>admin</option></select><button class="btn">Add a person</button>
    </form>
    <ProblemNote :error="add.error.value" />
  </section>
</template>
