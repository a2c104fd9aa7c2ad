import { describe, expect, it } from "vitest"
import { alone, browserName, pageName, short, showable, titleOf, weight } from "./format"

describe("formats for people", () => {
  it.each([
    [0, "0 B"],
    [1023, "1023 B"],
    [1024, "1.0 KB"],
    [1536, "1.5 KB"],
    [5 << 20, "5.0 MB"],
  ])("weighs %d bytes as %s", (n, text) => expect(weight(n)).toBe(text))

  it.each([
    ["Mozilla/5.0 (Windows NT 10.0) AppleWebKit Chrome/140.0 Safari/537", "Chrome or Chromium on Windows"],
    ["Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko Firefox/140.0", "Firefox on Linux"],
    ["Mozilla/5.0 (Windows NT) Chrome/140.0 Safari/537 Edg/140.0", "Edge on Windows"],
    ["", "An unknown browser"],
    ["cparcel", "cparcel"],
  ])("names a browser", (agent, name) => expect(browserName(agent)).toBe(name))

  it.each([
    ["part/site-footer", "", "Site footer"],
    ["section/hours", "When it is open", "When it is open"],
    ["media/js/scripts.js", "", "scripts.js"],
  ])("calls %s by its title, or by its name in words", (address, title, words) =>
    expect(titleOf({ address, meta: { title } })).toBe(words),
  )

  it("knows what can be shown, and where", () => {
    expect(showable("section/hours")).toBe(true)
    expect(showable("stylesheet/base")).toBe(false)
    expect(alone("http://hut", "part/top")).toBe("http://hut/_cp/alone/part/top")
    expect(pageName("/404.html")).toBe("the not-found page")
    expect(pageName("/rooms/")).toBe("/rooms/")
    expect(short("0123456789abcdef")).toBe("0123456789ab")
  })
})
