import { onBeforeUnmount, onMounted, ref } from "vue"

/** What a page for picking tells of the element that somebody pointed at. */
export interface Picked {
  cpPick: string
  tag: string
  text: string
  bare: boolean
  href: string
  src: boolean
  fill: string
  /** Whether another element that can be chosen is around it. */
  around: boolean
}

/** Hears what is picked in frames of one origin. */
export function usePicked(origin: () => string) {
  const picked = ref<Picked | null>(null)
  function hear(e: MessageEvent) {
    if (origin() && new URL(origin()).origin === e.origin && typeof e.data?.cpPick === "string")
      picked.value = e.data as Picked
  }
  onMounted(() => window.addEventListener("message", hear))
  onBeforeUnmount(() => window.removeEventListener("message", hear))
  return picked
}

const tagWords: Record<string, string> = {
  p: "Text",
  a: "Link",
  img: "Picture",
  picture: "Picture",
  figure: "Picture",
  button: "Button",
  ul: "List",
  ol: "List",
  li: "Entry",
  table: "Table",
  form: "Form",
  nav: "Menu",
  section: "Section",
  header: "Head of the page",
  footer: "Foot of the page",
  main: "All between head and foot",
  video: "Film",
}

/** What an element is called, by its tag. */
export const tagWord = (tag: string) => (/^h[1-6]$/.test(tag) ? "Heading" : (tagWords[tag] ?? "Group"))

/** A path to an element in fewer words, for people. */
export const briefly = (path: string) =>
  path
    .replace(/^:scope > (html > body > )?/, "")
    .split(" > ")
    .slice(-3)
    .join(" > ")
