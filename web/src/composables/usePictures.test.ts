import { afterEach, beforeEach, describe, expect, it, vi } from "vitest"
import { effectScope, nextTick, ref } from "vue"

// Each test has a module of its own: what is known of pictures is kept in it.
async function fresh(answer: (wanted: { at: string; width: number }[]) => unknown) {
  vi.resetModules()
  const asked: { at: string; width: number }[][] = []
  vi.doMock("../api/client", () => ({
    api: {
      POST: async (_: string, { body }: { body: { pictures: { at: string; width: number }[] } }) => {
        asked.push(body.pictures)
        return answer(body.pictures)
      },
    },
    result: (x: unknown) => x,
  }))
  return { asked, ...(await import("./usePictures")) }
}

describe("pictures", () => {
  beforeEach(() => {
    vi.useFakeTimers()
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.doUnmock("../api/client")
  })

  it("are asked for together when they are in sight, and again while they wait", async () => {
    let round = 0
    const { asked, usePicture } = await fresh((list) => ({
      browser: true,
      pictures: list.map((w) => ({
        ...w,
        picture: ++round > 2 ? { state: "made", picture: w.at } : { state: "waiting" },
      })),
    }))
    const scope = effectScope()
    const sight = ref(false)
    const [a, b] = scope.run(() => [
      usePicture(ref("http://a/"), 1280, sight),
      usePicture(ref("http://b/"), 1280, sight),
    ])!
    await vi.advanceTimersByTimeAsync(100)
    expect(asked).toHaveLength(0)
    sight.value = true
    await nextTick()
    await vi.advanceTimersByTimeAsync(50)
    expect(asked[0].map((w) => w.at)).toEqual(["http://b/", "http://a/"]) // the last in sight first
    expect(a.value.state).toBe("waiting")
    await vi.advanceTimersByTimeAsync(2000)
    expect([a.value.state, b.value.state]).toEqual(["made", "made"])
    const before = asked.length
    await vi.advanceTimersByTimeAsync(20000)
    expect(asked).toHaveLength(before)
    scope.stop()
  })

  it("are not there where the service cannot be asked: the page is shown live", async () => {
    const { usePicture } = await fresh(() => {
      throw new Error("gone")
    })
    const scope = effectScope()
    const p = scope.run(() => usePicture(ref("http://a/"), 390, ref(true)))!
    await vi.advanceTimersByTimeAsync(50)
    expect(p.value.state).toBe("none")
    scope.stop()
  })
})
