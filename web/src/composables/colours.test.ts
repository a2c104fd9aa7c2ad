import { expect, test } from "vitest"
import { coloursOf, hexOf } from "./colours"

test("the colours of a picture, the most frequent first", () => {
  const pixel = (r: number, g: number, b: number, a = 255) => [r, g, b, a]
  const of = (n: number, p: number[]) => Array.from({ length: n }, () => p).flat()
  const picture = new Uint8ClampedArray([
    ...of(5, pixel(200, 30, 30)),
    ...of(9, pixel(20, 40, 90)),
    ...of(2, pixel(204, 34, 30)),
    ...of(40, pixel(0, 255, 0, 0)),
  ])
  const got = coloursOf(picture)
  expect(got).toHaveLength(2)
  expect(got[0]).toBe("#14285a")
  expect(got[1]).toBe("#c81e1e")
})

test("colours as browsers compute them", () => {
  expect(hexOf("rgb(181, 67, 47)")).toBe("#b5432f")
  expect(hexOf("rgba(0, 0, 0, 0)")).toBe("")
  expect(hexOf("#B5432F")).toBe("#b5432f")
  expect(hexOf("color(display-p3 1 0 0)")).toBe("")
})
