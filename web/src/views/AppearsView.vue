<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import { useRouter } from "vue-router"
import { CheckIcon } from "@heroicons/vue/20/solid"
import EditedNote from "../components/EditedNote.vue"
import OverlayTrigger from "../components/OverlayTrigger.vue"
import PageHead from "../components/PageHead.vue"
import PieceThumb from "../components/PieceThumb.vue"
import ProblemNote from "../components/ProblemNote.vue"
import { useVocabulary } from "../composables/useVocabulary"
import { usePlacement } from "../composables/usePlacement"
import { useItems } from "../composables/useItems"
import { useMyDraft } from "../composables/useMyDraft"
import { useSession } from "../composables/useSession"
import { useSiteEdits } from "../composables/useSiteEdits"
import { anchorOf, pageName } from "../composables/format"
import { placementWords, pressed, writtenPlacement, type Placement } from "../composables/placement"
import type { Schemas } from "../api/client"

// Where a part appears: the pages, each with the part that it gets; presses make one sentence, which is done then.
const props = defineProps<{ site: string; part: string }>()
const router = useRouter()
const site = toRef(props, "site")
const { drafts, draft } = useMyDraft(site)
const keeper = useSession().may("keeper")
const edits = useSiteEdits(site, draft)
const items = useItems(site, draft)
const origin = computed(
  () =>
    drafts.data.value?.drafts.find((d) => d.id === draft.value)?.preview ?? items.data.value?.preview ?? "",
)
const proposed = ref<Placement | null>(null)
const where = computed(() => (proposed.value ? writtenPlacement(proposed.value) : null))
const found = usePlacement(site, toRef(props, "part"), draft, where)
const now = computed(() => found.data.value)
const title = computed(() => now.value?.title || props.part.slice(5))
const placement = computed<Placement>(
  () => proposed.value ?? { where: now.value?.where ?? [], unless: now.value?.unless ?? [] },
)
const types = computed(() =>
  (items.data.value?.items ?? [])
    .filter((i) => i.address.startsWith("record-type/"))
    .map((i) => i.address.slice(12)),
)
const names = {
  page: (path: string) => {
    const p = now.value?.pages.find((p) => p.path === path)
    return p?.title ? `“${p.title}”` : path
  },
  type: (t: string) => t.replaceAll("-", " "),
}
const sentence = computed(() => placementWords(placement.value, names))
const whole = computed(() => ["record", "listing", "search", "not-found"].includes(now.value?.role ?? ""))
const quick = computed(() => [
  ...(whole.value
    ? []
    : [
        { says: "All pages", target: "everywhere" },
        { says: "The home page", target: "home" },
      ]),
  ...types.value.flatMap((t) => [
    ...(whole.value && now.value?.role !== "record"
      ? []
      : [{ says: `Every ${names.type(t)}`, target: `records:${t}` }]),
    ...(whole.value && now.value?.role !== "listing"
      ? []
      : [{ says: `Lists of ${names.type(t)}`, target: `listing:${t}` }]),
  ]),
  ...(whole.value && now.value?.role !== "search" ? [] : [{ says: "Search results", target: "search" }]),
  ...(whole.value && now.value?.role !== "not-found"
    ? []
    : [{ says: "The not-found page", target: "not-found" }]),
])
const category = ref("")
const typeOf = ref("")
watch(types, (list) => (typeOf.value ||= list[0] ?? ""), { immediate: true })
const stands = (p: Schemas["PlacedPage"]) => p.part === props.part
const twice = computed(() => now.value?.pages.filter((p) => stands(p) && p.ties?.length) ?? [])
const depth = (path: string) => Math.max(0, path.split("/").length - 3)
const below = (path: string) =>
  path.endsWith("/") &&
  path !== "/" &&
  now.value?.pages.some((p) => p.path !== path && p.path.startsWith(path))
