import { onBeforeUnmount, onMounted, shallowRef } from "vue"

/** What the page tells while it is edited. */
export interface Told {
  what: string
  number?: number
  [more: string]: unknown
}

/** How an element measures, as the browser computed it. */
export interface Measures {
  colour: string
  background: string
  font: string
  size: string
  within: string
  around: string
  align: string
  corners: string
  shadow: string
  grid: boolean
  columns: string
  gap: string
  picture: string
  width: number
  height: number
}

/** One frame with a page that is edited, and the port to its editing script. */
export interface Frame {
  el: HTMLIFrameElement
  key: string
  digest: string
  scripts: number
  port: MessagePort
}

export const makeKey = () =>
  Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("")

/**
 * Speaks with pages that are edited. A page announces itself by the key in the fragment of its frame's address; it is
 * believed by its window, its origin and that key, and from then on speaks through a port of its own.
 */
export function usePageFrame(on: { ready: (f: Frame) => void; told: (f: Frame, m: Told) => void }) {
  const waiting = new Map<string, HTMLIFrameElement>()
  const frames = shallowRef(new Map<string, Frame>())
  function expect(el: HTMLIFrameElement, key: string) {
    waiting.set(key, el)
  }
  function hear(e: MessageEvent) {
    const key: unknown = e.data?.cpEditing
    const el = typeof key === "string" ? waiting.get(key) : undefined
    if (
      !el ||
      typeof key !== "string" ||
      e.source !== el.contentWindow ||
      e.origin !== new URL(el.src).origin
    )
      return
    waiting.delete(key)
    const { port1, port2 } = new MessageChannel()
    port1.onmessage = (m: MessageEvent<Told>) => {
      const known = frames.value.get(key)
      if (known) on.told(known, m.data)
      else if (m.data.what === "ready") {
        const f = { el, key, digest: String(m.data.digest), scripts: Number(m.data.scripts), port: port1 }
        frames.value.set(key, f)
        on.ready(f)
      }
    }
    el.contentWindow?.postMessage({ cpKey: key }, e.origin, [port2])
  }
  const forget = (key: string) => {
    frames.value.get(key)?.port.close()
    frames.value.delete(key)
    waiting.delete(key)
  }
  onMounted(() => window.addEventListener("message", hear))
  onBeforeUnmount(() => {
    window.removeEventListener("message", hear)
    for (const key of [...frames.value.keys()]) forget(key)
  })
  return { expect, forget }
}
