import { expect, test } from "vitest"
import { between, within } from "./area"

test("an area stays within its picture", () => {
  expect(within({ left: -5, top: 390, width: 900, height: 90 }, 640, 400)).toEqual({
    left: 0,
    top: 390,
    width: 640,
    height: 10,
  })
  expect(within({ left: NaN, top: 0, width: 0, height: 0 }, 640, 400)).toEqual({
    left: 0,
    top: 0,
    width: 1,
    height: 1,
  })
})

test("an area is drawn from any corner, and ends at the edge", () => {
  const want = { left: 160, top: 100, width: 480, height: 200 }
  expect(between({ x: 0.25, y: 0.25 }, { x: 1.4, y: 0.75 }, 640, 400)).toEqual(want)
  expect(between({ x: 1.4, y: 0.75 }, { x: 0.25, y: 0.25 }, 640, 400)).toEqual(want)
})
