<script setup lang="ts">
import { ref } from "vue"
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/vue"
import ConfirmAct from "./ConfirmAct.vue"
import ProblemNote from "./ProblemNote.vue"
import SignInList from "./SignInList.vue"
import TokenList from "./TokenList.vue"
import { roles, usePeople, type Role } from "../composables/useAccount"
import type { Schemas } from "../api/client"

const props = defineProps<{ person: Schemas["User"]; self: boolean }>()
const { change } = usePeople()
const password = ref("")
const set = (body: Schemas["UserChange"]) => change.mutate({ user: props.person.name, body })
async function give() {
  await change.mutateAsync({ user: props.person.name, body: { password: password.value } })
  password.value = ""
}
</script>

<template>
  <Disclosure v-slot="{ open }" as="li" class="px-4 py-2.5">
    <div class="flex flex-wrap items-center justify-between gap-3">
      <span>
        <b>{{ person.name }}</b> <span class="text-faded">{{ person.role }}</span>
        <span v-if="person.disabled" class="ml-2 rounded-full bg-slate-soft px-2 py-0.5 text-sm"
          >switched off</span
        >
      </span>
      <DisclosureButton class="link">{{ open ? "Close" : "Change" }} {{ person.name }}</DisclosureButton>
    </div>
    <DisclosurePanel class="grid gap-4 py-4">
      <div class="flex flex-wrap items-end gap-3">
        <div>
          <label class="label" :for="`role-${person.name}`">Role</label>
          <select
            :id="`role-${person.name}`"
            class="field"
            :value="person.role"
            @change="set({ role: ($event.target as HTMLSelectElement).value as Role })"
          >
            <option v-for="r in roles" :key="r">{{ r }}</option>
          </select>
        </div>
        <button v-if="person.disabled" class="btn-quiet" @click="set({ disabled: false })">
          Switch the account on
        </button>
        <ConfirmAct
          v-else-if="!self"
          quiet
          danger
          act="Switch the account off"
          :title="`Switch ${person.name} off?`"
          @act="set({ disabled: true })"
        >
          <p>
            {{ person.name }} is signed out everywhere, and access tokens are refused, until it is switched on
            again.
          </p>
        </ConfirmAct>
      </div>
      <form class="flex flex-wrap items-end gap-3" @submit.prevent="give().catch(() => {})">
        <div>
          <label class="label" :for="`password-${person.name}`"
            >New password, for somebody who has lost theirs</label
          >
          <input
            :id="`password-${person.name}`"
            v-model="password"
            type="password"
            class="field"
            minlength="10"
            autocomplete="new-password"
            required
          />
        </div>
        <button class="btn-quiet" :disabled="change.isPending.value">Give this password</button>
      </form>
      <ProblemNote :error="change.error.value" />
      <div v-if="!self">
        <h3 class="mb-2">Signed in</h3>
        <SignInList :user="person.name" />
        <h3 class="mb-2 mt-4">Access tokens</h3>
        <TokenList :user="person.name" />
      </div>
    </DisclosurePanel>
  </Disclosure>
</template>
