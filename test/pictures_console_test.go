package test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A librarian sees a kit's face, delivers it, sees each touched page before and after at two widths, and finds the
// rule of the site's that disturbs a piece.
func TestPicturesInTheConsole(t *testing.T) {
	t.Parallel()
	s := withBrowser(t, "--demo=sites")
	sealed(t, s, "1.0.0")
	sheet := filepath.Join(t.TempDir(), "plain.css")
	var plain api.ItemDetail
	s.JSON(&plain, "site", "show", "larch-saddle", "stylesheet/plain")
	require.NoError(t, os.WriteFile(sheet, []byte(*plain.Content+"\ndt { color: rgb(200, 0, 0) }\n"), 0o600))
	s.Must("site", "put", "larch-saddle", "stylesheet/plain", sheet, "--draft", "red")
	s.Must("site", "go-live", "larch-saddle", "red")
	s.Must("deliver", "hut-basics@1.0.0", "larch-saddle", "--fill", "hut-name=Larch", "--decide", "menu/main=both")
	var list api.DeliveryList
	s.JSON(&list, "delivery", "list")
	require.Len(t, list.Deliveries, 1)
	id := fmt.Sprint(list.Deliveries[0].Id)

	b := harness.NewBrowser(t)
	b.Go(s.Console + "/kits")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("hut-basics")
	seen := func(what string) func() bool {
		return func() bool { return harness.Eval[bool](b, what) }
	}
	require.Eventually(t, seen(`[...document.querySelectorAll("[data-picture=made] img")].some((i) => `+
		`i.naturalWidth > 100)`),
		time.Minute, 300*time.Millisecond, "the kit's face")
	assert.False(t, harness.Eval[bool](b, `!!document.querySelector("td iframe")`), "no list shows frames")

	b.Go(s.Console + "/deliveries/" + id + "/preview")
	const both = `[...document.querySelectorAll("section[aria-label='Before and after'] img")].filter((i) => ` +
		`i.complete && i.naturalWidth === %d).length === 2`
	require.Eventually(t, seen(fmt.Sprintf(both, 1280)), time.Minute, 300*time.Millisecond, "both sides, wide")
	b.Sees("differs")
	harness.Eval[bool](b, `(document.querySelector("section[aria-label='Before and after']").scrollIntoView(), true)`)
	b.Shot("console-before-after")
	assert.Positive(t, harness.Eval[int](b,
		`document.querySelectorAll("section[aria-label='Before and after'] span.outline-call").length`),
		"what differs is marked")
	harness.Eval[bool](b, `(() => { const r = document.querySelector("section[aria-label='Before and after'] `+
		`input[type=range]");`+
		`r.value = 0; r.dispatchEvent(new Event("input", { bubbles: true })); return true })()`)
	require.Eventually(t, seen(`[...document.querySelectorAll("section[aria-label='Before and after'] `+
		`img")].some((i) => `+
		`i.style.clipPath.replace(/px|%/g, "").startsWith("inset(0 100"))`), 10*time.Second, 100*time.Millisecond,
		"the slider shows the other side alone")
	b.Press("390 px")
	require.Eventually(t, seen(fmt.Sprintf(both, 390)), time.Minute, 300*time.Millisecond, "both sides, narrow")
	b.Sees("section/opening-hours")
	require.Eventually(t, seen(`document.body.innerText.includes("by rules of the site")`), time.Minute,
		300*time.Millisecond)
	b.Click(`summary:has(+ ul.list-disc)`)
	b.Sees("by stylesheet/plain dt")

	out := s.Must("delivery", "stands", id)
	assert.Contains(t, out, "color: rgb(200,0,0), by stylesheet/plain dt")
	assert.Equal(t, 1, strings.Count(out, "by stylesheet/plain"), "one rule disturbs one piece")

	b.Go(s.Console + "/jobs")
	b.Sees("What the service does by itself")
	pressedWhileAPictureComes(t, s, b)
}

// pressedWhileAPictureComes presses a site's picture, which is another one by the time that the button is let go.
func pressedWhileAPictureComes(t *testing.T, s *harness.Service, b *harness.Browser) {
	const shown = `!!document.querySelector("[data-open-to-edit] img")`
	eventually := func(what string) {
		require.Eventually(
			t,
			func() bool { return harness.Eval[bool](b, what) },
			time.Minute,
			50*time.Millisecond,
			what,
		)
	}
	b.Go(s.Console + "/sites/larch-saddle")
	b.Do(chromedp.WaitVisible("[data-open-to-edit]"))
	eventually(shown)
	middle := func(axis string) float64 {
		return harness.Eval[float64](b, `(() => { const r = document.querySelector("[data-open-to-edit] img").`+
			`getBoundingClientRect(); return `+axis+` })()`)
	}
	x, y := middle("r.left + r.width / 2"), middle("r.top + r.height / 2")
	b.Do(chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, x, y, chromedp.ButtonLeft,
		chromedp.ClickCount(1)))
	harness.Eval[bool](b, `document.querySelector("[data-open-to-edit] img").dispatchEvent(new Event("error"))`)
	eventually("!" + shown)
	b.Do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, x, y, chromedp.ButtonLeft,
		chromedp.ClickCount(1)))
	eventually(`location.pathname.startsWith("/sites/larch-saddle/edit")`)
}
