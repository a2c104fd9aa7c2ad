import { mount } from "@vue/test-utils"
import { describe, expect, it } from "vitest"
import { Problem, type Schemas } from "../api/client"
import { toFix } from "../api/remedy"
import description from "../../../api/openapi.yaml?raw"
import ProblemNote from "./ProblemNote.vue"

const show = (error: unknown) => mount(ProblemNote, { props: { error } })
const codes = /\n {4}RemedyCode:[^[]*\[([^\]]*)\]/
  .exec(description)![1]
  .split(",")
  .map((c) => c.trim()) as Schemas["RemedyCode"][]

describe("a problem", () => {
  it("is not there without an error", () => {
    expect(show(null).find("[role=alert]").exists()).toBe(false)
  })

  it("says what is wrong and how to fix it, with the remedy's values", () => {
    const w = show(
      new Problem({ detail: "kit a@1: not sealed", remedy: { code: "seal-kit", values: { kit: "a@1" } } }),
    )
    expect(w.find("[role=alert]").text()).toContain("kit a@1: not sealed")
    expect(w.text()).toContain("To fix: Seal a@1 first.")
  })

  it("lists what a problem is about by its type, not by its sentence", () => {
    const details: Schemas["Question"][] = [
      { key: "menu/main", kind: "item", message: "First?", choices: [] },
      { key: "part/top", kind: "item", message: "Second?", choices: [] },
    ]
    const waits = show(new Problem({ type: "waits-for-decisions", detail: "2 questions are open", details }))
    expect(waits.findAll("li").map((l) => l.text())).toEqual(["First?", "Second?"])
    const internal = show(new Problem({ type: "internal", detail: "2 questions are open", details }))
    expect(internal.findAll("li")).toHaveLength(0)
  })

  it("shows any other error as it is", () => {
    expect(show(new TypeError("odd")).text()).toContain("odd")
    expect(show("odder").text()).toContain("odder")
  })

  it("has a sentence for every remedy, and none that is a command", () => {
    expect(codes.length).toBeGreaterThan(60)
    for (const code of codes) {
      const text = toFix({ code, values: {} })
      expect(text, code).toMatch(/^[A-Z].*\.$/)
      expect(text, code).not.toMatch(/cparcel|--[a-z]/)
    }
  })
})
