<script setup lang="ts">
import { computed, ref } from "vue"
import PageHead from "../components/PageHead.vue"
import ProblemNote from "../components/ProblemNote.vue"
import EmptyNote from "../components/EmptyNote.vue"
import ConfirmAct from "../components/ConfirmAct.vue"
import { useTrustKeys } from "../composables/useTrust"
import { useSession } from "../composables/useSession"
import { moment } from "../composables/format"

const { keys, add, drop } = useTrustKeys()
const keeper = useSession().may("keeper")
const form = ref({ team: "", name: "", key: "" })
const teams = computed(() =>
  [...new Set(keys.data.value?.keys.map((k) => k.team) ?? [])].map((team) => ({
    team,
    keys: keys.data.value!.keys.filter((k) => k.team === team),
  })),
)
async function trust() {
  await add.mutateAsync({ ...form.value })
  form.value = { team: form.value.team, name: "", key: "" }
}
async function read(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file) return
  form.value.key = await file.text()
  if (!form.value.name) form.value.name = file.name.replace(/\.[^.]*$/, "")
}
</script>

<template>
  <PageHead title="Trusted keys"
    ><template #about
      >Each team lists the keys whose signatures it trusts. Each site says whether it asks for one.</template
    ></PageHead
  >
  <ProblemNote :error="keys.error.value ?? drop.error.value" />
  <EmptyNote v-if="keys.data.value && !teams.length"
    >No key is trusted yet. Make a pair with <code class="addr">cparcel file keys new NAME</code>; the file
    NAME.pub is the one to trust.</EmptyNote
  >
  <section v-for="t in teams" :key="t.team" class="mb-8 max-w-3xl">
    <h2 class="mb-2">{{ t.team }}</h2>
    <ul class="sheet divide-y divide-hair">
      <li
        v-for="k in t.keys"
        :key="k.id"
        class="flex flex-wrap items-center justify-between gap-3 px-4 py-2.5"
      >
        <span
          ><b>{{ k.name }}</b> <span class="addr text-faded">{{ k.keyId }}</span>
          <span class="text-faded">since {{ moment(k.createdAt) }}</span></span
        >
        <ConfirmAct
          v-if="keeper"
          quiet
          danger
          act="Trust it no more"
          :title="`Stop trusting the key of ${k.name}?`"
          @act="drop.mutate(k.id)"
          ><p>
            Sites that ask for a key of {{ t.team }} will refuse kits signed only with this one. What was
            delivered stays.
          </p></ConfirmAct
        >
      </li>
    </ul>
  </section>
  <form
    v-if="keeper"
    class="sheet grid max-w-3xl gap-4 p-5 sm:grid-cols-2"
    @submit.prevent="trust().catch(() => {})"
  >
    <h2 class="sm:col-span-2">Trust a key</h2>
    <div>
      <label class="label" for="k-team">Team</label
      ><input id="k-team" v-model="form.team" class="field" placeholder="web room" required />
    </div>
    <div>
      <label class="label" for="k-name">Whose key it is</label
      ><input id="k-name" v-model="form.name" class="field" />
    </div>
    <div class="sm:col-span-2">
      <label class="label" for="k-key">The public key</label
      ><textarea
        id="k-key"
        v-model="form.key"
        class="field font-mono text-sm"
        rows="4"
        placeholder="-----BEGIN PUBLIC KEY-----"
        required
      /><label class="mt-2 inline-block link cursor-pointer"
        >or choose its .pub file<input type="file" class="sr-only" accept=".pub,.pem" @change="read"
      /></label>
    </div>
    <div class="sm:col-span-2">
      <ProblemNote :error="add.error.value" /><button class="btn" :disabled="add.isPending.value">
        Trust this key
      </button>
    </div>
  </form>
</template>
