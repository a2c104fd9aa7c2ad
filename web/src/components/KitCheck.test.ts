import { mount } from "@vue/test-utils"
import { describe, expect, it } from "vitest"
import KitCheck from "./KitCheck.vue"
import StateBadge from "./StateBadge.vue"
import { stateWords, type BadgeState } from "../words"

const text = (w: { text: () => string }) => w.text().replace(/\s+/g, " ")

describe("the check of a kit", () => {
  it("is clean without findings", () => {
    expect(text(mount(KitCheck, { props: { findings: [] } }))).toBe("Clean: nothing stops sealing.")
  })

  it("names what stops sealing first, with its place and its remedy", () => {
    const w = mount(KitCheck, {
      props: {
        findings: [
          { address: "part/top", line: 3, stops: false, message: "it brings code", remedy: "" },
          { address: "menu/main", line: 0, stops: true, message: "it is missing", remedy: "add it" },
        ],
      },
    })
    expect(w.findAll("li").map(text)).toEqual([
      "Stops sealing menu/main it is missing To fix: add it.",
      "Note part/top:3 it brings code",
    ])
    expect(w.text()).not.toContain("nothing stops sealing")
  })

  it("says that notes stop nothing", () => {
    const w = mount(KitCheck, { props: { findings: [{ line: 0, stops: false, message: "x", remedy: "" }] } })
    expect(text(w)).toContain("Nothing stops sealing. A receiver should know this:")
  })
})

describe("a badge", () => {
  it.each(Object.keys(stateWords) as BadgeState[])("has an icon and a word for %s", (state) => {
    const w = mount(StateBadge, { props: { state } })
    expect(w.find("svg").exists()).toBe(true)
    expect(w.text()).toBe(stateWords[state])
  })
})
