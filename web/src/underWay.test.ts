import { afterEach, beforeEach, describe, expect, it, vi } from "vitest"
import { effectScope } from "vue"
import { begin, during, useRest } from "./underWay"

// What other tests left under way does not count.
let before = 0
const told = () => Number(document.documentElement.dataset.underWay) - before

describe("what is under way", () => {
  beforeEach(() => {
    vi.useFakeTimers()
    before = 0
    before = told()
  })
  afterEach(() => {
    vi.useRealTimers()
  })

  it("is told in the document, also of what one end leads to", async () => {
    expect(told()).toBe(0)
    const end = begin()
    expect(told()).toBe(1)
    end()
    end()
    expect(told()).toBe(1)
    const next = begin() // before the first is taken off
    await vi.runAllTimersAsync()
    expect(told()).toBe(1)
    next()
    await vi.runAllTimersAsync()
    expect(told()).toBe(0)
  })

  it("ends with what is broken, too", async () => {
    await expect(during(() => Promise.reject(new Error("no")))).rejects.toThrow("no")
    await vi.runAllTimersAsync()
    expect(told()).toBe(0)
  })

  it("counts what waits for a rest, once, until it is done or dropped", async () => {
    const done: string[] = []
    const scope = effectScope()
    const rest = scope.run(() => useRest("do"))!
    rest.after(100, () => done.push("first"))
    await vi.advanceTimersByTimeAsync(60)
    rest.after(100, () => done.push("second"))
    await vi.advanceTimersByTimeAsync(60)
    expect(told()).toBe(1)
    await vi.advanceTimersByTimeAsync(60)
    expect(done).toEqual(["second"])
    expect(told()).toBe(0)
    rest.after(100, () => done.push("third"))
    rest.drop()
    await vi.runAllTimersAsync()
    expect(done).toEqual(["second"])
    expect(told()).toBe(0)
  })

  it("does what still waits when its component goes, or drops it", async () => {
    const done: string[] = []
    for (const leaving of ["do", "drop"] as const) {
      const scope = effectScope()
      scope.run(() => useRest(leaving))!.after(100, () => done.push(leaving))
      scope.stop()
      await vi.runAllTimersAsync()
    }
    expect(done).toEqual(["do"])
    expect(told()).toBe(0)
  })
})
