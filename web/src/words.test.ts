import { describe, expect, it } from "vitest"
import description from "../../api/openapi.yaml?raw"
import type { Schemas } from "./api/client"
import {
  candidateWords,
  conflictWords,
  deciderWords,
  relationWords,
  stateWords,
  versionWords,
  whereWords,
} from "./words"

/** The values of an enumeration in the description of the interface. */
function values(schema: string): string[] {
  const found = new RegExp(`\\n {4}${schema}:\\n(?: {6}.*\\n)*? {6}enum: \\[([^\\]]*)\\]`).exec(description)
  return found![1].split(",").map((v) => v.trim())
}

describe("words", () => {
  it.each([
    ["Standing", stateWords],
    ["DeliveryState", stateWords],
    ["KitState", stateWords],
    ["NeedState", stateWords],
    ["DecidedBy", deciderWords],
    ["CandidateBy", candidateWords],
    ["ConflictKind", conflictWords],
    ["VersionStanding", versionWords],
  ] as [string, Record<string, string>][])("has one for every %s", (schema, words) => {
    const all = values(schema)
    expect(all.length).toBeGreaterThan(1)
    for (const v of all) expect(words[v], v).toBeTruthy()
  })

  it("says in which way an item leans on another", () => {
    for (const r of values("Relation") as Schemas["Relation"][]) expect(relationWords(r), r).toBeTruthy()
    const where: Schemas["Where"] = { in: "attribute", tag: "img", name: "src" }
    expect(whereWords(where)).toBe("<img src>")
    expect(relationWords("names", where)).toBe("uses it in <img src>")
  })
})
