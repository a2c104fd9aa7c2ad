import type { Problem, Schemas } from "./client"

const items = <T>(details: unknown) => (Array.isArray(details) ? (details as T[]) : [])
const line = (...parts: (string | undefined)[]) => parts.filter(Boolean).join(": ")

/** The single things behind a problem, a line each. What they are depends on its type. */
export function detailLines(problem: Problem): string[] {
  const plain = items<unknown>(problem.details).filter((d): d is string => typeof d === "string")
  if (plain.length) return plain
  switch (problem.type) {
    case "waits-for-decisions":
      return items<Schemas["Question"]>(problem.details).map((q) => q.message)
    case "decision-does-not-fit":
      return items<Schemas["Choice"]>(problem.details).map((c) =>
        line(c.to ? `${c.decision} ${c.to}` : c.decision, c.effect),
      )
    case "check-not-clean":
      return items<Schemas["Finding"]>(problem.details).map((f) => line(f.address, f.message))
    case "refused":
      return items<Schemas["Verdict"]>(problem.details).map((v) => line(v.path, v.why))
    case "stale":
      return items<Schemas["StaleItem"]>(problem.details).map((c) => line(c.address, c.message))
    case "bad-input":
    case "not-signed-in":
    case "forbidden":
    case "not-found":
    case "exists":
    case "too-many-attempts":
    case "too-large":
    case "unavailable":
    case "uncertain":
    case "done-before":
    case "disk-full":
    case "damaged":
    case "internal":
      return []
    default:
      return problem.type satisfies never
  }
}
