package harness

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// The page that is edited lies in a frame of another origin, which a test reaches as a debugger does.

// editedFrame is the frame whose page is shown to be edited.
func (b *Browser) editedFrame() cdp.FrameID {
	b.t.Helper()
	var id cdp.FrameID
	require.Eventually(b.t, func() bool {
		name := Eval[string](b, `document.querySelector("[data-page-frame=shown]")?.name ?? ""`)
		if name == "" {
			return false
		}
		tree, err := chromedp.Call(b.ctx, page.GetFrameTree, cdp.Empty{})
		require.NoError(b.t, err)
		for _, c := range tree.FrameTree.ChildFrames {
			if c.Frame.Name == name {
				id = c.Frame.ID
			}
		}
		return id != ""
	}, 40*time.Second, 50*time.Millisecond, "no page is shown to be edited")
	return id
}

// Edited gives the value of an expression in the page that is edited.
func Edited[T any](b *Browser, expression string) (v T) {
	b.t.Helper()
	got, err := evaluated(b, expression)
	for range 40 { // the page may just be shown again
		if err == nil {
			break
		}
		time.Sleep(100 * time.Millisecond)
		got, err = evaluated(b, expression)
	}
	require.NoError(b.t, err, expression)
	require.NoError(b.t, json.Unmarshal(got, &v), "%s gives %s", expression, got)
	return v
}

func evaluated(b *Browser, expression string) ([]byte, error) {
	ctx, cancel := context.WithTimeout(b.ctx, 40*time.Second)
	defer cancel()
	world, err := chromedp.Call(ctx, page.CreateIsolatedWorld, page.CreateIsolatedWorldParams{FrameID: b.editedFrame()})
	if err != nil {
		return nil, err
	}
	yes := true
	out, err := chromedp.Call(ctx, runtime.Evaluate, runtime.EvaluateParams{Expression: expression,
		ContextID: world.ExecutionContextID, ReturnByValue: &yes, AwaitPromise: &yes})
	if err != nil {
		return nil, err
	}
	if out.ExceptionDetails != nil {
		return nil, fmt.Errorf("%s", out.ExceptionDetails.Text)
	}
	if len(out.Result.Value) == 0 {
		return []byte("null"), nil
	}
	return out.Result.Value, nil
}

// Shows waits until the page that is edited shows a text.
func (b *Browser) Shows(text string) {
	b.t.Helper()
	quoted, _ := json.Marshal(text)
	require.Eventually(b.t, func() bool {
		return Edited[bool](b, "document.body.innerText.replace(/\\s+/g, ' ').includes("+string(quoted)+")")
	}, 40*time.Second, 50*time.Millisecond, "the page that is edited does not show %q", text)
}

// on is an expression for an element of the page that is edited, by a CSS selector, or by its words.
func on(what string) string {
	quoted, _ := json.Marshal(strings.TrimPrefix(what, "words:"))
	if strings.HasPrefix(what, "words:") {
		return `[...document.querySelectorAll("body *")].filter((e) => e.textContent.replace(/\s+/g, " ").includes(` +
			string(quoted) + `)).at(-1)`
	}
	return "document.querySelector(" + string(quoted) + ")"
}

// At gives the middle of an element of the page that is edited, in CSS pixels of the window; the page is scrolled
// until it is in sight.
func (b *Browser) At(what string) (x, y float64) {
	b.t.Helper()
	type box struct{ X, Y, W, H float64 }
	b.AtRest() // the page may be about to be shown again
	Edited[bool](b, `(async (e) => { if (!e) throw new Error("no such element"); e.scrollIntoView({block: "center",
		behavior: "instant"}); for (let i = 0; i < 2; i++) await new Promise((r) => requestAnimationFrame(r))
		return true })(`+
		on(what)+`)`)
	// Of words that break over lines, those of the first line.
	in := Edited[box](b, `(e => { const r = [...e.getClientRects()].find((r) => r.width && r.height) ??
		e.getBoundingClientRect()
		return {X: r.left, Y: r.top, W: Math.min(r.width, 60), H: Math.min(r.height, 40)} })(`+
		on(what)+`)`)
	out := Eval[box](b, `(e => { const r = e.getBoundingClientRect(); return {X: r.left, Y: r.top,
		W: r.width / e.offsetWidth, H: 0} })(`+
		`document.querySelector("[data-page-frame=shown]"))`)
	return out.X + (in.X+in.W/2)*out.W, out.Y + (in.Y+in.H/2)*out.W
}

