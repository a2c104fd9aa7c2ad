package harness

import (
	"context"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Browser is a tab of a headless Chromium, with cookies and stores of its own.
type Browser struct {
	ctx context.Context
	t   testing.TB
	log consoleLog
}

// NewBrowser opens a tab, which is closed with the test. Of a test that failed, it tells what it showed last.
func NewBrowser(t testing.TB) *Browser {
	t.Helper()
	shared, err := chromium()
	require.NoError(t, err)
	ctx, cancel := chromedp.NewContext(shared, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	require.NoError(t, chromedp.Do(ctx))
	// Each tab is as if it were in front: those of other tests do not take the focus.
	_, err = chromedp.Call(ctx, emulation.SetFocusEmulationEnabled,
		emulation.SetFocusEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	b := &Browser{ctx: ctx, t: t}
	require.NoError(t, chromedp.Listen(ctx, b.log.hear))
	t.Cleanup(func() {
		b.log.mu.Lock()
		faults := b.log.faults
		b.log.mu.Unlock()
		assert.Empty(t, faults, "a script of the console is wrong")
		if t.Failed() {
			b.leaveBehind()
		}
	})
	b.Size(1280, 800)
	return b
}

// Still says that what moves is unwanted (Media Queries 5, prefers-reduced-motion).
func (b *Browser) Still() {
	b.t.Helper()
	still := emulation.MediaFeature{Name: "prefers-reduced-motion", Value: "reduce"}
	_, err := chromedp.Call(b.ctx, emulation.SetEmulatedMedia,
		emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{&still}})
	require.NoError(b.t, err)
}

// Do runs steps one after the other, each within a minute; a failure tells
// what the page shows.
func (b *Browser) Do(steps ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	for _, a := range steps {
		err := b.try(a)
		for i := 0; err != nil && i < 5 && passing(err); i++ {
			time.Sleep(200 * time.Millisecond)
			err = b.try(a)
		}
		require.NoError(b.t, err)
	}
}

// passing tells of what was drawn anew between being found and being used, and of a page that another one which was
// underway stood in the way of.
func passing(err error) bool {
	return strings.Contains(err.Error(), "Could not find node") || strings.Contains(err.Error(), "net::ERR_ABORTED")
}

func (b *Browser) try(a chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(b.ctx, 60*time.Second)
	defer cancel()
	return chromedp.Do(ctx, a)
}

// Eval gives the value of a script's expression; a promise is waited for.
func Eval[T any](b *Browser, expression string) T {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 60*time.Second)
	defer cancel()
	v, err := chromedp.Run(ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
	require.NoError(b.t, err, expression)
	return v
}

// Go opens an address; a view of the console has come to rest then.
func (b *Browser) Go(url string) {
	b.t.Helper()
	b.Do(chromedp.Navigate(url))
	b.Until(`(document.documentElement.dataset.underWay ?? "0") === "0"`, "%s does not come to rest", url)
}

// Size sets the window's size in CSS pixels.
func (b *Browser) Size(w, h int64) { b.t.Helper(); b.Do(chromedp.EmulateViewport(w, h)) }

// Button finds an enabled button or link by its words, as an XPath.
func Button(words string) string {
	return `//*[self::button or self::a][normalize-space(.)="` + words + `" and not(@disabled)]`
}

// Type writes into the field that a CSS selector names, in place of what it holds.
func (b *Browser) Type(selector, text string) {
	b.t.Helper()
	b.Click(selector)
	Eval[bool](
		b,
		`(e => { e.value = ""; e.dispatchEvent(new Event("input", {bubbles: true})); return true `+
			`})(document.querySelector(`+"`"+selector+"`"+`))`,
	)
	b.Do(chromedp.SendKeys(selector, text))
}

// Choose picks an option of a select element by its value.
func (b *Browser) Choose(selector, value string) {
	b.t.Helper()
	b.Do(chromedp.WaitVisible(selector))
	b.Until(`(e => { e.value = "`+value+`"; e.dispatchEvent(new Event("change", {bubbles: true})); return `+
		`e.value === "`+value+`" })(document.querySelector(`+"`"+selector+"`"+`))`,
		"%s has no option %q", selector, value)
}

// Hover moves the mouse to a place, in CSS pixels of the window.
func (b *Browser) Hover(x, y float64) {
	b.t.Helper()
	b.Do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, x, y))
}

// Confirm clicks the confirming button of an open dialog.
func (b *Browser) Confirm() { b.t.Helper(); b.Click(`[data-confirm]`) }

// Picture takes a PNG of what the window shows.
func (b *Browser) Picture() []byte {
	b.t.Helper()
	b.Painted()
	return b.capture(page.CaptureScreenshotParams{})
}

// capture takes a PNG that is packed quickly: it is compared, not kept.
func (b *Browser) capture(of page.CaptureScreenshotParams) []byte {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 30*time.Second)
	defer cancel()
	quickly := true
	of.OptimizeForSpeed = &quickly
	got, err := chromedp.Call(ctx, page.CaptureScreenshot, of)
	require.NoError(b.t, err)
	return got.Data
}

// Whole takes a PNG of a page at a width, from top to bottom.
func (b *Browser) Whole(url string, width int64) []byte {
	b.t.Helper()
	b.Size(width, 800)
	b.Go(url)
	height := Eval[int64](b,
		`document.fonts.ready.then(() => Math.ceil(document.documentElement.getBoundingClientRect().height))`)
	b.Size(width, max(height, 1))
	Eval[bool](b, `document.getAnimations().forEach((a) => {
		try { a.finish() } catch { a.pause(); a.currentTime = 0 }
	}), true`) // else the moment decides what is seen
	return b.Picture()
}

// Shot keeps a picture for the documentation, when CPARCEL_SHOTS names a folder.
func (b *Browser) Shot(name string) {
	b.t.Helper()
	dir := os.Getenv("CPARCEL_SHOTS")
	if dir == "" {
		return
	}
	const waits = `[...document.querySelectorAll("[data-picture=asked], [data-picture=waiting]")].some((e) => ` +
		`e.getBoundingClientRect().top < innerHeight) || /being (made|looked at)/.test(document.body.innerText)`
	for end := time.Now().Add(40 * time.Second); Eval[bool](b, waits) && time.Now().Before(end); {
		time.Sleep(300 * time.Millisecond)
	}
	time.Sleep(1200 * time.Millisecond) // frames within the page load after it
	require.NoError(b.t, os.WriteFile(filepath.Join(dir, name+".png"), b.Picture(), 0o644))
}

// Clip takes a PNG of a box of the page, in CSS pixels.
func (b *Browser) Clip(left, top, right, bottom float64) []byte {
	b.t.Helper()
	x, y := math.Floor(left), math.Floor(top)
	return b.capture(page.CaptureScreenshotParams{
		Clip: &page.Viewport{X: x, Y: y, Width: math.Ceil(right) - x, Height: math.Ceil(bottom) - y, Scale: 1},
	})
}
