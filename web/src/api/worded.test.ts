import { expect, it } from "vitest"
import { Problem } from "./client"
import { worded } from "./worded"

it("words a sentence by what its values are", () => {
  expect(
    worded({
      code: "x",
      pattern: "<{0}> is written by the page engine ({1})",
      values: [
        { kind: "tag", text: "nav" },
        { kind: "text", text: "menu" },
      ],
    }),
  ).toBe("this menu is written by the page engine (menu)")
  expect(
    worded({
      code: "x",
      pattern: '"{0}" names no element of it',
      values: [{ kind: "element", text: ":scope > html > body" }],
    }),
  ).toBe("what you pointed at names no element of it")
  expect(
    worded({
      code: "x",
      pattern: '{0} is at {1}: "{2}" is no {{date}',
      values: [
        { kind: "item", text: "page/walks" },
        { kind: "page", text: "/walks/" },
        { kind: "text", text: "<b> page/x" },
      ],
    }),
  ).toBe("page “walks” is at /walks/: “<b> page/x” is no {date}")
})

it("says of a problem what it is about where nobody sees it", () => {
  const said = { code: "x", pattern: "it does not exist" }
  expect(new Problem({ detail: "site hut: it does not exist", said }).message).toBe("it does not exist")
  const about = { code: "x", pattern: "site {0}", values: [{ kind: "text" as const, text: "hut" }] }
  expect(new Problem({ detail: "x", said, about }).message).toBe("site hut: it does not exist")
  expect(new Problem({ detail: "The service cannot be reached." }).message).toBe(
    "The service cannot be reached.",
  )
})
