import { mount } from "@vue/test-utils"
import { describe, expect, it, vi } from "vitest"
import type { Schemas } from "../api/client"
import PlanNeeds from "./PlanNeeds.vue"
import PlanSettled from "./PlanSettled.vue"

vi.mock("../composables/useItems", () => ({ useItems: () => ({ data: { value: { items: [] } } }) }))

const delivery = { site: "hut" } as Schemas["Delivery"]
const choices = (...list: Schemas["Decision"][]) =>
  list.map((decision) => ({ decision, effect: `what ${decision} does` }))
const text = (w: { text: () => string }) => w.text().replace(/\s+/g, " ")
const settled = (plan: unknown) =>
  mount(PlanSettled, {
    props: {
      delivery,
      plan: {
        groups: [],
        clashes: [],
        seats: [],
        surrounds: [],
        fields: [],
        settings: [],
        ...(plan as object),
      } as unknown as Schemas["Plan"],
      disabled: false,
    },
  })

describe("what is settled", () => {
  it("is not there when nothing is", () => {
    expect(settled({}).find("section").exists()).toBe(false)
  })

  it("says who decided about a place, and lets it be decided otherwise", async () => {
    const w = settled({
      seats: [
        {
          key: "seat:footer:everywhere",
          role: "footer",
          target: "everywhere",
          site: "part/old",
          kit: "part/new",
          decision: "kit",
          decidedBy: "prior-delivery",
          choices: choices("site", "kit", "narrow"),
        },
      ],
    })
    expect(text(w)).toContain(
      "The footer on everywhere part/old is there, part/new claims the place; decided by you, at the last delivery",
    )
    expect(w.find('[aria-pressed="true"]').text()).toBe("kit")
    await w.find('[data-decide="seat:footer:everywhere=narrow"]').trigger("click")
    expect(w.emitted("decide")).toEqual([["seat:footer:everywhere", "narrow"]])
  })

  it("has one line and one choice for names that both sides define, and the names behind a fold", async () => {
    const w = settled({
      groups: [
        {
          key: "group:hero",
          classes: 1,
          properties: 2,
          animations: 0,
          fonts: 0,
          decision: "apart",
          decidedBy: "rule",
          choices: choices("apart", "share"),
          subjectDigest: "",
        },
        {
          key: "group:--ink",
          classes: 0,
          properties: 1,
          animations: 0,
          fonts: 0,
          script: { item: "page/home", onSite: true, line: 7, literal: "--ink", name: "--ink" },
          choices: choices("share", "mark"),
          subjectDigest: "",
        },
      ],
      clashes: [
        {
          key: "class:hero",
          group: "group:hero",
          kind: "class",
          name: "hero",
          site: ".hero{}",
          kit: "",
          becomes: "kit-hero",
          decision: "rename",
          choices: choices("rename", "share"),
        },
      ],
    })
    expect(text(w)).toContain(
      "1 style and 2 properties on both sides, such as hero; decided by nobody: neither side changes",
    )
    expect(text(w)).toContain("hero becomes kit-hero")
    expect(text(w)).toMatch(/The kit has no rule for it\. ?and 2 more/)
    expect(text(w)).toContain(
      "1 property on both sides, such as --ink; the site’s page/home, line 7, may name --ink by “--ink” open",
    )
    await w.find('[data-decide="group:hero=share"]').trigger("click")
    await w.find('[data-decide="class:hero=share"]').trigger("click")
    expect(w.emitted("decide")).toEqual([
      ["group:hero", "share"],
      ["class:hero", "share"],
    ])
  })

  it("marks the field that was chosen", () => {
    const w = settled({
      fields: [
        {
          key: "field:room:bunks",
          kit: "bunks",
          type: "room",
          site: "beds",
          decision: "as",
          choices: [{ decision: "as", to: "beds", effect: "" }, ...choices("leave")],
        },
      ],
    })
    expect(w.find('[aria-pressed="true"]').text()).toBe("as:beds")
  })
})

describe("needs", () => {
  const needs = (list: unknown[]) =>
    mount(PlanNeeds, {
      props: { delivery, plan: { needs: list } as unknown as Schemas["Plan"], disabled: false },
    })

  it("counts those that are met, and shows only the others", () => {
    const w = needs([
      { what: "menu/main", state: "met", message: "" },
      {
        what: "setting/logo",
        state: "missing",
        message: "a part shows it",
        optional: true,
        key: "need:setting/logo",
        choices: choices("accept", "leave"),
      },
    ])
    expect(text(w)).toContain("1 need is met.")
    expect(w.text()).not.toContain("menu/main")
    expect(w.find("summary").text().replace(/\s+/g, " ")).toBe(
      "Goes on without 1 optional need: setting/logo",
    )
    expect(text(w)).toContain("missing setting/logo optional; a part shows it")
  })

  it("says what was decided, and by whom", () => {
    const w = needs([
      {
        what: "x-strip",
        state: "too-old",
        message: "1.4.0 is there",
        key: "need:x-strip",
        decision: "raise",
        decidedBy: "person",
        choices: choices("raise"),
      },
    ])
    expect(text(w)).toContain("1.4.0 is there; decided: raise (you)")
  })

  it("that is open and required stands among the questions, not here", () => {
    const w = needs([{ what: "x", state: "missing", message: "", key: "need:x", choices: choices("accept") }])
    expect(w.findAll("button")).toHaveLength(0)
  })
})
