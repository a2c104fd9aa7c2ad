package harness

import (
	"encoding/json"
	"strings"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// found is the expression of the first visible element that a CSS selector or an XPath names.
func found(what string) string {
	quoted, _ := json.Marshal(what)
	if strings.HasPrefix(what, "/") {
		return `(() => { const all = document.evaluate(` + string(quoted) + `, document, null, 7, null);
			for (let i = 0; i < all.snapshotLength; i++) if (all.snapshotItem(i).getClientRects().length) return ` +
			`all.snapshotItem(i); return all.snapshotItem(0) })()`
	}
	return `document.querySelector(` + string(quoted) + `)`
}

// place is where an element can be clicked, in CSS pixels of the window; Ready is false as long as it moves, is
// covered or cannot be pressed.
type place struct {
	Ready bool    `json:"ready"`
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
	Why   string  `json:"why"`
}

// whereabouts scrolls an element into sight and tells where it is once it has held still for three frames. It also
// listens for what the next press hits: "press" and "click" are told apart, since a page that moves what is under the
// finger between the two loses the click.
func whereabouts(what string) string {
	return `(async () => {
		const no = (why) => ({ready: false, x: 0, y: 0, why})
		const find = () => ` + found(what) + `
		const frame = () => new Promise((r) => { requestAnimationFrame(r); setTimeout(r, 100) })
		const at = (e) => { const b = e.getBoundingClientRect(); return [b.left, b.top, b.width, b.height].join() }
		const e = find()
		if (!e) return no("it is not there")
		if (e.disabled) return no("it is disabled")
		const scroll = (block) => e.scrollIntoView({block, inline: "nearest", behavior: "instant"})
		scroll("nearest")
		const before = at(e)
		for (let i = 0; i < 3; i++) { await frame(); if (at(e) !== before) return no("it moves") }
		const boxes = [...e.getClientRects()].filter((b) => b.width && b.height)
		if (!boxes.length) return no("it is not shown")
		const b = boxes[0], x = b.left + b.width / 2, y = b.top + b.height / 2
		const top = document.elementFromPoint(x, y)
		if (!top || !(e.contains(top) || top.contains(e) && top.closest("label"))) {
			scroll("center") // out from under what sticks to an edge
			await frame()
			return no("it is covered by " + (top?.outerHTML.slice(0, 120) ?? "nothing"))
		}
		window.__pressed = {press: false, click: false}
		const hit = (ev) => { const p = ev.composedPath(); return p.includes(e) || p.includes(find()) }
		addEventListener("mousedown", (ev) => { window.__pressed.press = hit(ev) }, {capture: true, once: true})
		addEventListener("click", (ev) => { window.__pressed.click = hit(ev) }, {capture: true, once: true})
		return {ready: true, x, y, why: ""}
	})()`
}

// Click clicks what a CSS selector or an XPath names, once it holds still, can be pressed and nothing covers it. A
// press beside it (the page moved just then) is made again; a page that moves while the button is down loses what
// people do, and fails the test.
func (b *Browser) Click(what string) {
	b.t.Helper()
	why := "nothing was tried"
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(30 * time.Millisecond) {
		at, err := chromedp.Run(b.ctx, chromedp.Evaluate[place](whereabouts(what), chromedp.EvalAwaitPromise))
		if err != nil { // the page is being left
			why = err.Error()
			continue
		}
		if !at.Ready {
			why = at.Why
			continue
		}
		b.Do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at.X, at.Y), chromedp.MouseClickXY(at.X, at.Y))
		pressed, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](
			`window.__pressed ? [window.__pressed.press, window.__pressed.click].join() : "left"`))
		switch {
		case err != nil, pressed == "left", pressed == "true,true":
			return
		case pressed == "true,false":
			require.Fail(b.t, "the page moved under the finger", "%s was pressed, and never clicked", what)
		}
		why = "the page moved just before"
	}
	require.Fail(b.t, "it could not be clicked", "%s: %s; the page shows:\n%s", what, why,
		Eval[string](b, `location.href + "\n" + document.body.innerText`))
}

// Press clicks the button or link with these words.
func (b *Browser) Press(words string) {
	b.t.Helper()
	b.Click(Button(words))
}
