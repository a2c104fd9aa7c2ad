package test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"sync/atomic"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// In a preview the engine's own script opens overlays, while the site's scripts wait
// for approval; published, both run. Forms answer with their confirmation.
func TestOverlaysAndScriptsInPreviewsAndPublished(t *testing.T) {
	t.Parallel()
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

// Previews show what visitors see: what lies on other hosts, unless the site keeps it out, and what
// components draw, in small pictures too. A page is answered from memory until it changes.
func TestPreviewsShowWhatVisitorsSee(t *testing.T) {
	t.Parallel()
	const dot = `<svg xmlns="http://www.w3.org/2000/svg" width="30" height="20"/>`
	var asked, drawn atomic.Int64
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/drawn.svg" {
			drawn.Add(1)
		} else {
			asked.Add(1)
		}
		if r.URL.Path == "/map" {
			w.Write([]byte("<!doctype html><p>A map of the ridge</p>"))
			return
		}
		w.Header().Set("Content-Type", "image/svg+xml")
		w.Write([]byte(dot))
	}))
	t.Cleanup(elsewhere.Close)
	s := harness.Start(t, "--demo=sites")
	page := `<!doctype html><html><head><title>Hut</title></head><body><img id="dot" alt="A dot" src="` +
		elsewhere.URL + `/dot.svg"><iframe title="Map" src="` + elsewhere.URL + `/map"></iframe>` +
		`<x-snow title="` + elsewhere.URL + `/drawn.svg"></x-snow></body></html>`
	files := map[string]string{
		"site.json":       `{"format":1,"items":[{"kind":"page","key":"home","slug":"/"}]}`,
		"pages/home.html": page,
		"components/x-snow/x-snow.js": `customElements.define("x-snow", class extends HTMLElement { ` +
			`connectedCallback() { this.innerHTML = "Snow above 2000 m<img alt src='" + this.title + "'>" } })`,
		"settings.json": `{"title":"Outside","scripts":"approved"}`,
	}
	require.Equal(t, 201,
		s.Call("PUT", "/api/v1/sites/outside", zipped(t, files), "Content-Type", "application/zip").Status)
	b := harness.NewBrowser(t)
	loaded := func() float64 {
		b.Go(s.Live("outside") + "/")
		return harness.Eval[float64](b, `document.querySelector("#dot").naturalWidth`)
	}
	assert.InDelta(t, 30, loaded(), 0)
	assert.EqualValues(t, 2, asked.Load(), "the picture and the frame")
	assert.Equal(t, "Snow above 2000 m", harness.Eval[string](b, `document.querySelector("x-snow").textContent`))

	assert.Equal(t, int64(1), drawn.Load())
	b.Go(s.Console + "/sites")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("outside")
	assert.Eventually(t, func() bool { return drawn.Load() > 1 }, 20*time.Second, 20*time.Millisecond,
		"the component runs in the small picture of the list, too")

	first := s.Visit(s.Live("outside") + "/")
	again := s.Visit(s.Live("outside") + "/")
	assert.Equal(t, first.Body, again.Body)
	tag := first.Header.Get("ETag")
	require.NotEmpty(t, tag)
	assert.Equal(t, 304, s.Visit(s.Live("outside")+"/", "If-None-Match", `"other", W/`+tag).Status)
	setting := filepath.Join(t.TempDir(), "outside.json")
	require.NoError(t, os.WriteFile(setting, []byte(`"blocked"`), 0o644))
	before := asked.Load()
	s.Must("site", "put", "outside", "setting/outside", setting)
	s.Must("site", "go-live", "outside", "1")
	changed := s.Visit(s.Live("outside")+"/", "If-None-Match", tag)
	assert.Contains(t, changed.Header.Get("Content-Security-Policy"), "img-src 'self' data:;",
		"at once, not in a while")
	assert.InDelta(t, 0, loaded(), 0)
	assert.Equal(t, before, asked.Load(), "nobody asked there any more")

	// A page that was sent a step ago finds the stylesheets that it names; what is no file of it is gone with the step.
	t.Run("of a step ago", func(t *testing.T) {
		at := s.Live("kestrel-refuge")
		sheet := regexp.MustCompile(`/_cp/[0-9a-f]{12}/brand\.css`).FindString(string(s.Visit(at + "/").Body))
		require.NotEmpty(t, sheet)
		old := s.Visit(at + sheet)
		require.Equal(t, 200, old.Status)
		const alone = "/_cp/alone/section/opening-hours"
		require.Equal(t, 200, s.Visit(at+alone).Status)
		s.Must("site", "remove", "kestrel-refuge", "section/opening-hours", "--draft", "less")
		var drafts api.DraftList
		s.Call("GET", "/api/v1/sites/kestrel-refuge/drafts", nil).Into(t, &drafts)
		require.Len(t, drafts.Drafts, 1)
		require.Equal(t, 200, s.Call("POST", "/api/v1/sites/kestrel-refuge/edits", m{"draft": drafts.Drafts[0].Id,
			"operations": []m{{"op": "token", "item": "tokens/brand", "property": "color.dawn",
				"value": "#112233"}}}).Status)
		s.Must("site", "go-live", "kestrel-refuge", "less")
		assert.Equal(t, 404, s.Visit(at+alone).Status)
		late := s.Visit(at + sheet)
		assert.Equal(t, 200, late.Status)
		assert.Equal(t, old.Body, late.Body)
		for _, name := range []string{"Content-Type", "Cache-Control", "ETag", "Content-Security-Policy"} {
			assert.Equal(t, old.Header.Get(name), late.Header.Get(name), name)
		}
		assert.NotContains(t, string(s.Visit(at+"/").Body), sheet)
		assert.Equal(t, 404, s.Visit(at+"/_cp/000000000000/brand.css").Status)
	})
}
