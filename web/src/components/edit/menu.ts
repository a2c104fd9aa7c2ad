/** An entry of a menu, as its source has it. */
export interface Entry {
  label: string
  to: string
  entries?: Entry[]
}

/** An entry at its place: 2, or 2.1 below it. */
export interface EntryRow extends Entry {
  place: string
  depth: number
  index: number
  of: number
}

/** The entries of a menu in order, those below each behind it. */
export function entryRows(entries: Entry[]): EntryRow[] {
  const out: EntryRow[] = []
  const add = (list: Entry[], before: string, depth: number) =>
    list.forEach((e, i) => {
      const place = before ? `${before}.${i + 1}` : String(i + 1)
      out.push({ ...e, place, depth, index: i, of: list.length })
      add(e.entries ?? [], place, depth + 1)
    })
  add(entries, "", 0)
  return out
}

/** The place that is some further on at the same level. */
export function sibling(place: string, by: number): string {
  const list = place.split(".")
  const last = Number(list.pop()) + by
  return [...list, String(last)].join(".")
}