function press(target: string, covered: boolean) {
  proposed.value = pressed(placement.value, target, covered)
}
const isOn = (target: string) => placement.value.where.includes(target)
async function doIt() {
  const value = where.value
  if (value === null) return
  if (await edits.run([{ op: "part-where", item: props.part, value }])) proposed.value = null
}
const turn = (value: string) => edits.run([{ op: "part-off", item: props.part, value }])
async function copy() {
  const taken = new Set(items.data.value?.items.map((i) => i.address))
  let name = `${anchorOf(title.value)}-copy`
  for (let n = 2; taken.has(`part/${name}`); n++) name = `${anchorOf(title.value)}-copy-${n}`
  if (await edits.run([{ op: "part-copy", item: props.part, value: name }]))
    router.push(`/sites/${props.site}/appears/${name}`)
}
const meta = computed(() => items.data.value?.items.find((i) => i.address === props.part)?.meta)
const tried = computed(() => now.value?.pages.find(stands))
const { roles } = useVocabulary()
const role = (value: string) => edits.run([{ op: "part-role", item: props.part, value }])
const other = (p: Schemas["PlacedPage"]) => p.partTitle || p.part?.slice(5) || "none"
</script>

<template>
  <PageHead :title="`Where “${title}” appears`" :back="{ to: `/sites/${site}`, label: site }">
    <template #about>{{ now?.role }}<template v-if="now?.off">, switched off</template></template>
    <template v-if="keeper && now">
      <label class="flex items-center gap-2"
        >It is the
        <select
          class="field w-auto"
          :value="now.role"
          :disabled="edits.busy.value"
          data-role
          @change="role(($event.target as HTMLSelectElement).value)"
        >
          <option v-for="r in roles" :key="r.role" :value="r.role">{{ r.role.replaceAll("-", " ") }}</option>
        </select></label
      >
      <button
        type="button"
        class="btn-quiet"
        :disabled="edits.busy.value"
        @click="turn(now.off ? 'no' : 'yes')"
      >
        Switch it {{ now.off ? "on" : "off" }}
      </button>
      <button type="button" class="btn-quiet" :disabled="edits.busy.value" @click="copy">Make a copy</button>
      <router-link
        v-if="tried"
        class="btn"
        :to="`/sites/${site}/edit${tried.path}${draft ? `?draft=${draft}` : ''}`"
        >Edit it on a page</router-link
      >
    </template>
  </PageHead>
  <EditedNote :edits="edits" :site="site" :draft="draft" />
  <ProblemNote :error="found.error.value" />
  <template v-if="now">
    <section class="sheet sticky top-2 z-20 mb-4 p-4 shadow-sm" aria-live="polite" data-placement>
      <p class="text-lg">
        <b>{{ title }}</b> {{ sentence }}.
      </p>
      <p v-if="!placement.where.length" class="mt-1 text-amber">No page shows it then.</p>
      <p v-if="twice.length" class="mt-1 text-amber">
        On {{ twice.length }} {{ twice.length === 1 ? "page" : "pages" }} another part claims the same place
        as exactly: this one stands there because its name comes first.
      </p>
      <template v-if="proposed">
        <p v-if="now.gains.length" class="mt-1" data-gains>
          It comes to
          <template v-for="(p, i) in now.gains.slice(0, 8)" :key="p.path"
            >{{ i ? ", " : "" }}<b>{{ p.title || pageName(p.path) }}</b>
            <span class="text-faded"
              >({{ p.part ? `instead of ${other(p)}` : "where none stood" }})</span
            ></template
          ><template v-if="now.gains.length > 8"> and {{ now.gains.length - 8 }} more</template>.
        </p>
        <p v-if="now.losses.length" class="mt-1" data-losses>
          It goes from
          <template v-for="(p, i) in now.losses.slice(0, 8)" :key="p.path"
            >{{ i ? ", " : "" }}<b>{{ p.title || pageName(p.path) }}</b>
            <span class="text-faded"
              >({{ p.part ? `${other(p)} stands there then` : "none stands there then" }})</span
            ></template
          ><template v-if="now.losses.length > 8"> and {{ now.losses.length - 8 }} more</template>.
        </p>
        <p v-if="!now.gains.length && !now.losses.length" class="mt-1 text-faded">No page changes by it.</p>
        <p class="mt-2 flex gap-2">
          <button type="button" class="btn" :disabled="edits.busy.value" @click="doIt">
            Let it appear so
          </button>
          <button type="button" class="btn-quiet" @click="proposed = null">Cancel</button>
        </p>
      </template>
    </section>
    <OverlayTrigger
      v-if="now.role === 'overlay'"
      :trigger="meta?.trigger"
      :src="tried ? origin + tried.path : ''"
      :page="tried ? tried.title || pageName(tried.path) : ''"
      :keeper="keeper"
      :busy="edits.busy.value"
      @change="(value) => edits.run([{ op: 'part-trigger', item: part, value }])"
    />
    <div v-if="keeper" class="mb-4 flex flex-wrap gap-2" role="group" aria-label="Appears on">
      <button
        v-for="q in quick"
        :key="q.target"
        type="button"
        class="btn-quiet px-3 py-1"
        :class="isOn(q.target) && 'border-ink bg-slate-soft'"
        :aria-pressed="isOn(q.target)"
        :data-target="q.target"
        @click="press(q.target, false)"
      >
        <CheckIcon v-if="isOn(q.target)" class="size-4" aria-hidden="true" />{{ q.says }}
      </button>
      <form
        v-if="types.length && !['search', 'not-found'].includes(now.role)"
        class="flex gap-1"
        @submit.prevent="
          press(
            `${now.role === 'listing' ? 'listing' : 'records'}:${typeOf || types[0]}?category=${category}`,
            false,
          )
        "
      >
        <select v-if="types.length > 1" v-model="typeOf" class="field min-h-9 w-32 py-1" aria-label="Type">
          <option v-for="t in types" :key="t" :value="t">{{ names.type(t) }}</option>
        </select>
        <input
          v-model.trim="category"
          class="field min-h-9 w-40 py-1"
          placeholder="of a category"
          aria-label="Category"
        />
        <button class="btn-quiet px-3 py-1" :disabled="!category">Add</button>
      </form>
    </div>
    <p v-if="!now.pages.length" class="sheet px-4 py-3">No page of this site can show it.</p>
    <ul class="sheet divide-y divide-hair" aria-label="Pages">
      <li
        v-for="p in now.pages"
        :key="p.path"
        class="flex flex-wrap items-center gap-3 px-4 py-2"
        :style="{ paddingLeft: `${1 + depth(p.path) * 1.25}rem` }"
        :data-appears="p.path"
      >
        <PieceThumb
          bare
          class="w-20 shrink-0"
          :src="(items.data.value?.preview ?? '') + p.path"
          :title="p.title || p.path"
        />
        <span class="min-w-0 flex-1">
          <router-link
            class="link font-semibold"
            :to="`/sites/${site}/edit${p.path}${draft ? `?draft=${draft}` : ''}`"
            >{{ p.title || pageName(p.path) }}</router-link
          >
          <span class="block truncate text-faded">{{ p.path }}</span>
        </span>
        <a
          v-if="now.role === 'overlay' && stands(p)"
          class="link"
          :href="origin + p.path"
          target="_blank"
          rel="noopener"
          >Try it on {{ p.title || p.path }}</a
        >
        <span v-if="!stands(p)" class="text-faded" :title="p.why">{{ p.part ? other(p) : p.why }}</span>
        <button
          v-if="keeper && below(p.path)"
          type="button"
          class="btn-quiet px-2 py-1 text-sm"
          :aria-pressed="isOn(`under:${p.path}`)"
          @click="press(`under:${p.path}`, false)"
        >
          all below
        </button>
        <button
          type="button"
          class="btn-quiet w-32 px-2 py-1 text-sm"
          :class="stands(p) && 'border-calm bg-calm-soft text-calm'"
          :aria-pressed="stands(p)"
          :disabled="!keeper || found.isPlaceholderData.value"
          :aria-label="`${stands(p) ? 'appears' : 'let it appear'}: ${title} on ${p.title || p.path}`"
          @click="press(`page:${p.path}`, stands(p))"
        >
          <CheckIcon v-if="stands(p)" class="size-4" aria-hidden="true" />{{
            stands(p) ? "appears" : "let it appear"
          }}
        </button>
      </li>
    </ul>
  </template>
</template>
