import type { Measures } from "../../composables/usePageFrame"

/** A property of an appearance, and how it is chosen. */
export interface AppearanceFieldOf {
  property: string
  says: string
  kind: "colour" | "length" | "text" | "choice" | "media"
  choices?: [string, string][]
  /** What it is now, as the browser computed it. */
  is?: string
  /** The CSS property by which a change is seen at once. */
  css?: string
}

/** The properties of an appearance, those that are chosen most first. */
export function appearanceFields(m: Measures | null): AppearanceFieldOf[] {
  return [
    { property: "background", says: "Background", kind: "colour", is: m?.background },
    { property: "picture", says: "Background picture", kind: "media" },
    { property: "tint", says: "Tint of the picture", kind: "colour" },
    { property: "colour", says: "Colour of the words", kind: "colour", is: m?.colour, css: "color" },
    { property: "text-size", says: "Size of the words", kind: "length", is: m?.size, css: "font-size" },
    {
      property: "align",
      says: "Alignment",
      kind: "choice",
      choices: [
        ["left", "left"],
        ["center", "middle"],
        ["right", "right"],
        ["justify", "both sides"],
      ],
      is: m?.align,
    },
    { property: "space-within", says: "Space within", kind: "length", is: m?.within, css: "padding" },
    { property: "space-around", says: "Space around", kind: "length", is: m?.around, css: "margin" },
    {
      property: "width",
      says: "Width at most",
      kind: "length",
      is: m ? `${m.width}px` : "",
      css: "max-width",
    },
    {
      property: "height",
      says: "Height at least",
      kind: "length",
      is: m ? `${m.height}px` : "",
      css: "min-height",
    },
    {
      property: "columns",
      says: "Columns: a number, or shares",
      kind: "text",
      is: m?.grid ? m.columns : "2, or 1fr 2fr",
    },
    { property: "gap", says: "Gap between them", kind: "length", is: m?.gap },
    { property: "order", says: "Order", kind: "text" },
    { property: "border", says: "Border", kind: "text" },
    { property: "corners", says: "Corners", kind: "length", is: m?.corners, css: "border-radius" },
    { property: "shadow", says: "Shadow", kind: "text", is: m?.shadow },
    { property: "font", says: "Font", kind: "text", is: m?.font },
  ]
}

/** A length that is a step larger or smaller, in its own unit; "" where it is none. */
export function stepped(length: string, by: number): string {
  const m = /^(-?[\d.]+)(px|rem|em|%|)$/.exec(length.trim().split(" ")[0])
  if (!m) return ""
  const step = m[2] === "rem" || m[2] === "em" ? by / 4 : by
  return `${Math.round((Number(m[1]) + step) * 100) / 100}${m[2] || "px"}`
}

/** A computed colour as a colour field takes it. */
export function hex(colour?: string): string {
  const m = /^rgba?\((\d+), (\d+), (\d+)/.exec(colour ?? "")
  const part = (n: string) => Number(n).toString(16).padStart(2, "0")
  return m ? "#" + m.slice(1, 4).map(part).join("") : "#ffffff"
}
