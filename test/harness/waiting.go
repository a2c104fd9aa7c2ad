package harness

import (
	"encoding/json"
	"fmt"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// patience is how long a test waits for what is sure to come. A machine with much else to do is slow; what has not
// come by then does not come.
const patience = 60 * time.Second

// Until waits until an expression holds in the page, and fails with what was waited for. A page that is being left
// is asked again.
func (b *Browser) Until(expression, what string, args ...any) {
	b.t.Helper()
	why := ""
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(30 * time.Millisecond) {
		holds, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](expression, chromedp.EvalAwaitPromise))
		if err == nil && holds {
			return
		}
		if why = ""; err != nil {
			why = err.Error()
		}
	}
	require.Fail(b.t, "it does not come", "%s %s", fmt.Sprintf(what, args...), why)
}

// Sees waits until the page shows a text.
func (b *Browser) Sees(text string) {
	b.t.Helper()
	quoted, _ := json.Marshal(text)
	b.Until(`(document.body?.innerText ?? "").replace(/\s+/g, " ").includes(`+string(quoted)+`)`,
		"the page does not show %q", text)
}

// AtRest waits until nothing is under way in the console: it tells so in the document (web/src/underWay.ts).
func (b *Browser) AtRest() {
	b.t.Helper()
	b.Until(`document.documentElement.dataset.underWay === "0"`, "the console does not come to rest")
}

// Painted waits until fonts and pictures are there and what changed has been painted.
func (b *Browser) Painted() {
	b.t.Helper()
	Eval[bool](b, `(async () => {
		await document.fonts.ready
		const shown = [...document.images].filter((e) => e.getClientRects().length)
		const read = Promise.all(shown.map((e) => e.decode().catch(() => {})))
		await Promise.race([read, new Promise((r) => setTimeout(r, 5000))]) // one far down may never be asked for
		for (let i = 0; i < 2; i++) await new Promise((r) => requestAnimationFrame(r))
		return true
	})()`)
}

// Fail ends the test; what the page shows, and what was logged, is told with it.
func (b *Browser) Fail(what string, args ...any) {
	b.t.Helper()
	require.Fail(b.t, fmt.Sprintf(what, args...))
}
