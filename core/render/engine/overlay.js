// Opens the overlays of a page by their triggers, and remembers those that were shown.
const stores = { session: () => sessionStorage, never: () => localStorage }
for (const box of document.querySelectorAll("dialog[data-cp-trigger]")) {
  const { cpTrigger: trigger, cpValue: value, cpRepeat: repeat, cpName: name } = box.dataset
  const key = "cp-overlay:" + name
  const seen = () => { try { return stores[repeat]?.().getItem(key) } catch { return null } }
  let shown = false
  const open = () => {
    if (shown || box.open || seen()) return
    shown = trigger !== "click"
    try { stores[repeat]?.().setItem(key, "1") } catch { /* it opens again next time */ }
    box.showModal()
  }
  if (trigger === "delay") setTimeout(open, Number(value) * 1000)
  if (trigger === "scroll") {
    const look = () => {
      const room = document.documentElement.scrollHeight - innerHeight
      if (room <= 0 || scrollY / room >= Number(value)) { removeEventListener("scroll", look); open() }
    }
    addEventListener("scroll", look, { passive: true })
  }
  if (trigger === "pointer-out") document.documentElement.addEventListener("mouseleave", (e) => { if (e.clientY <= 0) open() })
  for (const b of document.querySelectorAll("[data-opens]")) if (b.dataset.opens === name) b.addEventListener("click", (e) => { e.preventDefault(); open() })
  box.addEventListener("click", (e) => { if (e.target === box) box.close() })
}
