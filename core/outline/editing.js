// Lets somebody edit the page by pointing. It alone runs on the page; it keeps nothing, changes nothing at
// its source, and speaks with the window around it through one port.
"use strict";
(() => {
  const own = document.currentScript
  const { digest, scripts } = own.dataset
  own.remove()
  // The key is in no request, and in no address that is left behind.
  const key = location.hash.slice(1)
  history.replaceState(null, "", location.pathname + location.search)
  const number = "data-cp-n"
  let port
  let samples = []
  let told = {} // number → what its label says, and how
  let scale = 1
  let pointed, selected, typed
  let placing = null
  const at = (n) => document.querySelector(`[${number}="${n}"]`)
  const numberOf = (el) => Number(el.getAttribute(number))
  const elementOf = (node) => (node instanceof Element ? node : node?.parentElement)?.closest(`[${number}]`)
  const tell = (what, more = {}) => port?.postMessage({ what, ...more })

  // What is drawn over the page lies in a tree of its own, which the page's styles do not reach.
  const host = document.createElement("div")
  host.setAttribute("aria-hidden", "true")
  host.setAttribute("data-cp-host", "")
  host.style.cssText = "all:initial!important;position:absolute!important;top:0!important;left:0!important;width:0!important;height:0!important;z-index:2147483647!important;display:block!important"
  const root = host.attachShadow({ mode: "closed" })
  root.innerHTML = `<style>
    div{position:absolute;box-sizing:border-box;pointer-events:none}
    .over{border:calc(2px*var(--k)) dashed #1d3150}
    .chosen{border:calc(3px*var(--k)) solid #c23a20}
    .sample{border:calc(2px*var(--k)) dotted #8a5a08;background:#f8edd466}
    .name{font:600 calc(13px*var(--k))/1.3 "Source Sans 3 Variable","DejaVu Sans",sans-serif;background:#1d3150;color:#fffdf9;
      padding:calc(3px*var(--k)) calc(8px*var(--k));border-radius:calc(3px*var(--k));white-space:nowrap;max-width:90vw;overflow:hidden;text-overflow:ellipsis}
    .moves{background:#4a5568}
    .grip{pointer-events:auto;background:#fffdf9;border:calc(2px*var(--k)) solid #c23a20;border-radius:calc(4px*var(--k));touch-action:none}
    .grip:hover{background:#fbe9e3}
    .spot{pointer-events:auto;border:0;background:#2c6b4a;opacity:.55;cursor:copy;border-radius:calc(3px*var(--k))}
    .spot:hover,.spot.here{opacity:1;outline:calc(2px*var(--k)) solid #fff}
    .rule{width:100px;height:0}
  </style><div class=rule></div><div class=marks></div><div class=over hidden></div><div class=chosen hidden></div><div class=name hidden></div><div class=grips></div><div class=spots></div>`
  const [rule, marks, over, chosen, name, grips, spots] = [".rule", ".marks", ".over", ".chosen", ".name", ".grips", ".spots"].map((s) => root.querySelector(s))
  // What is drawn lies where it is seen, whatever the page does to its root: a margin, a zoom, a transform.
  const laidAt = (r) => {
    const o = rule.getBoundingClientRect(), k = o.width / 100 || 1
    return { top: (r.top - o.top) / k, left: (r.left - o.left) / k, width: r.width / k, height: r.height / k }
  }
  const boxOf = (el) => laidAt(el.getBoundingClientRect())
  const lay = (div, b) => {
    div.hidden = false
    Object.assign(div.style, { top: `${b.top}px`, left: `${b.left}px`, width: `${b.width}px`, height: `${b.height}px` })
  }
  const rectOf = (el) => {
    const r = el.getBoundingClientRect()
    return { top: r.top, left: r.left, width: r.width, height: r.height }
  }

  function draw() {
    host.style.setProperty("--k", String(1 / scale))
    if (pointed?.isConnected && pointed !== selected && !typed) lay(over, boxOf(pointed))
    else over.hidden = true
    if (selected?.isConnected) lay(chosen, boxOf(selected))
    else chosen.hidden = true
    const el = typed ? null : pointed ?? null
    const label = el && told[numberOf(el)]
    name.hidden = !label
    if (label) {
      name.textContent = label.says + (el.closest("[data-cp-lies-open],[data-cp-shown]") ? " · moves for visitors" : "")
      const b = boxOf(el), seen = laidAt({ top: 0, left: 0, width: innerWidth, height: innerHeight })
      name.style.left = `${Math.max(seen.left, Math.min(b.left, seen.left + seen.width - 40))}px`
      const high = 26 / scale
      name.style.top = `${b.top - high < seen.top ? Math.max(b.top, seen.top) + 2 : b.top - high}px`
    }
    marks.replaceChildren()
    for (const n of samples) {
      const on = at(n)
      if (!on || on === typed) continue
      const div = document.createElement("div")
      div.className = "sample"
      marks.append(div)
      lay(div, boxOf(on))
    }
    drawGrips()
  }
  let drawing = 0
  const redraw = () => {
    cancelAnimationFrame(drawing)
    drawing = requestAnimationFrame(draw)
  }

  // Grips drag what can be measured: the space within below, the width, and the shares of columns.
  function drawGrips() {
    grips.replaceChildren()
    if (!selected?.isConnected || typed || !told[numberOf(selected)]?.grips) return
    const b = boxOf(selected)
    const k = 1 / scale
    grip("space-within", { top: b.top + b.height - 5 * k, left: b.left + b.width / 2 - 18 * k, width: 36 * k, height: 10 * k }, "ns-resize", "Space within, below")
    grip("width", { top: b.top + b.height / 2 - 18 * k, left: b.left + b.width - 5 * k, width: 10 * k, height: 36 * k }, "ew-resize", "Width")
    const columns = getComputedStyle(selected).gridTemplateColumns.split(" ").map(parseFloat)
    if (getComputedStyle(selected).display.includes("grid") && columns.length > 1 && columns.every((c) => c > 0)) {
      const gap = parseFloat(getComputedStyle(selected).columnGap) || 0
      let x = b.left + (parseFloat(getComputedStyle(selected).paddingLeft) || 0)
      for (let i = 0; i + 1 < columns.length; i++) {
        x += columns[i] + gap
        grip("columns", { top: b.top + b.height / 2 - 18 * k, left: x - gap / 2 - 5 * k, width: 10 * k, height: 36 * k }, "col-resize", "Share of the columns", i)
      }
    }
  }
  function grip(property, box, cursor, says, index = 0) {
    const g = document.createElement("div")
    g.className = "grip"
    g.title = says
    g.dataset.grip = property
    g.style.cursor = cursor
    grips.append(g)
    lay(g, box)
    g.addEventListener("pointerdown", (e) => {
      e.preventDefault()
      g.setPointerCapture(e.pointerId)
      const el = selected
      const style = getComputedStyle(el)
      const from = { x: e.clientX, y: e.clientY, width: el.getBoundingClientRect().width, low: parseFloat(style.paddingBottom) || 0,
        columns: style.gridTemplateColumns.split(" ").map(parseFloat) }
      let value = ""
      const move = (m) => {
        if (property === "space-within") {
          const low = Math.max(0, Math.round(from.low + m.clientY - from.y))
          value = `${style.paddingTop} ${style.paddingRight} ${low}px ${style.paddingLeft}`
          el.style.setProperty("padding-bottom", `${low}px`, "important")
          said(`${low} px below`)
        } else if (property === "width") {
          const wide = Math.max(40, Math.round(from.width + m.clientX - from.x))
          value = `${wide}px`
          el.style.setProperty("max-width", value, "important")
          said(`${wide} px wide`)
        } else {
          const by = Math.max(20 - from.columns[index], Math.min(m.clientX - from.x, from.columns[index + 1] - 20))
          const list = from.columns.map((c, i) => (i === index ? c + by : i === index + 1 ? c - by : c))
          const all = list.reduce((a, c) => a + c, 0)
          value = list.map((c) => `${Math.max(0.05, Math.round((c / all) * list.length * 20) / 20)}fr`).join(" ")
          el.style.setProperty("grid-template-columns", value, "important")
          said(value.replaceAll("fr", "").replaceAll(" ", " : "))
        }
        chosen.hidden = false
        lay(chosen, boxOf(el))
      }
      const said = (words) => {
        name.hidden = false
        name.textContent = words
        name.style.left = `${boxOf(el).left}px`
        name.style.top = `${boxOf(el).top + 4}px`
      }
      const end = () => {
        g.removeEventListener("pointermove", move)
        g.removeEventListener("pointerup", end)
        g.removeEventListener("pointercancel", end)
        if (value) tell("appearance", { number: numberOf(el), property, value })
        redraw()
      }
      g.addEventListener("pointermove", move)
      g.addEventListener("pointerup", end)
      g.addEventListener("pointercancel", end)
    })
  }

  // Places between the blocks of the page, to insert at.
  function drawSpots() {
    spots.replaceChildren()
    if (!placing) return
    for (const n of placing) {
      const el = at(n)
      if (!el) continue
      const b = boxOf(el)
      if (b.width < 8 || b.height < 4) continue
      for (const place of el.previousElementSibling?.hasAttribute(number) ? ["after"] : ["before", "after"]) {
        const s = document.createElement("div")
        s.className = "spot"
        s.title = `Insert ${place} ${told[n]?.says ?? "this"}`
        s.dataset.spot = `${n} ${place}`
        spots.append(s)
        lay(s, { top: (place === "before" ? b.top : b.top + b.height) - 4 / scale, left: b.left, width: b.width, height: 8 / scale })
        s.addEventListener("click", () => tell("spot", { number: n, place }))
        s.addEventListener("dragover", (e) => { e.preventDefault(); s.classList.add("here") })
        s.addEventListener("dragleave", () => s.classList.remove("here"))
        s.addEventListener("drop", (e) => { e.preventDefault(); tell("spot", { number: n, place }) })
      }
    }
  }

  function select(el, how) {
    if (typed && typed !== el && !typed.contains(el)) endTyping()
    selected = el
    stepAside()
    redraw()
    if (el) tell("select", { number: numberOf(el), rect: rectOf(el), how, measures: measures(el) })
  }
  const measures = (el) => {
    const s = getComputedStyle(el)
    return { colour: s.color, background: s.backgroundColor, font: s.fontFamily, size: s.fontSize, within: s.padding, around: s.margin,
      align: s.textAlign, corners: s.borderRadius, shadow: s.boxShadow, grid: s.display.includes("grid") || s.display.includes("flex"), columns: s.gridTemplateColumns,
      gap: s.gap, picture: s.backgroundImage, width: Math.round(el.getBoundingClientRect().width), height: Math.round(el.getBoundingClientRect().height) }
  }

  // Typing. One element at a time; what is compared are the words between the elements that it holds.
  const typeable = (el) => told[numberOf(el)]?.words && !el.closest("a,button,summary,label,select,option,textarea")
  const runsOf = (el) => {
    const out = [""]
    for (const c of el.childNodes) {
      if (c.nodeType === 3) out[out.length - 1] += c.data
      else if (c.nodeType === 1) out.push("")
    }
    return out
  }
  const insides = (el) => [...el.querySelectorAll("*")]
  let before = [], held = [], composing = false
  function beginTyping(el, x, y) {
    if (typed === el) return
    endTyping()
    typed = el
    before = runsOf(el)
    held = insides(el)
    el.setAttribute("contenteditable", "plaintext-only")
    el.setAttribute("spellcheck", "false")
    el.focus({ preventScroll: true })
    const caret = x === undefined ? null : document.caretRangeFromPoint?.(x, y)
    const range = document.createRange()
    if (caret && el.contains(caret.startContainer)) range.setStart(caret.startContainer, caret.startOffset)
    else range.selectNodeContents(el), range.collapse(false)
    getSelection().removeAllRanges()
    getSelection().addRange(range)
    tell("typing-begins", { number: numberOf(el) })
    redraw()
  }
  function endTyping() {
    if (!typed) return
    compare()
    const el = typed
    typed = null
    el.removeAttribute("contenteditable")
    el.removeAttribute("spellcheck")
    if (document.activeElement === el) el.blur()
    tell("typing-ends", { number: numberOf(el) })
    redraw()
  }
  function compare() {
    if (!typed) return
    const n = numberOf(typed)
    const inner = insides(typed)
    if (inner.length !== held.length || inner.some((e, i) => e !== held[i])) {
      held = inner
      before = runsOf(typed)
      tell("formatted", { number: n, value: inlineOf(typed) })
      return
    }
    const now = runsOf(typed)
    now.forEach((text, i) => {
      if (text === before[i]) return
      tell("words", { number: n, run: i + 1, before: before[i], now: text })
    })
    before = now
  }
  const escaped = (s) => s.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;")
  function inlineOf(from) {
    let out = ""
    for (const c of from.childNodes) {
      if (c.nodeType === 3) out += escaped(c.data.replaceAll("\u00a0", " "))
      else if (c.nodeType !== 1) continue
      else if (c.localName === "br") out += "<br>"
      else if (["b", "strong", "i", "em"].includes(c.localName)) out += `<${c.localName}>${inlineOf(c)}</${c.localName}>`
      else if (c.localName === "a") out += `<a href="${escaped(c.getAttribute("href") ?? "").replaceAll('"', "&quot;")}">${inlineOf(c)}</a>`
      else if (["script", "style", "template", "title"].includes(c.localName)) continue
      else out += inlineOf(c) + (/^(p|div|li|tr|h[1-6])$/.test(c.localName) ? "<br>" : "")
    }
    return out
  }
  document.addEventListener("input", (e) => {
    if (e.target !== typed) return
    redraw()
    if (composing || e.isComposing) return
    compare()
  }, true)
  document.addEventListener("compositionstart", () => { composing = true }, true)
  document.addEventListener("compositionend", () => { composing = false; setTimeout(compare, 0) }, true)
  document.addEventListener("focusout", (e) => { if (e.target === typed && !composing) compare() }, true)
  document.addEventListener("paste", (e) => {
    if (!typed) return
    e.preventDefault()
    const markup = e.clipboardData.getData("text/html")
    const plain = e.clipboardData.getData("text/plain")
    const doc = markup ? new DOMParser().parseFromString(markup, "text/html") : null
    if (!doc || !doc.body.querySelector("b,strong,i,em,a[href],br,p,li")) {
      document.execCommand("insertText", false, plain.replace(/\s*\r?\n\s*/g, " "))
      return
    }
    const clean = inlineOf(doc.body).replace(/\s+/g, " ").replace(/(<br>\s*)+$/, "").trim()
    const range = getSelection().getRangeAt(0)
    range.deleteContents()
    const piece = new DOMParser().parseFromString(`<body>${clean}`, "text/html").body
    const nodes = [...piece.childNodes]
    for (const node of nodes.toReversed()) range.insertNode(node)
    getSelection().collapseToEnd()
    compare()
  }, true)

  function format(tag, href) {
    const range = typed && getSelection().rangeCount ? getSelection().getRangeAt(0) : null
    if (!range || range.collapsed || !typed.contains(range.commonAncestorContainer)) return false
    const around = elementOf(range.commonAncestorContainer)?.closest(tag) ?? elementIn(range.commonAncestorContainer, tag)
    if (around && typed.contains(around) && around !== typed && !href) around.replaceWith(...around.childNodes)
    else {
      const el = document.createElement(tag)
      if (href) el.setAttribute("href", href)
      el.append(range.extractContents())
      range.insertNode(el)
      for (const empty of typed.querySelectorAll("b:empty,i:empty,strong:empty,em:empty,a:empty")) empty.remove()
    }
    typed.normalize()
    compare()
    return true
  }
  const elementIn = (node, tag) => (node instanceof Element ? node : node.parentElement)?.closest(tag)

  // The pointer and the keys.
  addEventListener("pointermove", (e) => {
    const el = elementOf(e.composedPath()[0] === host ? document.elementFromPoint(e.clientX, e.clientY) : e.target)
    if (el === pointed) return
    pointed = el
    redraw()
  }, true)
  document.documentElement.addEventListener("pointerleave", () => { pointed = null; redraw() })
  for (const kind of ["mousedown", "mouseup", "pointerup", "dblclick", "auxclick", "submit", "toggle"])
    addEventListener(kind, (e) => {
      if (e.target === host || typed?.contains(e.target)) return
      if (kind === "mousedown" && typed) endTyping()
      if (kind !== "toggle" && kind !== "pointerup") e.preventDefault()
      if (kind !== "toggle") e.stopPropagation()
    }, true)
  addEventListener("click", (e) => {
    if (e.target === host) return
    if (typed?.contains(e.target)) { e.preventDefault(); return }
    e.preventDefault()
    e.stopPropagation()
    const el = elementOf(e.target)
    if (!el) return select(null, "click")
    select(el, "click")
    let to = el
    while (to && !typeable(to) && told[numberOf(to)]?.inline) to = to.parentElement?.closest(`[${number}]`)
    if (to && typeable(to)) beginTyping(to, e.clientX, e.clientY)
  }, true)
  addEventListener("keydown", (e) => {
    if (typed) {
      const meta = e.ctrlKey || e.metaKey
      if (e.key === "Escape") { e.preventDefault(); endTyping(); focusOn(selected) }
      else if (e.isComposing) return
      else if (e.key === "Enter" && e.shiftKey) {
        e.preventDefault()
        const range = getSelection().getRangeAt(0)
        range.deleteContents()
        const br = document.createElement("br")
        range.insertNode(br)
        range.setStartAfter(br)
        range.collapse(true)
        compare()
      } else if (e.key === "Enter") {
        e.preventDefault()
        if (/^(p|li)$/.test(typed.localName)) splitHere()
        else { endTyping(); focusOn(selected) }
      } else if (meta && !e.altKey && (e.key === "b" || e.key === "i")) { e.preventDefault(); format(e.key === "b" ? "strong" : "em") }
      else if (e.key === "Tab") { e.preventDefault(); endTyping(); tell("key", { key: "Tab", shift: e.shiftKey }) }
      return
    }
    if (["Tab", "F6"].includes(e.key) && !e.altKey) return
    if (e.key === "Enter" && selected && typeable(selected)) { e.preventDefault(); beginTyping(selected); return }
    e.preventDefault()
    tell("key", { key: e.key, alt: e.altKey, shift: e.shiftKey, ctrl: e.ctrlKey || e.metaKey })
  }, true)
  function splitHere() {
    compare()
    const range = getSelection().getRangeAt(0)
    const rest = document.createRange()
    rest.setStart(range.endContainer, range.endOffset)
    rest.setEnd(typed, typed.childNodes.length)
    const first = document.createRange()
    first.setStart(typed, 0)
    first.setEnd(range.startContainer, range.startOffset)
    const el = typed
    tell("split", { number: numberOf(el), first: inlineOf(first.cloneContents()), rest: inlineOf(rest.cloneContents()) })
    endTyping()
  }
  function focusOn(el) {
    if (!el) return
    el.setAttribute("tabindex", "-1")
    el.focus({ preventScroll: true })
  }
  for (const kind of ["dragover", "drop"])
    addEventListener(kind, (e) => {
      if (e.target === host) return
      e.preventDefault()
      if (kind !== "drop") return
      const el = elementOf(e.target)
      const file = e.dataTransfer?.files[0]
      if (el && file) { select(el, "drop"); tell("file", { number: numberOf(el), file }) }
    }, true)

  // What a script would open or move lies open and still.
  function lieOpen() {
    for (const d of document.querySelectorAll("details:not([open],.cp-menu-fold)")) { d.open = true; d.setAttribute("data-cp-lies-open", "") }
    for (const p of document.querySelectorAll("[role=tabpanel][hidden]")) { p.hidden = false; p.setAttribute("data-cp-shown", "") }
    if (scripts === "0") return
    for (const el of document.querySelectorAll(`[${number}]`)) {
      const s = getComputedStyle(el)
      if (s.display === "none") {
        // One of several alike, as a slide: what the keeper hid by its appearance stays hidden.
        const alike = (o) => o !== el && o.localName === el.localName && el.classList.length > 0 &&
          [...el.classList].every((c) => o.classList.contains(c)) && getComputedStyle(o).display !== "none"
        const kept = [...el.classList].some((c) => /^own-\d+$/.test(c))
        if (!kept && [...(el.parentElement?.children ?? [])].some(alike)) el.setAttribute("data-cp-shown", "")
      } else if (s.opacity === "0" || s.visibility === "hidden" && el.offsetParent) el.setAttribute("data-cp-lies-open", "")
    }
  }

  // What a page draws before or after an element takes no clicks from what lies below it: a link that is stretched over
  // its card, a veil.
  function letThrough() {
    for (const el of [document.documentElement, ...(document.body ? [document.body] : []), ...document.querySelectorAll(`[${number}]`)])
      for (const where of ["::before", "::after"]) {
        const s = getComputedStyle(el, where)
        if (s.content !== "none" && (s.position === "absolute" || s.position === "fixed")) el.setAttribute("data-cp-through", "drawn")
      }
  }

  // What covers the whole page until a script takes it away stands aside, but while it is chosen; what one sees through
  // stays, and lets the pointer through.
  const aside = new Set()
  const seenThrough = (el) => {
    const s = getComputedStyle(el), alpha = /^rgba\(.*, ([\d.]+)\)$/.exec(s.backgroundColor)
    return s.backgroundImage === "none" && !!alpha && Number(alpha[1]) < 0.9 || Number(s.opacity) < 0.9
  }
  const covering = (n) => {
    for (; n && n !== document.body; n = n.parentElement) {
      const r = n.getBoundingClientRect(), s = getComputedStyle(n).position
      if ((s === "fixed" || s === "absolute") && n.hasAttribute(number) && Math.min(r.right, innerWidth) - Math.max(r.left, 0) >= innerWidth * 0.9 &&
        Math.min(r.bottom, innerHeight) - Math.max(r.top, 0) >= innerHeight * 0.9) return n
    }
    return null
  }
  function lookForCovers() {
    const spoken = (el) => [...el.childNodes].some((c) => c.nodeType === 3 && c.data.trim())
    const inSight = (r) => r.width && r.height && r.top + r.height / 2 < innerHeight && r.bottom > 0 && r.left < innerWidth && r.right > 0
    const texts = [...document.querySelectorAll(`[${number}]`)].filter((el) => spoken(el) && inSight(el.getBoundingClientRect())).slice(0, 60)
    for (let tries = 0; tries < 5; tries++) {
      const covered = new Map()
      for (const el of texts) {
        const r = el.getBoundingClientRect()
        const top = document.elementFromPoint(r.left + r.width / 2, r.top + r.height / 2)
        const by = top && !el.contains(top) ? covering(top) : null
        if (by && !by.contains(el)) covered.set(by, (covered.get(by) ?? 0) + 1)
      }
      const cover = [...covered.keys()].find((c) => {
        const below = texts.filter((el) => !c.contains(el) && el.getClientRects().length)
        return below.length > (texts.length - below.length) * 2 && covered.get(c) >= below.length * 0.8
      })
      if (!cover) break
      if (seenThrough(cover)) cover.setAttribute("data-cp-through", "whole")
      else aside.add(cover)
      stepAside()
    }
  }
  function stepAside() {
    for (const el of aside) el.toggleAttribute("data-cp-aside", !(selected?.isConnected && el.contains(selected)))
  }

  const does = {
    names(m) { told = m.list; samples = Object.keys(told).filter((n) => told[n].sample); scale = m.scale ?? scale; hidden(); draw() },
    scale(m) { scale = m.scale; redraw() },
    select(m) {
      selected = at(m.number)
      pointed = null
      stepAside()
      for (let d = selected?.closest("dialog:not([open]),details:not([open])"); d; d = d.parentElement?.closest("dialog:not([open]),details:not([open])")) {
        d.setAttribute("open", "")
        d.setAttribute("data-cp-lies-open", "")
      }
      if (m.reveal) selected?.scrollIntoView({ block: "nearest", behavior: "instant" })
      if (m.focus) focusOn(selected)
      redraw()
      if (selected) tell("selected", { number: m.number, rect: rectOf(selected), measures: measures(selected) })
    },
    type(m) { const el = at(m.number); selected = el; stepAside(); if (el && typeable(el)) { el.scrollIntoView({ block: "nearest" }); beginTyping(el) } },
    stop() { endTyping() },
    format(m) { format(m.tag, m.href) },
    words(m) { // typed in a box beside it
      const el = at(m.number)
      const runs = el ? [...el.childNodes].filter((c) => c.nodeType === 3 && c.data.trim()) : []
      if (runs.length) runs[0].data = m.value
      else if (el && !el.children.length) el.textContent = m.value
      redraw()
    },
    look(m) { const el = at(m.number); for (const [p, v] of m.list) if (el) v ? el.style.setProperty(p, v, "important") : el.style.removeProperty(p); redraw() },
    source(m) { const el = at(m.number); if (el) { el.removeAttribute("srcset"); el.src = m.value } },
    take(m) { // at once, until the page comes as it is by then
      const el = at(m.number), beside = m.beside === undefined ? null : at(m.beside)
      if (!el) return
      if (m.how === "remove") { if (selected === el) selected = null; el.style.setProperty("display", "none", "important") }
      else if (m.how === "duplicate") el.after(el.cloneNode(true))
      else if (beside) m.how === "before" ? beside.before(el) : m.how === "after" ? beside.after(el) : beside.append(el)
      redraw()
    },
    placing(m) { placing = m.list; drawSpots() },
    scroll(m) { scrollTo(0, m.y) },
    jump(m) { // as a link to it would, to see how much of it a bar covers
      const el = at(m.number), was = scrollY
      if (!el) return
      el.scrollIntoView({ behavior: "instant" })
      const top = Math.round(el.getBoundingClientRect().top), covered = coveredBy(el)
      scrollTo({ top: was, behavior: "instant" })
      tell("jumped", { number: m.number, top, covered })
    },
  }
  function coveredBy(jumped) { // how much of the top a bar covers that stays there
    let low = 0
    for (const el of document.querySelectorAll("body *")) {
      if (el.contains(jumped) || jumped.contains(el)) continue
      const s = getComputedStyle(el)
      const r = el.getBoundingClientRect()
      if ((s.position === "fixed" || s.position === "sticky") && r.top <= 1 && r.height < innerHeight / 2 && r.width > innerWidth / 2) low = Math.max(low, r.bottom)
    }
    return Math.round(low)
  }
  function hidden() {
    const list = []
    for (const el of document.querySelectorAll(`[${number}]`)) if (!el.getClientRects().length) list.push(numberOf(el))
    tell("hidden", { list, open: document.querySelectorAll("[data-cp-lies-open],[data-cp-shown]").length, aside: aside.size })
  }

  addEventListener("message", (e) => {
    if (e.source !== parent || port || e.data?.cpKey !== key || !e.ports[0]) return
    port = e.ports[0]
    port.onmessage = (m) => does[m.data.what]?.(m.data)
    tell("ready", { digest, scripts: Number(scripts), width: innerWidth })
  })
  const begin = () => {
    document.documentElement.append(host)
    lieOpen()
    for (const a of document.getAnimations?.() ?? []) try { a.finish() } catch { a.cancel() }
    letThrough()
    lookForCovers()
    parent.postMessage({ cpEditing: key }, "*")
    addEventListener("scroll", () => { redraw(); drawSpots(); tell("scrolled", { y: scrollY, rect: selected?.isConnected ? rectOf(selected) : null }) }, { passive: true })
    addEventListener("resize", () => { redraw(); drawSpots(); hidden() })
    new ResizeObserver(() => { redraw(); drawSpots() }).observe(document.documentElement)
  }
  if (document.readyState === "loading") addEventListener("DOMContentLoaded", begin)
  else begin()
})()
