package test

import (
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page's width holds on a site whose styles know nothing of it, and leaves alone those that do.
func TestAPageIsAsWideAsItSaysUnderForeignStyles(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	const foreign = `body{margin:0;font:16px/1.5 sans-serif}.wrap,main{max-width:600px;margin:0 auto;padding:0 20px}`
	files := map[string]string{
		"site.json": `{"format":1,"items":[{"kind":"page","key":"plain","slug":"/","styles":["stylesheet/foreign"]},` +
			`{"kind":"page","key":"edge","slug":"/edge/","width":"edge","styles":["stylesheet/foreign"]},` +
			`{"kind":"page","key":"wrapped","slug":"/wrapped/","width":"edge","styles":["stylesheet/foreign"]},` +
			`{"kind":"page","key":"text","slug":"/text/","width":"text","styles":["stylesheet/wide"]},` +
			`{"kind":"page","key":"known","slug":"/known/","width":"edge","styles":["stylesheet/knows"]},` +
			`{"kind":"part","key":"bar","role":"header"}]}`,
		"settings.json":           `{"title":"Wide"}`,
		"surround/bar.html":       `<header class="wrap">Hut</header>`,
		"stylesheets/foreign.css": foreign,
		"stylesheets/wide.css":    `body{margin:0}main{width:100%;max-width:none}`,
		"stylesheets/knows.css":   foreign + `[data-width="edge"] main{max-width:900px}`,
		"pages/plain.html":        `<main><div id="x">Plain</div></main>`,
		"pages/edge.html":         `<main><div id="x">Edge</div></main>`,
		"pages/wrapped.html":      `<div class="wrap" id="x">Wrapped</div>`,
		"pages/text.html":         `<main id="x">Text</main>`,
		"pages/known.html":        `<main id="x">Known</main>`,
	}
	require.Equal(t, 201,
		s.Call("PUT", "/api/v1/sites/wide", zipped(t, files), "Content-Type", "application/zip").Status)
	b := harness.NewBrowser(t)
	b.Size(1280, 800)
	width := func(page, selector string) float64 {
		b.Go(s.Live("wide") + page)
		return harness.Eval[float64](b, `document.querySelector("`+selector+`").getBoundingClientRect().width`)
	}
	assert.InDelta(t, 600, width("/", "#x"), 1)
	assert.InDelta(t, 1280, width("/edge/", "#x"), 1, "from edge to edge")
	assert.InDelta(t, 640, width("/edge/", "header"), 1, "the parts around it stay as they are")
	assert.InDelta(t, 1280, width("/wrapped/", "#x"), 1, "without a main part, too")
	assert.Less(t, width("/text/", "#x"), 900.0, "as wide as text reads well")
	assert.InDelta(t, 940, width("/known/", "#x"), 1, "styles that know of it decide")
}
