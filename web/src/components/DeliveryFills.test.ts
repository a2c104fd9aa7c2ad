import { mount } from "@vue/test-utils"
import { describe, expect, it } from "vitest"
import type { Schemas } from "../api/client"
import DeliveryFills from "./DeliveryFills.vue"

type Fill = Schemas["Plan"]["fills"][number]
const fill = (over: Partial<Fill>): Fill =>
  ({
    name: "hut",
    label: "Hut name",
    type: "text",
    sample: "Kestrel",
    required: true,
    given: false,
    ...over,
  }) as Fill
const show = (fills: Fill[], editable = true) =>
  mount(DeliveryFills, {
    props: { site: "larch-saddle", plan: { fills } as Schemas["Plan"], editable, busy: false },
  })
const next = (w: ReturnType<typeof show>) =>
  w.findAll("button").find((b) => b.text() === "On to the preview")!

describe("the blanks of a delivery", () => {
  it("says when there are none, and goes on", async () => {
    const w = show([])
    expect(w.text()).toContain("There is nothing to fill in.")
    await next(w).trigger("click")
    expect(w.emitted("next")).toHaveLength(1)
  })

  it("does not go on while a required one is open", async () => {
    const w = show([fill({}), fill({ name: "more", required: false })])
    expect(w.text()).toContain("needs you")
    expect(next(w).attributes("disabled")).toBeDefined()
    await w.setProps({ plan: { fills: [fill({ given: true, value: "Larch" })] } as Schemas["Plan"] })
    expect(next(w).attributes("disabled")).toBeUndefined()
    expect((w.find("#fill-hut").element as HTMLInputElement).value).toBe("Larch")
  })

  it("gives each type its field", () => {
    const w = show([
      fill({ name: "a", type: "rich-text" }),
      fill({ name: "b", type: "choice", choices: ["Larch", "Birch"] }),
      fill({ name: "c", type: "phone" }),
      fill({ name: "d", type: "url" }),
    ])
    expect(w.find("#fill-a").element.tagName).toBe("TEXTAREA")
    expect(w.findAll("#fill-b option").map((o) => o.text())).toEqual(["Larch", "Birch"])
    expect(w.find("#fill-c").attributes("type")).toBe("tel")
    expect(w.find("#fill-d").attributes("type")).toBe("text")
  })

  it("sends all values, and none when it may not be edited", async () => {
    const w = show([fill({}), fill({ name: "mail", type: "email", value: "a@hut.example", given: true })])
    await w.find("#fill-hut").setValue("Larch Saddle")
    await w.find("form").trigger("submit")
    expect(w.emitted("answer")).toEqual([[{ fills: { hut: "Larch Saddle", mail: "a@hut.example" } }]])
    const still = show([fill({})], false)
    expect(still.find("#fill-hut").attributes("disabled")).toBeDefined()
    expect(still.findAll("button")).toHaveLength(1)
  })
})
