package test

import (
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A preview in the console cannot lead the window around it elsewhere, by script nor by a
// click, also where the site's scripts may run.
func TestPreviewsCannotLeadTheConsoleAway(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	files := map[string]string{
		"site.json":     `{"format":1,"items":[{"kind":"page","key":"home","slug":"/"}]}`,
		"settings.json": `{"title":"Away","scripts":"approved"}`,
		"pages/home.html": `<!doctype html><html><head><script src="/media/away.js"></script></head><body ` +
			`style="margin:0"><a target="_top" href="http://127.0.0.1:1/away" ` +
			`style="display:block;height:3000px;background:#cde">Away</a></body></html>`,
		"media/away.js": `document.documentElement.dataset.ran = "yes"; try { top.location = ` +
			`"http://127.0.0.1:1/away" } catch (e) {} setTimeout(() => window.open("http://127.0.0.1:1/away", ` +
			`"_top"), 200)`,
		"blocks/none.html": "<p>x</p>",
	}
	require.Equal(t, 201,
		s.Call("PUT", "/api/v1/sites/away", zipped(t, files), "Content-Type", "application/zip").Status)
	v := s.Visit(s.Live("away") + "/")
	require.Contains(t, v.Header.Get("Content-Security-Policy"), "script-src 'self'", "its scripts may run")
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/sites/away/edit/")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Press("As visitors see it")
	const frame = `iframe[title="The page as visitors see it"]`
	b.Do(chromedp.WaitVisible(frame))
	harness.Eval[bool](
		b,
		`(async () => { document.querySelector('`+frame+`').scrollIntoView({block: "center"}); await new `+
			`Promise((r) => setTimeout(r, 1500)); return true })()`,
	)
	box := func(side string) float64 {
		return harness.Eval[float64](b, `document.querySelector('`+frame+`').getBoundingClientRect().`+side)
	}
	b.Do(chromedp.MouseClickXY(box("left")+60, max(box("top"), 0)+60))
	time.Sleep(time.Second) // nothing is to happen, and nothing tells of that
	assert.Equal(t, s.Console+"/sites/away/edit/", harness.Eval[string](b, "location.href"), "it stays where it is")
	b.Sees("As visitors see it")
}
