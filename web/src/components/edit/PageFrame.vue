<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from "vue"
import { begin as underWay } from "../../underWay"
import { makeKey, usePageFrame, type Frame, type Told } from "../../composables/usePageFrame"

// The page as it looks, at a width, to be edited by pointing. When it is loaded again the new one is made ready out of
// sight and takes the place of the old one at the same height: nothing jumps.
const props = defineProps<{
  src: string
  width: number
  title: string
  /** Asks what is known of a page; what it gives is called when the page comes into sight. */
  load: (digest: string) => Promise<(() => Names) | null>
}>()
const emit = defineEmits<{ begins: []; told: [m: Told]; shown: [scripts: number] }>()
/** What the page says of its elements, by their numbers. */
export type Names = Record<
  number,
  { says: string; words: boolean; inline: boolean; grips: boolean; sample: boolean }
>
interface Slot {
  key: string
  src: string
  /** The frame's name: no two are alike. */
  name: string
}
let made = 0
const box = ref<HTMLElement>()
const room = ref({ width: 0, height: 0 })
const slots = ref<Slot[]>([])
const current = ref("")
let shown: Frame | null = null
let scrolled = 0
let wanted = ""
let typing = false
const loaded = new Set<string>()
/** Ends what is under way for a page that is being opened. */
let opened = () => {}
const scale = computed(() => Math.min(1, (room.value.width || props.width) / props.width))
const { expect, forget } = usePageFrame({ ready, told })
const post = (what: string, more: Record<string, unknown> = {}) => shown?.port.postMessage({ what, ...more })

function begin() {
  const key = makeKey()
  const before = opened
  opened = underWay()
  before()
  for (const s of slots.value.filter((s) => s.key !== current.value)) drop(s.key)
  wanted = key
  const url = new URL(props.src)
  url.searchParams.set("edit", "")
  url.hash = key
  slots.value = [...slots.value, { key, src: url.href, name: `page-${++made}` }]
  emit("begins")
}
function drop(key: string) {
  forget(key)
  loaded.delete(key)
  slots.value = slots.value.filter((s) => s.key !== key)
}
function mark(el: unknown, key: string) {
  if (el instanceof HTMLIFrameElement) expect(el, key)
}
async function ready(f: Frame) {
  if (f.key !== wanted) return
  const names = await props.load(f.digest)
  if (f.key !== wanted) return
  if (!names) return begin() // the page is another by now
  const until = Date.now() + 3000 // pictures may take longer than the words
  while (!loaded.has(f.key) && Date.now() < until) await new Promise((r) => setTimeout(r, 15))
  if (f.key !== wanted) return
  opened()
  if (typing) return // it lacks what is being typed: the page is loaded again when that ends
  const was = current.value
  shown = f
  f.port.postMessage({ what: "names", list: names(), scale: scale.value })
  f.port.postMessage({ what: "scroll", y: scrolled })
  current.value = f.key
  if (was) nextTick(() => drop(was))
  emit("shown", f.scripts)
}
function told(f: Frame, m: Told) {
  if (f !== shown) return
  if (m.what === "scrolled") scrolled = Number(m.y)
  if (m.what === "typing-begins") typing = true
  if (m.what === "typing-ends") typing = false
  emit("told", m)
}
watch(
  () => props.src,
  (now, was) => {
    if (new URL(now).pathname !== new URL(was).pathname) scrolled = 0
    begin()
  },
)
watch([scale, () => props.width], () => post("scale", { scale: scale.value }))
const watched = new ResizeObserver(() => {
  if (box.value) room.value = { width: box.value.clientWidth, height: box.value.clientHeight }
})
onMounted(() => {
  if (box.value) watched.observe(box.value)
  begin()
})
onBeforeUnmount(() => {
  opened()
  watched.disconnect()
})
const focus = () => shown?.el.focus()
defineExpose({ post, again: begin, focus })
</script>

<template>
  <div ref="box" class="relative min-h-0 flex-1 overflow-hidden bg-slate-soft" data-page-box>
    <iframe
      v-for="s in slots"
      :key="s.key"
      :ref="(el) => mark(el, s.key)"
      :src="s.src"
      :name="s.name"
      :title="s.key === current ? title : 'The page, being made ready'"
      :data-page-frame="s.key === current ? 'shown' : 'coming'"
      :aria-hidden="s.key !== current || undefined"
      :tabindex="s.key === current ? 0 : -1"
      sandbox="allow-scripts allow-same-origin"
      referrerpolicy="no-referrer"
      class="absolute top-0 origin-top-left border-0 bg-white"
      :class="s.key === current ? '' : 'pointer-events-none opacity-0'"
      :style="{
        width: `${width}px`,
        height: `${room.height / scale}px`,
        transform: `scale(${scale})`,
        left: `${Math.max(0, (room.width - width * scale) / 2)}px`,
      }"
      @load="loaded.add(s.key)"
    />
    <p v-if="!current" class="absolute inset-0 grid place-items-center text-faded" role="status">
      The page is being opened…
    </p>
    <slot />
  </div>
</template>
