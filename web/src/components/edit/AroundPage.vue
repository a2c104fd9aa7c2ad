<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useQuery } from "@tanstack/vue-query"
import PageProperties from "./PageProperties.vue"
import { usePages } from "../../composables/usePages"
import { api, result } from "../../api/client"
import type { PageActs } from "../../composables/usePageActs"

// What stands around the page, as strips above and below it: the parts in their roles, and above them what is known of
// the page itself.
const props = defineProps<{
  side: "above" | "below"
  site: string
  page: string
  draft: number | null
  step: number
  acts: PageActs
}>()
const surround = useQuery({
  queryKey: computed(() => ["surround", props.site, props.page, props.draft, props.step]),
  queryFn: () =>
    result(
      api.GET("/api/v1/sites/{site}/surround", {
        params: { path: { site: props.site }, query: { path: props.page, draft: props.draft ?? undefined } },
      }),
    ),
  placeholderData: (old) => old,
})
const { items, at } = usePages(toRef(props, "site"), toRef(props, "draft"))
const low = ["footer", "after-content", "overlay"]
const roles = computed(() =>
  (surround.data.value?.parts ?? []).filter(
    (p) => p.part && low.some((r) => p.role.startsWith(r)) === (props.side === "below"),
  ),
)
const all = computed(() => (surround.data.value?.parts ?? []).flatMap((p) => (p.part ? [p.part] : [])))
const titleOf = (address: string) =>
  items.data.value?.items.find((i) => i.address === address)?.meta.title ||
  address.slice(address.indexOf("/") + 1)
const pageItem = computed(() => at(props.page)?.item)
const changeable = computed(() => !!pageItem.value && props.acts.keeper.value)
const variants = (role: string) => [
  ...new Set(
    (items.data.value?.items ?? [])
      .filter((i) => i.address.startsWith("part/") && i.meta.role === role && i.meta.variant)
      .map((i) => String(i.meta.variant)),
  ),
]
const open = ref(false)
function leaveOut(role: string) {
  const list = [...(pageItem.value?.meta.without ?? []), role]
  void props.acts.run(
    [{ op: "page-without", page: props.page, value: list.join(" ") }],
    `${role} is left out on this page`,
  )
}
const without = computed(() => (pageItem.value?.meta.without ?? []).map(String))
const select = (role: string, address: string) => {
  const e = props.acts.outline.outline.value?.elements.find((e) => e.item === address && e.kind === "part")
  if (e) props.acts.to(e)
  else
    props.acts.says(`${titleOf(address)} stands in ${role}, and holds nothing that can be pointed at here.`)
}
</script>

<template>
  <div
    class="border-hair bg-paper px-3 py-1 text-sm"
    :class="side === 'above' ? 'border-b' : 'border-t'"
    :data-around="side"
  >
    <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
      <span class="text-faded">{{ side === "above" ? "Around this page" : "Below it" }}</span>
      <span v-for="p in roles" :key="p.role" class="flex items-center gap-1">
        <button type="button" class="link" @click="select(p.role, p.part!)">
          <b class="first-letter:uppercase">{{ p.role }}</b> {{ titleOf(p.part!) }}
        </button>
        <select
          v-if="changeable && variants(p.role).length"
          class="rounded border border-hair bg-white"
          :aria-label="`Variant of ${p.role}`"
          @change="
            acts.run([
              {
                op: 'page-variant',
                page,
                property: p.role,
                value: ($event.target as HTMLSelectElement).value,
              },
            ])
          "
        >
          <option value="">as everywhere</option>
          <option v-for="v in variants(p.role)" :key="v" :value="v">{{ v }}</option>
        </select>
        <button v-if="changeable" type="button" class="link text-faded" @click="leaveOut(p.role)">
          leave out<span class="sr-only"> {{ p.role }}</span>
        </button>
      </span>
      <template v-if="side === 'above'">
        <span v-for="r in without" :key="String(r)" class="text-faded"
          >{{ r }} is left out
          <button
            v-if="changeable"
            type="button"
            class="link"
            @click="acts.run([{ op: 'page-without', page, value: without.filter((o) => o !== r).join(' ') }])"
          >
            show it<span class="sr-only">: {{ r }}</span>
          </button></span
        >
        <button
          v-if="changeable"
          type="button"
          class="link ml-auto"
          :aria-expanded="open"
          data-page-properties
          @click="open = !open"
        >
          Title, address, width
        </button>
      </template>
    </div>
    <PageProperties
      v-if="open && pageItem && side === 'above'"
      :page="page"
      :item="pageItem"
      :step="step"
      :parts="all"
      :site="site"
      :draft="draft"
      :acts="acts"
    />
  </div>
</template>