// PointAt clicks an element of the page that is edited. A click beside it, or into a page that another one took the
// place of just then, is made again, as people do.
func (b *Browser) PointAt(what string) {
	b.t.Helper()
	const mark = `"data-test-hit"`
	for end := time.Now().Add(40 * time.Second); time.Now().Before(end); {
		frame := b.editedFrame()
		x, y := b.At(what)
		Edited[bool](b, `(() => {
			const before = `+on(what)+`
			addEventListener("click", (ev) => {
				const path = ev.composedPath(), now = `+on(what)+`
				const at = path[0] // what holds the words alone stands for them
				if (path.includes(before) || path.includes(now) || now && now.parentElement === at)
					document.documentElement.setAttribute(`+mark+`, "")
			}, {capture: true, once: true})
			return true })()`)
		b.Do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, x, y), chromedp.MouseClickXY(x, y))
		hit := Edited[bool](b, `(() => { const e = document.documentElement, hit = e.hasAttribute(`+mark+`)
			e.removeAttribute(`+mark+`)
			return hit })()`)
		if hit && b.editedFrame() == frame {
			return
		}
	}
	require.Fail(b.t, "it could not be pointed at", "%s", what)
}

// Write clicks words of the page and writes others in their place.
func (b *Browser) Write(what, words string) {
	b.t.Helper()
	b.PointAt(what)
	require.Eventually(b.t, func() bool {
		return Edited[bool](b, `!!document.querySelector("[contenteditable]")`)
	}, 10*time.Second, 30*time.Millisecond, "%s cannot be typed in", what)
	Edited[bool](b, `(e => { getSelection().selectAllChildren(e);
		return true })(document.querySelector("[contenteditable]"))`)
	b.Insert(words)
}

// Insert types words where the caret is, as an input method does.
func (b *Browser) Insert(words string) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, input.InsertText, input.InsertTextParams{Text: words})
	require.NoError(b.t, err)
}

// Saved waits until all that was done is in the draft.
func (b *Browser) Saved() {
	b.t.Helper()
	// What the page has to tell the console has come there by then.
	Edited[bool](b, `new Promise((r) => setTimeout(() => r(true)))`)
	b.AtRest()
	b.Until(`document.querySelector("[data-state]")?.textContent.includes("Saved in your draft") ?? false`,
		"it is not saved in a draft")
}

// Offline breaks the connection of the browser, or mends it.
func (b *Browser) Offline(broken bool) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
		MatchedNetworkConditions: []*network.Conditions{{Offline: broken, DownloadThroughput: -1,
			UploadThroughput: -1}}})
	require.NoError(b.t, err)
}

// Leave goes away to an empty page, whatever the page asks before it is left.
func (b *Browser) Leave() {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 10*time.Second)
	defer cancel()
	asked := make(chan bool, 8)
	require.NoError(b.t, chromedp.Listen(ctx, func(ev any) {
		if _, ok := ev.(*page.EventJavascriptDialogOpening); ok {
			asked <- true
		}
	}))
	go func() {
		for {
			select {
			case <-asked:
				chromedp.Call(ctx, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true})
			case <-ctx.Done():
				return
			}
		}
	}()
	_, err := chromedp.Call(ctx, page.Navigate, page.NavigateParams{URL: "about:blank"})
	require.NoError(b.t, err)
	require.Eventually(b.t, func() bool { return Eval[string](b, "location.href") == "about:blank" }, 10*time.Second,
		20*time.Millisecond, "the page is not left")
}
