import { describe, expect, it } from "vitest"
import { keep, kept, whole, written } from "./typing"

const t = { page: "/", element: "h1", run: 1 }

describe("words that are typed", () => {
  it("are written where they differ, in characters and not in code units", () => {
    expect(written(t, "A 🏔 hut", "A 🏔 warm hut")).toMatchObject({ from: 4, to: 4, value: "warm " })
    expect(written(t, "aaa", "aa")).toMatchObject({ from: 2, to: 3, value: "" })
    expect(written(t, "", "new")).toMatchObject({ from: 0, to: 0, value: "new" })
  })
  it("hold the space that a browser wrote so as not to lose it as a space", () => {
    expect(written(t, "a", "a\u00a0")).toMatchObject({ from: 1, to: 1, value: " " })
    expect(written(t, "a\u00a0b", "a\u00a0bc")).toMatchObject({ from: 3, to: 3, value: "c" })
  })
  it("are written whole where the page makes them", () => {
    expect(written({ ...t, run: 0 }, "old", "new")).toEqual({
      op: "text",
      page: "/",
      element: "h1",
      value: "new",
    })
    expect(whole({ ...t, first: "a", sent: "b", now: "c" })).toMatchObject({ run: 1, value: "c" })
  })
  it("are kept until they are sent", () => {
    const k = { draft: 3, seen: "2@5", done: [], operations: [written(t, "a", "b")], at: 1 }
    keep("hut", "/", k)
    expect(kept("hut", "/")).toEqual(k)
    expect(kept("hut", "/contact/")).toBeNull()
    localStorage.setItem("compact-parcel typing hut /", JSON.stringify({ ...k, seen: 2 })) // of an older console
    expect(kept("hut", "/")).toEqual({ ...k, seen: "" })
    keep("hut", "/", null)
    expect(kept("hut", "/")).toBeNull()
    localStorage.setItem("compact-parcel typing hut /", "{no json")
    expect(kept("hut", "/")).toBeNull()
  })
})
