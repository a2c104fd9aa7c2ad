<script setup lang="ts">
import { computed, ref, toRef } from "vue"
import { useRouter } from "vue-router"
import { PencilSquareIcon } from "@heroicons/vue/24/outline"
import EditedNote from "./EditedNote.vue"
import FoldPages from "./FoldPages.vue"
import NewMenu from "./NewMenu.vue"
import KitPages from "./KitPages.vue"
import PageRow from "./PageRow.vue"
import { usePages } from "../composables/usePages"
import { useSiteEdits } from "../composables/useSiteEdits"
import { anchorOf } from "../composables/format"
import type { Schemas } from "../api/client"

// The pages of a site as a tree with pictures: made, copied, renamed, moved and removed in my draft.
const props = defineProps<{ site: string; keeper: boolean }>()
const draft = defineModel<number | null>("draft", { required: true })
const router = useRouter()
const { items, pages: inOrder, home: homeAddress } = usePages(toRef(props, "site"), draft)
const edits = useSiteEdits(toRef(props, "site"), draft)
const all = computed(() => items.data.value?.items ?? [])
const pages = computed(() => inOrder.value.map((p) => p.item))
const home = computed(() => pages.value.find((p) => p.address === homeAddress.value) ?? null)
const menus = computed(() => all.value.filter((i) => i.address.startsWith("menu/")))
const several = ref(false)
const folding = ref(false)
const menu = ref(false)
const query = computed(() => (draft.value ? `?draft=${draft.value}` : ""))
const title = ref("")
const parent = ref("/")
const copyOf = ref("")
const address = computed(() => parent.value + anchorOf(title.value) + "/")
type Item = Schemas["Item"]
async function make() {
  const to = address.value
  const item = copyOf.value || undefined
  if (!(await edits.run([{ op: "page-new", page: to, value: title.value.trim(), item }]))) return
  title.value = copyOf.value = ""
  router.push(`/sites/${props.site}/edit${to}?draft=${draft.value}`)
}
const op = (i: Item, name: Schemas["Operation"]["op"], value?: string) =>
  edits.run([{ op: name, page: i.meta.slug, value }])
</script>

<template>
  <section aria-labelledby="pages-of-site" data-pages>
    <h2 id="pages-of-site" class="mb-2">Pages</h2>
    <EditedNote :edits="edits" :site="site" :draft="draft" />
    <ul class="sheet divide-y divide-hair">
      <PageRow
        v-for="p in pages"
        :key="p.address"
        :site="site"
        :page="p"
        :preview="items.data.value?.preview ?? ''"
        :query="query"
        :draft="draft"
        :keeper="keeper"
        :home="home"
        @title="(v) => op(p, 'page-title', v)"
        @address="(v) => op(p, 'page-address', v)"
        @hidden="(v) => op(p, 'page-hidden', v)"
        @remove="op(p, 'page-remove')"
        @home="(former) => op(p, 'page-home', former || undefined)"
        @copy="((copyOf = p.address), (title = `${p.meta.title} copy`))"
      />
    </ul>
    <form
      v-if="keeper"
      class="sheet mt-3 flex flex-wrap items-end gap-3 p-4"
      data-new-page
      @submit.prevent="make"
    >
      <div>
        <label class="label" for="new-page-title">New page</label>
        <input id="new-page-title" v-model="title" class="field w-56" placeholder="Its title" required />
      </div>
      <div>
        <label class="label" for="new-page-parent">Below</label>
        <select id="new-page-parent" v-model="parent" class="field w-44">
          <option value="/">the home page</option>
          <option
            v-for="p in pages.filter((p) => p.meta.slug?.endsWith('/') && p.meta.slug !== '/')"
            :key="p.address"
            :value="p.meta.slug"
          >
            {{ p.meta.title || p.meta.slug }}
          </option>
        </select>
      </div>
      <div>
        <label class="label" for="new-page-copy">As</label>
        <select id="new-page-copy" v-model="copyOf" class="field w-44">
          <option value="">an empty page</option>
          <option v-for="p in pages" :key="p.address" :value="p.address">
            a copy of {{ p.meta.title || p.address }}
          </option>
        </select>
      </div>
      <button class="btn" :disabled="!title.trim() || edits.busy.value">
        <PencilSquareIcon class="size-5" aria-hidden="true" />Make it and edit
      </button>
      <p v-if="title.trim()" class="w-full text-sm text-faded">
        Its address will be {{ address }}. It is in your draft until you go live.
      </p>
      <p class="flex w-full flex-wrap gap-x-4 gap-y-2">
        <button v-if="!several" type="button" class="link min-h-6" data-several-pages @click="several = true">
          Several pages of a kit at once
        </button>
        <button v-if="!folding" type="button" class="link min-h-6" @click="folding = true">
          Fold pages into one
        </button>
        <button v-if="!menu" type="button" class="link min-h-6" @click="menu = true">A new menu</button>
      </p>
    </form>
    <FoldPages v-if="keeper && folding" :pages="pages" :home="home" :edits="edits" @done="folding = false" />
    <NewMenu v-if="keeper && menu" :pages="pages" :menus="menus" :edits="edits" @done="menu = false" />
    <KitPages
      v-if="keeper && several"
      :site="site"
      :menus="menus"
      :pages="pages"
      :edits="edits"
      @done="several = false"
    />
  </section>
</template>
