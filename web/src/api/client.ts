import createClient from "openapi-fetch"
import { patient } from "./patient"
import { worded } from "./worded"
import type { components, paths } from "./schema.gen"

export type Schemas = components["schemas"]

/** What the service answers instead of a result (RFC 9457), as an error to throw. */
export class Problem extends Error {
  readonly type: Schemas["ProblemType"]
  readonly status: number
  readonly remedy?: Schemas["Remedy"]
  readonly details: unknown
  constructor(p: Partial<Schemas["Problem"]>) {
    super(
      p.said
        ? (p.about ? worded(p.about) + ": " : "") + worded(p.said)
        : (p.detail ?? "The service did not answer as expected."),
    )
    this.type = p.type ?? "internal"
    this.status = p.status ?? 0
    this.remedy = p.remedy
    this.details = p.details
  }
}

export const api = createClient<paths>({ baseUrl: "", fetch: patient })

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** Gives the result of a call, or throws the problem. */
export async function result<T>(call: Promise<Answer<T>>): Promise<T> {
  let r: Answer<T>
  try {
    r = await call
  } catch {
    throw new Problem({
      type: "unavailable",
      detail: "The service cannot be reached.",
      remedy: { code: "retry" },
    })
  }
  if (!r.response.ok) throw new Problem((r.error ?? {}) as Partial<Schemas["Problem"]>)
  return r.data as T
}

/** Like result, with the ETag to send back as If-Match. */
export async function tagged<T>(call: Promise<Answer<T>>): Promise<{ value: T; etag: string }> {
  let etag = ""
  const value = await result(
    call.then((r) => {
      etag = r.response.headers.get("ETag") ?? ""
      return r
    }),
  )
  return { value, etag }
}
