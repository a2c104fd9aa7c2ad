import { afterEach, beforeEach, describe, expect, it, vi } from "vitest"
import { patient } from "./patient"
import { Problem, result } from "./client"

const send = (method: string) => patient(new Request("http://hut.example/api/v1/x", { method }))
const answers = (...list: (Response | Error)[]) => {
  const seen: Request[] = []
  vi.stubGlobal("fetch", (r: Request) => {
    seen.push(r)
    const next = list[Math.min(seen.length, list.length) - 1]
    return next instanceof Error ? Promise.reject(next) : Promise.resolve(next.clone())
  })
  return seen
}

describe("a request that changes something", () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  it("is sent again under the same key when nobody knows what became of it", async () => {
    const seen = answers(new TypeError("broken"), new Response("", { status: 503 }), new Response("ok"))
    const answer = send("POST")
    await vi.runAllTimersAsync()
    expect(await (await answer).text()).toBe("ok")
    const keys = seen.map((r) => r.headers.get("Idempotency-Key"))
    expect(keys).toHaveLength(3)
    expect(new Set(keys).size).toBe(1)
    expect(keys[0]).toMatch(/^[0-9a-f]{32}$/)
  })

  it("has a key of its own each time", async () => {
    const seen = answers(new Response("ok"))
    await send("POST")
    await send("DELETE")
    expect(seen[0].headers.get("Idempotency-Key")).not.toBe(seen[1].headers.get("Idempotency-Key"))
  })

  it("is not sent again once it was answered", async () => {
    for (const status of [200, 400, 409, 500]) {
      const seen = answers(new Response("", { status }))
      expect((await send("PUT")).status).toBe(status)
      expect(seen).toHaveLength(1)
    }
  })

  it("waits for one that is still being done", async () => {
    const busy = new Response("", { status: 409, headers: { "Retry-After": "1" } })
    const seen = answers(busy, new Response("done"))
    const answer = send("PATCH")
    await vi.runAllTimersAsync()
    expect((await answer).status).toBe(200)
    expect(seen).toHaveLength(2)
  })

  it("is given up in the end", async () => {
    const seen = answers(new TypeError("broken"))
    const answer = send("POST").catch((e: Error) => e.message)
    await vi.runAllTimersAsync()
    expect(await answer).toBe("broken")
    expect(seen).toHaveLength(4)
  })

  it("that only reads is sent once, without a key", async () => {
    const seen = answers(new Response("", { status: 503 }))
    expect((await send("GET")).status).toBe(503)
    expect(seen).toHaveLength(1)
    expect(seen[0].headers.has("Idempotency-Key")).toBe(false)
  })
})

describe("a result", () => {
  it("is a problem when the service cannot be reached, with a remedy", async () => {
    const error = await result(Promise.reject(new TypeError("x"))).catch((e: Problem) => e)
    expect(error).toBeInstanceOf(Problem)
    expect((error as Problem).type).toBe("unavailable")
    expect((error as Problem).remedy?.code).toBe("retry")
  })

  it("is the problem that was answered, whatever it lacks", async () => {
    const response = new Response("", { status: 500 })
    const error = (await result(Promise.resolve({ response, error: undefined })).catch((e) => e)) as Problem
    expect(error.type).toBe("internal")
    expect(error.message).toBe("The service did not answer as expected.")
  })
})
