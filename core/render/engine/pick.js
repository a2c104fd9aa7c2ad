// Lets somebody point at an element: it is outlined under the pointer and the focus, and
// a click or Enter tells the window around which one it is; asked by that window, it chooses what is around that one.
const style = document.createElement("style")
style.textContent = "[data-cp-at]{cursor:crosshair!important}.cp-pointed{outline:3px solid #c8452f!important;outline-offset:2px!important}"
document.head.append(style)
let pointed, chosen
const known = (el) => el?.closest?.("[data-cp-at]")
function point(el) {
  pointed?.classList.toggle("cp-pointed", pointed === chosen)
  pointed = el
  pointed?.classList.add("cp-pointed")
}
function choose(el) {
  chosen?.classList.remove("cp-pointed")
  chosen = el
  point(el)
  const text = el.textContent.trim().replace(/\s+/g, " ")
  parent.postMessage({ cpPick: el.dataset.cpAt, tag: el.localName, text: text.slice(0, 120), bare: el.children.length === 0 && text !== "",
    href: el.getAttribute("href") ?? "", src: el.hasAttribute("src"), fill: el.getAttribute("data-fill") ?? "",
    around: Boolean(known(el.parentElement)) }, "*")
}
function tell(e) {
  e.preventDefault()
  e.stopPropagation()
  const el = known(e.target)
  if (el) choose(el)
}
for (const el of document.querySelectorAll("[data-cp-at]")) el.tabIndex = 0
addEventListener("mouseover", (e) => point(known(e.target)), true)
addEventListener("focusin", (e) => point(known(e.target)), true)
addEventListener("click", tell, true)
addEventListener("keydown", (e) => { if (e.key === "Enter") tell(e) }, true)
addEventListener("submit", (e) => e.preventDefault(), true)
addEventListener("message", (e) => {
  const el = e.source === parent && e.data?.cpAround && known(chosen?.parentElement)
  if (el) choose(el)
})
