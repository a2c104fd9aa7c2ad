import { expect, test } from "vitest"
import { blanksOf, fillOf, regionsOf } from "./blanks"

test("a section's blanks, each once with its sample", () => {
  const got = blanksOf(
    `<section><h2 data-fill="text:title">Hours</h2><a data-fill="href:tel:{to}; text:label" href="/a/">Go</a>` +
      `<b data-fill="text:title">again</b></section>`,
  )
  expect(got).toEqual([
    { name: "title", sample: "Hours" },
    { name: "to", sample: "/a/" },
    { name: "label", sample: "Go" },
  ])
})

test("regions of a part, and what a page fills them with", () => {
  expect(regionsOf("part/bar", `<header><cp-region name="note"><p>x</p></cp-region></header>`)).toEqual([
    { part: "part/bar", name: "note" },
  ])
  const page = `<main></main><cp-fill region="note"><b>Own</b></cp-fill>`
  expect(fillOf("note", page)).toBe("<b>Own</b>")
  expect(fillOf("other", page)).toBe("")
})
