<script setup lang="ts">
import { computed, ref } from "vue"
import ConfirmAct from "./ConfirmAct.vue"
import ProblemNote from "./ProblemNote.vue"
import { roles, useTokens, type Role } from "../composables/useAccount"
import { useSession } from "../composables/useSession"
import { moment } from "../composables/format"

// Somebody else's tokens can be looked at and ended, not made.
const props = defineProps<{ user?: string }>()
const { tokens, make, drop } = useTokens(props.user)
const { session } = useSession()
const mine = computed(() => roles.slice(0, roles.indexOf((session.data.value?.role ?? "viewer") as Role) + 1))
const form = ref({ name: "", scope: "" as Role | "", days: 90 as number | "" })
async function send() {
  const { name, scope, days } = form.value
  await make.mutateAsync({ name, ...(scope && { scope }), ...(days && { days }) })
  form.value.name = ""
}
function about(t: { scope?: Role; createdAt: string; expiresAt?: string; usedAt?: string }) {
  const parts = [t.scope ? `as ${t.scope}` : "everything its owner may do", `made ${moment(t.createdAt)}`]
  parts.push(t.expiresAt ? `good until ${moment(t.expiresAt)}` : "good until it is ended")
  if (t.usedAt) parts.push(`last used ${moment(t.usedAt)}`)
  return parts.join(", ")
}
</script>

<template>
  <p v-if="make.data.value" role="status" class="mb-3 rounded-md bg-calm-soft px-4 py-3 text-calm">
    Your new token, shown only now:
    <code class="break-all font-mono text-ink">{{ make.data.value.token }}</code>
  </p>
  <p v-if="tokens.data.value && !tokens.data.value.tokens.length" class="mb-3 text-faded">
    There is no access token.
  </p>
  <ul v-if="tokens.data.value?.tokens.length" class="sheet mb-4 divide-y divide-hair">
    <li
      v-for="t in tokens.data.value.tokens"
      :key="t.id"
      class="flex flex-wrap items-center justify-between gap-3 px-4 py-2.5"
    >
      <span
        ><b>{{ t.name }}</b> <span class="text-faded">{{ about(t) }}</span></span
      >
      <ConfirmAct quiet danger act="End it" :title="`End the token “${t.name}”?`" @act="drop.mutate(t.id)">
        <p>Whatever uses it is signed out at once.</p>
      </ConfirmAct>
    </li>
  </ul>
  <form v-if="!user" class="flex flex-wrap items-end gap-3" @submit.prevent="send().catch(() => {})">
    <div>
      <label class="label" for="t-name">What it is for</label>
      <input id="t-name" v-model="form.name" class="field" maxlength="80" required />
    </div>
    <div>
      <label class="label" for="t-scope">What it may do</label>
      <select id="t-scope" v-model="form.scope" class="field">
        <option value="">everything I may do</option>
        <option v-for="r in mine" :key="r" :value="r">as {{ r }}</option>
      </select>
    </div>
    <div>
      <label class="label" for="t-days">Valid for, in days</label>
      <input
        id="t-days"
        v-model.number="form.days"
        type="number"
        min="1"
        max="1825"
        class="field max-w-32"
        placeholder="no end"
      />
    </div>
    <button class="btn" :disabled="make.isPending.value">Make a token</button>
  </form>
  <ProblemNote :error="make.error.value ?? drop.error.value ?? tokens.error.value" />
</template>
