import { expect, test } from "vitest"
import { placementWords, pressed, writtenPlacement } from "./placement"

const names = { page: (p: string) => (p === "/rooms/attic/" ? "Attic" : p), type: (t: string) => t }

test("a placement is one sentence", () => {
  const words = (where: string[], unless: string[] = []) => placementWords({ where, unless }, names)
  expect(words([])).toBe("appears nowhere")
  expect(words(["everywhere"])).toBe("appears on all pages")
  expect(words(["records:room"], ["page:/rooms/attic/"])).toBe("appears on every room except on Attic")
  expect(words(["home", "under:/news/", "not-found"])).toBe(
    "appears on the home page, all pages below /news/ and the not-found page",
  )
  expect(words(["listing:room?category=summer"])).toBe("appears on the lists of room, summer")
})

test("what is pressed comes, or is left out where another target covers it", () => {
  const rooms = pressed({ where: [], unless: [] }, "records:room", false)
  expect(rooms.where).toEqual(["records:room"])
  const but = pressed(rooms, "page:/rooms/attic/", true)
  expect(writtenPlacement(but)).toBe("records:room except page:/rooms/attic/")
  expect(pressed(but, "page:/rooms/attic/", false)).toEqual(rooms)
  expect(pressed(but, "everywhere", false)).toEqual({ where: ["everywhere"], unless: [] })
  expect(pressed({ where: ["everywhere"], unless: ["home"] }, "everywhere", true).where).toEqual([])
})
