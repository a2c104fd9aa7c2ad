<script setup lang="ts">
import { ref } from "vue"
import { useRouter } from "vue-router"
import ProblemNote from "./ProblemNote.vue"
import { api, result } from "../api/client"
import { useKits } from "../composables/useKits"

// A site's look becomes a kit: its tokens and stylesheets, with the pictures and fonts that they name.
const props = defineProps<{ site: string }>()
const router = useRouter()
const kits = useKits()
const busy = ref(false)
const problem = ref<unknown>(null)
const name = `${props.site}-look`
async function take() {
  busy.value = true
  problem.value = null
  try {
    const versions = (kits.data.value?.kits ?? []).filter((k) => k.name === name)
    let version = versions.find((k) => k.state === "making")?.version
    if (!version) {
      version = next(versions[0]?.version)
      await result(api.POST("/api/v1/kits", { body: { name, version } }))
    }
    await result(
      api.POST("/api/v1/kits/{kit}/{version}/picks", {
        params: { path: { kit: name, version } },
        body: { styles: props.site },
      }),
    )
    router.push(`/kits/${name}/${version}`)
  } catch (e) {
    problem.value = e
  } finally {
    busy.value = false
  }
}
function next(last?: string) {
  if (!last) return "0.1.0"
  const [a, b] = last.split(".").map(Number)
  return `${a}.${b + 1}.0`
}
</script>

<template>
  <button type="button" class="btn-quiet" :disabled="busy || !kits.data.value" data-look-along @click="take">
    Take this look along
  </button>
  <ProblemNote v-if="problem" :error="problem" />
</template>
