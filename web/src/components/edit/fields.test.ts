import { describe, expect, it } from "vitest"
import { hex, stepped } from "./appearance"
import { entryRows, sibling } from "./menu"
import { problemsOf } from "./codemirror"

describe("lengths and colours", () => {
  it("go up and down in their own unit", () => {
    expect(stepped("16px", 1)).toBe("17px")
    expect(stepped("1rem", -1)).toBe("0.75rem")
    expect(stepped("12px 4px", 10)).toBe("22px")
    expect(stepped("auto", 1)).toBe("")
  })
  it("become what a colour field takes", () => {
    expect(hex("rgb(28, 93, 58)")).toBe("#1c5d3a")
    expect(hex("rgba(0, 0, 0, 0.5)")).toBe("#000000")
    expect(hex(undefined)).toBe("#ffffff")
  })
})

describe("entries of a menu", () => {
  const rows = entryRows([
    { label: "Hut", to: "/", entries: [{ label: "Rooms", to: "/rooms/" }] },
    { label: "Contact", to: "/contact/" },
  ])
  it("stand in order, those below each behind it", () => {
    expect(rows.map((r) => [r.place, r.depth, r.index, r.of])).toEqual([
      ["1", 0, 0, 2],
      ["1.1", 1, 0, 1],
      ["2", 0, 1, 2],
    ])
  })
  it("have neighbours at their own level", () => {
    expect(sibling("2", -1)).toBe("1")
    expect(sibling("1.2.3", 1)).toBe("1.2.4")
  })
})

describe("problems of a source", () => {
  const items = [{ address: "section/hours" }, { address: "media/hut.jpg" }]
  const said = (text: string) => problemsOf(text, items).map((p) => p.message)
  it("are what the site does not have", () => {
    expect(said('<cp-section name="hours"></cp-section><img src="/media/hut.jpg">')).toEqual([])
    expect(said('<cp-section name="gone"></cp-section>')).toEqual(["There is no section/gone."])
    expect(said("<cp-sectoin>")).toEqual(["The page engine has no cp-sectoin."])
    expect(said('<img src="/media/gone.jpg">')).toEqual(["There are no media/gone.jpg."])
  })
})
