import { describe, expect, it } from "vitest"
import { mount } from "@vue/test-utils"
import SidesSlider from "./SidesSlider.vue"
import type { Schemas } from "../api/client"

const made = (picture: string, height = 1000): Schemas["PictureRef"] => ({ state: "made", picture, height })
const pair = (more: Partial<Schemas["PicturePair"]>): Schemas["PicturePair"] => ({
  width: 1280,
  before: made("a"),
  after: made("b", 2000),
  ...more,
})

describe("a page before and after", () => {
  it("shows as much of each side as the slider says, and marks what differs", async () => {
    const areas = [{ x: 128, y: 500, width: 640, height: 100 }]
    const w = mount(SidesSlider, { props: { slug: "/", pair: pair({ differs: true, areas }) } })
    const clips = () => w.findAll("img").map((i) => (i.element as HTMLElement).style.clipPath)
    expect(clips()).toEqual(["inset(0 50% 0 0)", "inset(0 0 0 50%)"])
    await w.get("input[type=range]").setValue(20)
    expect(clips()).toEqual(["inset(0 80% 0 0)", "inset(0 0 0 20%)"])
    const mark = w.get(".outline-call").attributes("style")
    expect(mark).toContain("left: 10%")
    expect(mark).toContain("top: 25%")
    await w.get("input[type=checkbox]").setValue(false)
    expect(w.find(".outline-call").exists()).toBe(false)
  })
  it("says why a side is missing, and shows the other", () => {
    const w = mount(SidesSlider, {
      props: { slug: "/new/", pair: pair({ before: { state: "none" }, after: made("b") }) },
    })
    expect(w.text()).toContain("Before: the page is not there.")
    expect(w.findAll("img")).toHaveLength(1)
    expect(w.find("input[type=range]").exists()).toBe(false)
    const failed = mount(SidesSlider, {
      props: {
        slug: "/",
        pair: pair({ before: { state: "failed", message: "it never ends" }, after: { state: "waiting" } }),
      },
    })
    expect(failed.text()).toContain("it never ends")
    expect(failed.text()).toContain("After: the picture is being made.")
    expect(failed.findAll("img")).toHaveLength(0)
  })
})
