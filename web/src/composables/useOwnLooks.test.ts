import { expect, test } from "vitest"
import { looksByClass } from "./useOwnLooks"

test("which class gives which look", () => {
  const sheet = `.own-1 {
  color: red;
}
:is(#own-2, .own-2).own-2.own-2 {
  padding: 1rem;
  --look: "as in \\"dusk\\"";
  --color-ink: #eee;
}
.own-3:hover { color: blue; }
@media (max-width: 390px) {
  .own-4 { --look: "night"; }
}`
  expect([...looksByClass(sheet)]).toEqual([
    ["own-2", 'as in "dusk"'],
    ["own-4", "night"],
  ])
  expect(looksByClass("").size).toBe(0)
})
