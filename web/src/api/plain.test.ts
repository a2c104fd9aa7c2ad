import { expect, it } from "vitest"
import { plain } from "./plain"

it("says a problem without selectors, numbers of operations and addresses of items", () => {
  expect(plain("operation 1 (text): <nav> is written by the page engine (menu)", "operation 1 (text)")).toBe(
    "<nav> is written by the page engine (menu)",
  )
  expect(
    plain(
      '/ :scope > html > body > main > div:nth-of-type(2): ":scope > html > body > main" names no element of it',
      "/ :scope > html > body > main > div:nth-of-type(2)",
    ),
  ).toBe("what you pointed at names no element of it")
  expect(plain("section/opening-hours: there is no section/opening-hours", "section/opening-hours")).toBe(
    "there is no section “opening-hours”",
  )
  expect(plain("site larch-saddle: somebody else has been writing to it", "site larch-saddle")).toBe(
    "site larch-saddle: somebody else has been writing to it",
  )
  expect(plain("http://hut.example/form/ask does not answer")).toBe(
    "http://hut.example/form/ask does not answer",
  )
  expect(plain("page/walks is already at /walks/")).toBe("page “walks” is already at /walks/")
})
