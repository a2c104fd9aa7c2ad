import type { components } from "./schema.gen"

type Message = components["schemas"]["Message"]
type Value = components["schemas"]["MessageValue"]

/** What a keeper calls the elements that HTML has names for. */
const elements: Record<string, string> = {
  a: "link",
  img: "picture",
  picture: "picture",
  nav: "menu",
  p: "text",
  ul: "list",
  ol: "list",
  li: "entry",
  table: "table",
  button: "button",
  form: "form",
  header: "header",
  footer: "footer",
  main: "main part",
  video: "video",
  svg: "drawing",
}
const kinds: Record<string, string> = { "record-type": "record type", media: "file", tokens: "look" }

const element = (tag: string) => (/^h[1-6]$/.test(tag) ? "heading" : (elements[tag] ?? "element"))

function item(address: string) {
  const at = address.indexOf("/")
  const kind = address.slice(0, at)
  return `${kinds[kind] ?? kind} “${address.slice(at + 1)}”`
}

/** A value as a keeper reads it: no selector, no KIND/KEY, no name of an element. */
function value(v: Value): string {
  switch (v.kind) {
    case "item":
      return item(v.text)
    case "element":
      return "what you pointed at"
    case "tag":
      return `this ${element(v.text)}`
    case "page":
      return v.text === "/" ? "the home page’s address" : v.text
    case "text":
      return v.text
    default:
      return v.kind satisfies never
  }
}

/** A sentence of the service with its values worded. Marks around what is worded otherwise go with it. */
export function worded(m: Message): string {
  const of = (n: string) => m.values?.[Number(n)] ?? { kind: "text" as const, text: "" }
  return m.pattern.replace(/\{\{|<\{(\d+)\}>|"\{(\d+)\}"|\{(\d+)\}/g, (all, angle, quoted, bare) => {
    if (all === "{{") return "{"
    const v = of(angle ?? quoted ?? bare)
    if (angle !== undefined && v.kind !== "tag") return `<${value(v)}>`
    if (quoted !== undefined && v.kind === "text") return `“${value(v)}”`
    return value(v)
  })
}
