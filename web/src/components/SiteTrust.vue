<script setup lang="ts">
import { computed, toRef } from "vue"
import { useSiteTrust, useTrustKeys } from "../composables/useTrust"
import ProblemNote from "./ProblemNote.vue"
import type { Schemas } from "../api/client"

const props = defineProps<{ site: string; editable: boolean }>()
const { trust, set } = useSiteTrust(toRef(props, "site"))
const { keys } = useTrustKeys()
const teams = computed(() => [...new Set(keys.data.value?.keys.map((k) => k.team) ?? [])])
const ways = { ignore: "signed or not", warn: "signed, or with a warning", require: "only when signed" }
const now = computed(() => trust.data.value ?? { policy: "ignore" as const, team: "" })
const say = (change: Partial<Schemas["SiteTrust"]>) => set.mutate({ ...now.value, ...change })
</script>

<template>
  <section v-if="trust.data.value">
    <h2 class="mb-2">Kits it takes</h2>
    <div class="flex flex-wrap gap-3">
      <select
        class="field max-w-64"
        :value="now.policy"
        :disabled="!editable"
        aria-label="Whether kits must be signed"
        @change="
          say({ policy: ($event.target as HTMLSelectElement).value as Schemas['SiteTrust']['policy'] })
        "
      >
        <option v-for="(says, w) in ways" :key="w" :value="w">{{ says }}</option>
      </select>
      <select
        v-if="now.policy !== 'ignore'"
        class="field max-w-64"
        :value="now.team"
        :disabled="!editable"
        aria-label="By whose keys"
        @change="say({ team: ($event.target as HTMLSelectElement).value })"
      >
        <option value="">by any trusted key</option>
        <option v-for="t in teams" :key="t" :value="t">by a key of {{ t }}</option>
      </select>
      <router-link class="link self-center" to="/trust">Trusted keys</router-link>
    </div>
    <ProblemNote :error="set.error.value" />
  </section>
</template>
