import { expect, test } from "vitest"
import { siteNameFault } from "./siteName"

test("a name that is taken, reserved, too long or not one is told", () => {
  const taken = ["larch-saddle"]
  expect(siteNameFault("larch-hollow", taken)).toBe("")
  expect(siteNameFault("", taken)).toBe("")
  expect(siteNameFault("larch-saddle", taken)).toContain("already a site")
  expect(siteNameFault("library", taken)).toContain("library is called so")
  expect(siteNameFault("a".repeat(32), taken)).toBe("")
  expect(siteNameFault("a".repeat(35), taken)).toContain("3 too many")
  for (const bad of ["Larch", "a--b", "-a", "a_b", "a.b"])
    expect(siteNameFault(bad, taken), bad).toContain("lower-case")
})
