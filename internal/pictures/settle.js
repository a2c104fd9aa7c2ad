// Lets a page come to rest: what loads when it is scrolled to is loaded, fonts and pictures are waited for, and
// what moves is at its end. Gives the page's height.
(async () => {
  const within = (ms, p) => Promise.race([p, new Promise((r) => setTimeout(r, ms))])
  for (const i of document.querySelectorAll("[loading=lazy]")) i.loading = "eager"
  const style = document.createElement("style")
  style.textContent = "*,*::before,*::after{caret-color:transparent!important;scroll-behavior:auto!important}"
  document.documentElement.append(style)
  await within(2500, document.fonts.ready)
  await within(
    2500,
    Promise.all(
      [...document.images]
        .filter((i) => !i.complete)
        .map((i) => new Promise((r) => i.addEventListener("load", r, { once: true }))),
    ),
  )
  const rest = () => {
    for (const a of document.getAnimations()) {
      try {
        a.finish()
      } catch {
        a.cancel() // it never ends
      }
    }
    for (const m of document.querySelectorAll("video, audio")) m.pause()
  }
  rest()
  for (let i = 0; i < 2; i++) await within(200, new Promise((r) => requestAnimationFrame(r)))
  rest()
  const e = document.documentElement
  const height = Math.max(e.scrollHeight, document.body ? document.body.scrollHeight : 0)
  return JSON.stringify({ height })
})()
