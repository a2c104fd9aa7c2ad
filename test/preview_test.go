package test

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// In a preview the engine's own script opens overlays, while the site's scripts wait
// for approval; published, both run. Forms answer with their confirmation.
func TestOverlaysAndScriptsInPreviewsAndPublished(t *testing.T) {
	dir := t.TempDir()
	for name, text := range map[string]string{
		"site.json": `{"format":1,"items":[{"kind":"page","key":"home","slug":"/"},{"kind":"page","key":"long",` +
			`"slug":"/long/"},{"kind":"part","key":"ask","role":"overlay","title":"Ask the warden"},
			{"kind":"part","key":"snow","role":"overlay","title":"Snow","trigger":{"on":"scroll","value":0.5},` +
			`"placement":{"where":["page:/long/"]}}]}`,
		"pages/home.html": `<!doctype html><html><head><title>Hut</title></head><body><main><button ` +
			`id="go" data-opens="ask">Ask</button><cp-form name="book"></cp-form><script>document.title = "the ` +
			`site's script ran"</script></main></body></html>`,
		"pages/long.html":    `<!doctype html><html><body><main style="height:5000px">long</main></body></html>`,
		"surround/ask.html":  `<p>The warden answers at six.</p>`,
		"surround/snow.html": `<p>Snow above the ford.</p>`,
		"forms/book.json": `{"title":"Book","order":["who"],"schema":{"required":["who"],` +
			`"properties":{"who":{"type":"string","title":"Who"}}},"confirmation":{"text":"The warden ` +
			`<b>answers</b> soon."}}`,
		"stylesheets/base.css":   `main { color: #223 }`,
		"menus/main.json":        `{"title":"Main","entries":[]}`,
		"sections/band.html":     `<section class="band">x</section>`,
		"settings.json":          `{"title":"Hut"}`,
		"media/drawn.svg":        `<svg xmlns="http://www.w3.org/2000/svg"></svg>`,
		"record-types/note.json": `{"title":"Note"}`,
	} {
		p := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(p), 0o755))
		require.NoError(t, os.WriteFile(p, []byte(text), 0o644))
	}
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "adopt", dir, "--name", "over")
	out := filepath.Join(t.TempDir(), "out")
	s.Must("site", "publish", "over", out)
	b := harness.NewBrowser(t)
	const open = `!!document.querySelector("dialog[open]")`
	for place, root := range map[string]string{"preview": s.Live("over"), "published": serve(t, out)} {
		b.Go(root + "/")
		assert.False(t, harness.Eval[bool](b, open), place)
		title := harness.Eval[string](b, `document.title`)
		if place == "preview" {
			assert.Equal(t, "Hut", title, "the site's script waits for approval")
		} else {
			assert.Equal(t, "the site's script ran", title)
		}
		b.Click("#go")
		require.Eventually(
			t,
			func() bool { return harness.Eval[bool](b, open) },
			10*time.Second,
			50*time.Millisecond,
			place,
		)
		b.Sees("The warden answers at six.")
		b.Click("dialog[open] .cp-overlay-close")
		assert.False(t, harness.Eval[bool](b, open), place)
		b.Go(root + "/long/")
		harness.Eval[bool](b, `(scrollTo(0, 4000), true)`)
		require.Eventually(
			t,
			func() bool { return harness.Eval[bool](b, open) },
			10*time.Second,
			50*time.Millisecond,
			"%s: half of the page is behind",
			place,
		)
		b.Sees("Snow above the ford.")
	}
	b.Go(s.Live("over") + "/")
	b.Type(`input[name=who]`, "Ida")
	b.Click(`.cp-form button`)
	b.Sees("The warden <b>answers</b> soon.")
	b.Sees("nothing was sent")
}
