import { mount } from "@vue/test-utils"
import { expect, test } from "vitest"
import type { Schemas } from "../api/client"
import FaultList from "./FaultList.vue"

const fault = (over: Partial<Schemas["Fault"]>) =>
  ({
    kind: "contrast",
    grave: true,
    line: 3,
    pages: ["/"],
    count: 1,
    message: "a text is hard to read",
    remedy: "choose a darker colour",
    new: false,
    ...over,
  }) as Schemas["Fault"]
const show = (faults: Schemas["Fault"][], more = {}) =>
  mount(FaultList, {
    props: { faults, root: "/sites/hut", site: "hut", ...more },
    global: {
      stubs: { RouterLink: { props: ["to"], template: "<a :data-to='JSON.stringify(to)'><slot /></a>" } },
    },
  })

test("five thousand findings are grouped, and more of a kind are shown when they are wanted", async () => {
  const many = Array.from({ length: 4999 }, () => fault({}))
  const w = show([...many, fault({ kind: "heading", grave: false, message: "a level is left out" })])
  expect(w.findAll("li.flex")).toHaveLength(13)
  expect(w.text()).toContain("(4999)")
  await w.get("[data-faults=contrast] button").trigger("click")
  expect(w.findAll("[data-faults=contrast] li.flex")).toHaveLength(500)
  expect(w.text()).toContain("and 4499 more: mend these first.")
})

test("a finding leads to its element on the page; one of a stylesheet to the stylesheet", () => {
  const to = (f: Schemas["Fault"]) => show([f], { draft: 4 }).find("[data-mend]").attributes("data-to")
  const of = fault({ address: "page/home", kind: "heading" })
  expect(JSON.parse(to(of) ?? "")).toEqual({
    path: "/sites/hut/edit/",
    query: { draft: "4", item: "page/home", line: "3", fault: "heading" },
  })
  expect(
    show([fault({ address: "stylesheet/base" })])
      .find("[data-mend]")
      .exists(),
  ).toBe(false)
})
