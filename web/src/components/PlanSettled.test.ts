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
        clashes: [],
        seats: [],
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
      "The footer on everywhere part/old is there, part/new wants the place; decided by you, at the last delivery",
    )
    expect(w.find('[aria-pressed="true"]').text()).toBe("kit")
    await w.find('[data-decide="seat:footer:everywhere=narrow"]').trigger("click")
    expect(w.emitted("decide")).toEqual([["seat:footer:everywhere", "narrow"]])
  })

  it("tells a style from a property, and what is open from what is decided", () => {
    const w = settled({
      clashes: [
        { key: "class:hero", class: "hero", choices: choices("rename", "share") },
        {
          key: "property:--ink",
          class: "--ink",
          decision: "rename",
          becomes: "--kit-ink",
          choices: choices("rename"),
        },
      ],
    })
    expect(text(w)).toContain("Style hero is defined on both sides open")
    expect(text(w)).toContain("Property --ink is defined on both sides; the kit’s becomes --kit-ink rename")
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
