import { expect, test } from "vitest"
import { firstOf, pairsOf, weightsOf } from "./useFonts"

test("weights that exist, and what a list begins with", () => {
  expect(weightsOf([{ weight: "400" }, { weight: "400", italic: true }, { weight: "100 900" }])).toBe(
    "400, 400 italic, 100 to 900",
  )
  expect(firstOf('"Iowan Old Style", serif')).toBe("Iowan Old Style")
})

test("pairs that this site does not have, each once", () => {
  const pair = (head: string) => [
    { token: "font.head", value: head },
    { token: "font.text", value: "serif" },
  ]
  const source = (from: string | undefined, chosen: ReturnType<typeof pair>) => ({
    from,
    chosen,
    families: [],
  })
  const got = pairsOf([
    source(undefined, pair("Tarn")),
    source("library", pair("Tarn")),
    source("kit a@1", pair("Fell")),
    source("kit b@1", [...pair("Fell"), { token: "font.note", value: "x" }]),
  ])
  expect(got.map((p) => p.from)).toEqual(["kit a@1"])
})
