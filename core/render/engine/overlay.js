// Opens the overlays of a page by their triggers, and remembers those shown once.
for (const box of document.querySelectorAll("dialog[data-cp-trigger]")) {
  const { cpTrigger: trigger, cpValue: value, cpOnce: once, cpName: name } = box.dataset
  const key = "cp-overlay:" + name
  const seen = () => { try { return localStorage.getItem(key) } catch { return null } }
  let shown = false
  const open = () => {
    if (shown || box.open || (once !== undefined && seen())) return
    shown = trigger !== "button"
    try { if (once !== undefined) localStorage.setItem(key, "1") } catch { /* it opens again next time */ }
    box.showModal()
  }
  if (trigger === "after") setTimeout(open, Number(value) * 1000)
  if (trigger === "depth") {
    const look = () => {
      const room = document.documentElement.scrollHeight - innerHeight
      if (room <= 0 || (scrollY / room) * 100 >= Number(value)) { removeEventListener("scroll", look); open() }
    }
    addEventListener("scroll", look, { passive: true })
  }
  if (trigger === "leave") document.documentElement.addEventListener("mouseleave", (e) => { if (e.clientY <= 0) open() })
  for (const b of document.querySelectorAll("[data-opens]")) if (b.dataset.opens === name) b.addEventListener("click", (e) => { e.preventDefault(); open() })
  box.addEventListener("click", (e) => { if (e.target === box) box.close() })
}
