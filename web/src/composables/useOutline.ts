import { computed, shallowRef, type Ref } from "vue"
import { api, result, type Schemas } from "../api/client"
import { kindWords } from "../words"

export type Element = Schemas["OutlineElement"]

/** The outline of a page, with what is said of each element. */
export function useOutline(site: Ref<string>, page: Ref<string>, draft: Ref<number | null>) {
  const outline = shallowRef<Schemas["PageOutline"] | null>(null)
  const byNumber = computed(() => new Map((outline.value?.elements ?? []).map((e) => [e.number, e])))
  const items = computed(() => new Map((outline.value?.items ?? []).map((i) => [i.address, i])))
  const load = () =>
    result(
      api.GET("/api/v1/sites/{site}/outline", {
        params: { path: { site: site.value }, query: { path: page.value, draft: draft.value ?? undefined } },
      }),
    )
  const isOwn = (e: Element) => !e.item || e.item === outline.value?.page
  /** Whose an element is, in a sentence. */
  function whose(e: Element): string {
    const i = e.item ? items.value.get(e.item) : undefined
    if (!i || isOwn(e)) return e.made && !e.item ? "made by the page itself" : "this page’s own"
    const name = i.title || i.address.slice(i.address.indexOf("/") + 1)
    const what = `${kindWords[i.address.split("/")[0]] ?? ""} ${name}`.trim()
    return i.pages === 1 ? `${what} · on this page` : `${what} · on ${i.pages} pages`
  }
  /** What it is called: a part or section by its own title. */
  const nameOf = (e: Element) =>
    ((e.kind === "part" || e.kind === "section") && e.item && items.value.get(e.item)?.title) || e.name
  const called = (e: Element) => {
    const name = nameOf(e)
    return name ? `${elementWords[e.kind]} “${name}”` : elementWords[e.kind]
  }
  /** Those around an element, the outermost first. */
  function around(e: Element): Element[] {
    const out: Element[] = []
    for (let up = byNumber.value.get(e.parent); up; up = byNumber.value.get(up.parent)) out.unshift(up)
    return out
  }
  const beside = (e: Element) => (outline.value?.elements ?? []).filter((o) => o.parent === e.parent)
  const samples = computed(() => (outline.value?.elements ?? []).filter((e) => e.sample))
  return { outline, byNumber, items, load, whose, called, nameOf, around, beside, samples, isOwn }
}

/** What an element is, in a word. */
export const elementWords: Record<Schemas["OutlineKind"], string> = {
  heading: "Heading",
  text: "Text",
  inline: "Words",
  link: "Link",
  button: "Button",
  picture: "Picture",
  video: "Video",
  frame: "Frame of another site",
  list: "List",
  entry: "Entry",
  table: "Table",
  menu: "Menu",
  form: "Form",
  field: "Field",
  part: "Part",
  section: "Section",
  landmark: "Area",
  line: "Line",
  component: "Component",
  group: "Group",
}
