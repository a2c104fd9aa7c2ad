import type { Schemas } from "./api/client"

/** "7 styles and 29 properties": what a group of names holds that both sides define. */
export function groupSize(g: Schemas["NameGroup"]): string {
  const list = (
    [
      [g.classes, "style", "styles"],
      [g.properties, "property", "properties"],
      [g.animations, "animation", "animations"],
      [g.fonts, "font", "fonts"],
    ] as const
  )
    .filter(([n]) => n > 0)
    .map(([n, one, many]) => `${n} ${n === 1 ? one : many}`)
  return list.length > 1 ? `${list.slice(0, -1).join(", ")} and ${list.at(-1)}` : (list[0] ?? "")
}

/** Why a script keeps the names of a group as they are. */
export function scriptSays(s: Schemas["ScriptMention"]): string {
  const at = `${s.onSite ? "the site’s" : "the kit’s"} ${s.item}${s.line ? `, line ${s.line},` : ""}`
  return s.literal
    ? `${at} may name ${s.name} by “${s.literal}”`
    : `${at} runs a script that is not read here and may name anything`
}
