import { mount } from "@vue/test-utils"
import { describe, expect, it } from "vitest"
import type { Schemas } from "../api/client"
import ConflictChoice from "./ConflictChoice.vue"
import ConflictList from "./ConflictList.vue"

const conflict = (
  key: string,
  decision?: Schemas["BlendConflict"]["decision"],
): Schemas["BlendConflict"] => ({
  key,
  kind: "text",
  where: "main > p",
  line: 7,
  base: "every day",
  site: "when the boat goes",
  kit: "",
  decision,
})

describe("a conflict", () => {
  it("shows the three sides, and names an empty one", () => {
    const w = mount(ConflictChoice, { props: { conflict: conflict("1"), about: "c", disabled: false } })
    expect(w.findAll("pre").map((p) => p.text())).toEqual(["every day", "when the boat goes", "nothing"])
    expect(w.text().replace(/\s+/g, " ")).toContain("Text main > p, line 7")
  })

  it("is decided for either side, never for the base", async () => {
    const w = mount(ConflictChoice, { props: { conflict: conflict("1"), about: "c", disabled: false } })
    const buttons = w.findAll("button")
    expect(buttons.map((b) => b.text())).toEqual(["Take the site’s", "Take the kit’s"])
    for (const b of buttons) await b.trigger("click")
    expect(w.emitted("decide")).toEqual([["site"], ["kit"]])
  })

  it("shows what was decided", () => {
    const w = mount(ConflictChoice, {
      props: { conflict: conflict("1", "kit"), about: "c", disabled: false },
    })
    expect(w.findAll("button").map((b) => b.attributes("aria-pressed"))).toEqual(["false", "true"])
  })

  it("cannot be decided by who may only look", async () => {
    const w = mount(ConflictChoice, { props: { conflict: conflict("1"), about: "c", disabled: true } })
    await w.find("button").trigger("click")
    expect(w.emitted("decide")).toBeUndefined()
  })
})

describe("the conflicts of an item", () => {
  const row = {
    address: "part/top",
    conflicts: [conflict("a1"), conflict("b2", "site")],
  } as unknown as Schemas["PlanRow"]

  it("counts the open ones", () => {
    const w = mount(ConflictList, { props: { row, disabled: false } })
    expect(w.find("h3").text().replace(/\s+/g, " ")).toBe("2 things that both sides changed, 1 open")
  })

  it("decides one under its own key, and all under the item's", async () => {
    const w = mount(ConflictList, { props: { row, disabled: false } })
    await w.find('[data-conflict="conflict:part/top:b2"] button').trigger("click")
    await w.find('[data-decide="part/top=blend:kit"]').trigger("click")
    expect(w.emitted("decide")).toEqual([
      ["conflict:part/top:b2", "site"],
      ["part/top", "blend:kit"],
    ])
  })
})
