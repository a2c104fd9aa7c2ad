// Runs a page as visitors do, and gives it as it is then: scrolled to its end, its details and whatever a button opens
// opened, each element with all classes that it had on the way. Only what a stylesheet can tell elements by is written:
// no texts, no scripts. Empty where the page has no scripts, or is too large.
(async () => {
  const most = 200_000
  const runs = (s) => !s.type || /^(module|text\/javascript|application\/javascript)$/i.test(s.type)
  if (![...document.scripts].some(runs)) return ""
  const had = new WeakMap()
  const note = (e) => {
    if (!had.has(e)) had.set(e, new Set())
    for (const c of e.classList ?? []) had.get(e).add(c)
  }
  const all = (root) => {
    note(root)
    for (const e of root.querySelectorAll("*")) note(e)
  }
  all(document.documentElement)
  new MutationObserver((list) => {
    for (const m of list) {
      if (m.type === "attributes") note(m.target)
      for (const n of m.addedNodes) if (n.nodeType === 1) all(n)
    }
  }).observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ["class"] })
  const ticks = async (n) => {
    for (let i = 0; i < n; i++)
      await Promise.race([new Promise((r) => requestAnimationFrame(r)), new Promise((r) => setTimeout(r, 60))])
  }
  const end = performance.now() + 2500
  for (let y = 0; y < Math.min(document.documentElement.scrollHeight, 20_000); y += 600) {
    scrollTo(0, y)
    await ticks(1)
    if (performance.now() > end) break
  }
  for (const d of document.querySelectorAll("details")) d.open = true
  const pressed = [...document.querySelectorAll("button, [role=button], [role=tab], [aria-expanded]")].filter(
    (b) => !b.closest("a[href]") && !(b.form && b.type === "submit") && b.localName !== "summary",
  )
  for (const b of pressed.slice(0, 40)) {
    if (performance.now() > end) break
    b.click()
    await ticks(1)
  }
  await ticks(4)
  all(document.documentElement)
  const escape = (v) => v.replace(/&/g, "&amp;").replace(/"/g, "&quot;").replace(/</g, "&lt;")
  const empty = /^(area|base|br|col|embed|hr|img|input|link|meta|source|track|wbr)$/
  const hollow = /^(script|style|template|noscript|iframe|object)$/
  let out = "<!doctype html>"
  const write = (e) => {
    if (out.length > most) return
    const name = e.localName
    out += "<" + name
    for (const a of e.attributes) {
      if (/^(on|style$|src|srcset$|integrity$|nonce$)/i.test(a.name) || !/^[\w:.-]+$/.test(a.name)) continue
      const value = a.name === "class" ? [...(had.get(e) ?? e.classList)].join(" ") : a.value
      out += ` ${a.name}="${escape(value.length > 120 && a.name !== "class" ? "" : value)}"`
    }
    if (!e.hasAttribute("class") && had.get(e)?.size) out += ` class="${escape([...had.get(e)].join(" "))}"`
    out += ">"
    if (empty.test(name)) return
    if (!hollow.test(name)) {
      for (const c of e.childNodes) {
        if (c.nodeType === 1) write(c)
        else if (c.nodeType === 3 && c.data.trim()) out += "x"
      }
    }
    out += `</${name}>`
  }
  write(document.documentElement)
  return out.length > most ? "" : out
})()
