import type { Schemas } from "./client"

type QuestionKind = Schemas["QuestionKind"]

/** The key of a decision: what it is about, and which one. An item's is its address. */
export function decisionKey(kind: QuestionKind, ...names: string[]): string {
  return kind === "item" ? names.join(":") : [kind, ...names].join(":")
}

/** The key of one conflict of an item. */
export const conflictKey = (address: string, key: string) => decisionKey("conflict", address, key)
