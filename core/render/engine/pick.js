// Lets somebody point at an element: it is outlined under the pointer and the focus, and
// a click or Enter tells the window around which one it is.
const style = document.createElement("style")
style.textContent = "[data-cp-at]{cursor:crosshair!important}.cp-pointed{outline:3px solid #c8452f!important;outline-offset:2px!important}"
document.head.append(style)
let pointed
const at = (e) => e.target.closest?.("[data-cp-at]")
function point(el) {
  pointed?.classList.remove("cp-pointed")
  pointed = el
  pointed?.classList.add("cp-pointed")
}
function tell(e) {
  const el = at(e)
  e.preventDefault()
  e.stopPropagation()
  if (!el) return
  point(el)
  const text = el.textContent.trim().replace(/\s+/g, " ")
  parent.postMessage({ cpPick: el.dataset.cpAt, tag: el.localName, text: text.slice(0, 120), bare: el.children.length === 0 && text !== "",
    href: el.getAttribute("href") ?? "", src: el.hasAttribute("src"), fill: el.getAttribute("data-fill") ?? "" }, "*")
}
for (const el of document.querySelectorAll("[data-cp-at]")) el.tabIndex = 0
addEventListener("mouseover", (e) => point(at(e)), true)
addEventListener("focusin", (e) => point(at(e)), true)
addEventListener("click", tell, true)
addEventListener("keydown", (e) => { if (e.key === "Enter") tell(e) }, true)
addEventListener("submit", (e) => e.preventDefault(), true)
