import { mount } from "@vue/test-utils"
import { describe, expect, it, vi } from "vitest"
import { defineComponent } from "vue"
import type { Schemas } from "../api/client"
import PlanQuestions from "./PlanQuestions.vue"

const question = (key: string, kind: Schemas["QuestionKind"], message: string): Schemas["Question"] => ({
  key,
  kind,
  message,
  choices: [
    { decision: "take", effect: "the kit's replaces the site's" },
    { decision: "as", to: "beds", effect: "the site's field beds" },
  ],
})
const conflict = { key: "x1", kind: "text", where: "p", line: 1, base: "a", site: "b", kit: "c" }

function show(questions: Schemas["Question"][]) {
  const plan = {
    questions,
    rows: [{ address: "part/top", conflicts: [conflict] }],
    clashes: [{ key: "class:hero", group: "group:hero", name: "hero", site: ".hero{}", kit: ".hero{x}" }],
  } as unknown as Schemas["Plan"]
  return mount(PlanQuestions, {
    props: { delivery: { site: "hut" } as Schemas["Delivery"], etag: '"1"', plan, disabled: false },
    global: {
      stubs: {
        SideBySide: defineComponent({
          props: { address: { type: String, default: "" } },
          template: "<i>{{ address }}</i>",
        }),
      },
    },
  })
}

// What a list of the site's items asks the service for is not asked here.
vi.mock("../composables/useItems", () => ({
  useItems: () => ({ data: { value: { items: [{ address: "menu/main" }, { address: "menu/foot" }] } } }),
}))

describe("the questions of a plan", () => {
  it("tells that nothing is open; blanks are asked for elsewhere", () => {
    expect(show([question("fill:name", "fill", "Name?")]).text()).toBe("No open questions here.")
  })

  it("counts in English", () => {
    const one = question("menu/main", "item", "One?")
    expect(show([one]).find("h2").text().replace(/\s+/g, " ")).toBe("1 question needs you")
    expect(
      show([one, question("seat:header:everywhere", "seat", "Two?")])
        .find("h2")
        .text()
        .replace(/\s+/g, " "),
    ).toBe("2 questions need you")
  })

  it("shows the sides of a conflict and decides under its key", async () => {
    const w = show([question("conflict:part/top:x1", "conflict", "Both changed it.")])
    expect(w.find("i").text()).toBe("part/top")
    await w.find("[data-conflict] button").trigger("click")
    expect(w.emitted("decide")).toEqual([["conflict:part/top:x1", "site"]])
  })

  it("shows both rules of a name of the group", () => {
    const w = show([question("group:hero", "group", "Hero?")])
    expect(w.findAll("pre").map((p) => p.text())).toEqual([".hero{}", ".hero{x}"])
    expect(w.text()).toContain("This is hero; the others are listed below.")
  })

  it("writes a choice with its target", async () => {
    const w = show([question("field:room:bunks", "field", "Which field?")])
    await w.find('[data-decide="field:room:bunks=as:beds"]').trigger("click")
    expect(w.emitted("decide")).toEqual([["field:room:bunks", "as:beds"]])
  })

  it("asks which item a name is mapped to, before anything is decided", async () => {
    const q = question("menu/main", "item", "Which?")
    q.choices = [{ decision: "map", effect: "another of the site's" }]
    const w = show([q])
    await w.find('[data-decide="menu/main=map"]').trigger("click")
    expect(w.emitted("decide")).toBeUndefined()
    await w.findAll("button.addr")[1].trigger("click")
    expect(w.emitted("decide")).toEqual([["menu/main", "map:menu/foot"]])
  })
})
