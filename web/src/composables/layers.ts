import { relationWords } from "../words"
import type { Schemas } from "../api/client"

export interface Node {
  id: string
  layer: number
  x: number
  y: number
  picked: boolean
  need: "" | "needed" | "optional"
  bytes: number
}
export interface Edge {
  from: Node
  to: Node
  why: string
}
export interface Layers {
  nodes: Node[]
  edges: Edge[]
  heads: { says: string; x: number }[]
  width: number
  height: number
}

const kinds: [string, string[]][] = [
  ["Pages", ["page"]],
  ["Parts, sections, blocks", ["part", "section", "block"]],
  ["Menus, forms, records", ["menu", "form", "record-type", "record", "component"]],
  ["Styles", ["stylesheet", "tokens"]],
  ["Media", ["media"]],
  ["Needs of the site", []],
]
export const box = { width: 172, height: 28, gapX: 34, gapY: 11, top: 34 }

/** Lays what comes along out in columns by kind; what a column's items lean on is brought
 *  near them by ordering each column by the middle of its neighbours, to and fro
 *  (the barycentre heuristic of Sugiyama, Tagawa and Toda, 1981). */
export function layers(kit: Schemas["Kit"]): Layers {
  const nodes = new Map<string, Node>()
  const add = (id: string, layer: number, extra: Partial<Node>) =>
    nodes.set(id, { id, layer, x: 0, y: 0, picked: false, need: "", bytes: 0, ...extra })
  for (const i of kit.items) {
    const at = kinds.findIndex(([, list]) => list.includes(i.address.split("/")[0]))
    add(i.address, at < 0 ? 2 : at, { picked: i.picked, bytes: i.bytes })
  }
  const links: { from: string; to: string; why: string }[] = []
  for (const i of kit.items) {
    const seen = new Set<string>()
    const reasons = kit.state === "sealed" ? [] : i.reasons
    for (const r of reasons)
      if (!seen.has(r.from) && seen.add(r.from))
        links.push({ from: r.from, to: i.address, why: relationWords(r.relation, r.where) })
    if (kit.state === "sealed") for (const u of i.uses) links.push({ from: i.address, to: u, why: "uses it" })
  }
  for (const n of kit.needs) {
    const id = n.address || n.slug || ""
    if (nodes.has(id)) continue
    add(id, 5, { need: n.optional ? "optional" : "needed" })
    for (const i of kit.items) {
      const say = n.why.split("; ").find((w) => w.startsWith(i.address + " "))
      if (say) links.push({ from: i.address, to: id, why: say.slice(i.address.length + 1) })
    }
  }
  const edges = links.flatMap((l) => {
    const from = nodes.get(l.from)
    const to = nodes.get(l.to)
    return from && to ? [{ from, to, why: l.why }] : []
  })
  const columns = kinds.map((_, n) => [...nodes.values()].filter((v) => v.layer === n))
  for (let round = 0; round < 8; round++) {
    for (const column of round % 2 ? [...columns].reverse() : columns) {
      const place = new Map<Node, number>()
      for (const v of column) {
        const near = edges
          .flatMap((e) => (e.from === v ? [e.to] : e.to === v ? [e.from] : []))
          .filter((u) => u.layer !== v.layer)
        place.set(
          v,
          near.length ? near.reduce((sum, u) => sum + rank(columns, u), 0) / near.length : rank(columns, v),
        )
      }
      column.sort((a, b) => place.get(a)! - place.get(b)! || a.id.localeCompare(b.id))
    }
  }
  const used = columns.flatMap((c, n) => (c.length ? [{ c, says: kinds[n][0] }] : []))
  const tall = Math.max(1, ...used.map((u) => u.c.length))
  const height = box.top + tall * (box.height + box.gapY)
  used.forEach(({ c }, n) =>
    c.forEach((v, k) => {
      v.x = n * (box.width + box.gapX)
      v.y = box.top + (k + (tall - c.length) / 2) * (box.height + box.gapY)
    }),
  )
  return {
    nodes: [...nodes.values()],
    edges,
    heads: used.map((u, n) => ({ says: u.says, x: n * (box.width + box.gapX) })),
    width: used.length * (box.width + box.gapX) - box.gapX,
    height,
  }
}

const rank = (columns: Node[][], v: Node) => (columns[v.layer].indexOf(v) + 0.5) / columns[v.layer].length
