// Says what of a page at its width nobody wants: elements beyond its edge, texts that are cut off, and places
// that a fixed bar covers when a link leads there.
(() => {
  const most = 8
  const path = (e) => {
    const steps = []
    for (; e && e.nodeType === 1; e = e.parentElement) {
      const same = e.parentElement ? [...e.parentElement.children].filter((x) => x.localName === e.localName) : []
      steps.unshift(same.length > 1 ? `${e.localName}:nth-of-type(${same.indexOf(e) + 1})` : e.localName)
    }
    return steps.join(" > ")
  }
  const root = document.documentElement
  const width = root.clientWidth
  const shown = (e) => {
    const r = e.getBoundingClientRect()
    return r.width > 8 && r.height > 8 && getComputedStyle(e).visibility !== "hidden"
  }
  const held = (e) => {
    for (let up = e.parentElement; up && up !== root && up !== document.body; up = up.parentElement)
      if (getComputedStyle(up).overflowX !== "visible") return true
    return false
  }
  const wide = Math.max(0, Math.round(root.scrollWidth - width))
  const over = []
  const cut = []
  for (const e of document.body ? document.body.querySelectorAll("*") : []) {
    if (!shown(e)) continue
    const s = getComputedStyle(e)
    const by = Math.round(e.getBoundingClientRect().right - width)
    if (wide > 0 && by > 1 && s.position !== "fixed" && !held(e) && over.length < most)
      if (!over.some((o) => o.element.contains(e) && o.by >= by)) over.push({ element: e, by })
    const hides = (v) => v === "hidden" || v === "clip"
    const text = [...e.childNodes].some((c) => c.nodeType === 3 && c.data.trim() !== "")
    if (!text || cut.length >= most) continue
    const sideways = hides(s.overflowX) && s.textOverflow !== "ellipsis" ? e.scrollWidth - e.clientWidth : 0
    const down = hides(s.overflowY) && s.webkitLineClamp === "none" ? e.scrollHeight - e.clientHeight : 0
    if (Math.max(sideways, down) > 2) cut.push({ path: path(e), by: Math.round(Math.max(sideways, down)) })
  }
  const covered = []
  let bar = null
  for (const e of document.body ? document.body.querySelectorAll("*") : []) {
    const s = getComputedStyle(e)
    const r = e.getBoundingClientRect()
    const top = s.position === "fixed" ? r.top : s.position === "sticky" ? parseFloat(s.top) || 0 : NaN
    if (top <= 8 && r.width > width / 2 && r.height > 8 && r.height < innerHeight / 2 && shown(e))
      if (!bar || top + r.height > bar.height) bar = { element: e, height: top + r.height }
  }
  if (bar) {
    const padding = parseFloat(getComputedStyle(root).scrollPaddingTop) || 0
    for (const a of document.querySelectorAll('a[href^="#"]')) {
      const id = decodeURIComponent(a.hash.slice(1))
      const to = id && document.getElementById(id)
      if (!to || bar.element.contains(to) || covered.length >= most) continue
      const by = Math.round(bar.height - padding - (parseFloat(getComputedStyle(to).scrollMarginTop) || 0))
      const place = path(to)
      if (by > 4 && to.getBoundingClientRect().top > bar.height && !covered.some((c) => c.path === place))
        covered.push({ path: place, bar: path(bar.element), by })
    }
  }
  return JSON.stringify({ wide, over: over.map((o) => ({ path: path(o.element), by: o.by })), cut, covered })
})()
