package test

import (
	"path/filepath"
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestStoryInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	before := digest(t, s, "larch-saddle")
	b := harness.NewBrowser(t)

	b.Go(s.Console + "/kits")
	b.Sees("Sign in to the template library")
	b.Type("#name", "ida")
	b.Type("#password", "not the password")
	b.Press("Sign in")
	b.Sees("wrong name or password")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("There is no kit yet") // back where the visit began

	// The library, filled from a site.
	b.Go(s.Console + "/library")
	b.Sees("The library is empty")
	b.Go(s.Console + "/sites")
	b.Sees("Larch Saddle")
	b.Go(s.Console + "/sites/kestrel-refuge")
	b.Sees("Bunks and prices")
	b.Go(s.Console + "/sites/kestrel-refuge/page/home")
	b.Sees("header: part/site-header")
	for _, a := range []string{"section/opening-hours", "part/site-header"} {
		b.Go(s.Console + "/sites/kestrel-refuge/" + a)
		b.Press("Keep for reuse")
		b.Sees("kept for reuse, with everything it needs")
	}
	b.Go(s.Console + "/library")
	b.Sees("Site header")
	b.Shot("console-library")
	b.Type(`input[type=search]`, "opening")
	b.Sees("section/opening-hours")

	// The kit.
	b.Go(s.Console + "/kits")
	b.Press("Begin a kit")
	b.Type("#kit-name", "hut-basics")
	b.Type("#kit-title", "Hut basics")
	b.Press("Begin this kit")
	b.Choose(`select[aria-label="From"]`, "kestrel-refuge")
	b.Click(`[data-pick="section/opening-hours"]`)
	b.Sees("media/hut-door.jpg")
	b.Click(`[data-pick="part/site-header"]`)
	b.Sees("part/site-header shows it, line 3")
	b.Press("Check (1)")
	b.Sees("CC-BY-4.0 asks for credit, and the kit does not say to whom")
	b.Press("Version and terms")
	b.Type("#w-credit", "Highmoor web room")
	b.Press("Save")
	b.Press("Check (0)")
	b.Sees("Clean: nothing stops sealing")
	b.Press("Seal")
	b.Confirm()
	b.Sees("Download the kit")

	// The delivery, in five steps.
	b.Press("Use on a site")
	b.Choose("#site", "larch-saddle")
	b.Press("Make the plan")
	b.Sees("1 question needs you")
	b.Sees("menu/main: the site has another menu of this name")
	b.Shot("console-plan")
	b.Click(`[data-question="menu/main"] [data-decide="menu/main=both"]`)
	b.Sees("menu/main → menu/main-2")
	b.Press("On to the blanks")
	b.Type("#fill-hut-name", "Larch Saddle")
	b.Press("Fill in")
	b.Press("On to the preview")
	b.Press("Stage the draft")
	b.Sees("The draft")
	draft := harness.Eval[string](b, `document.querySelector("iframe").src`)
	assert.Contains(t, string(s.Visit(draft).Body), "Larch Saddle</span> is open")
	assert.Equal(t, before, digest(t, s, "larch-saddle"), "staging changes nothing live")

	// A reload keeps the place, and the back button works.
	b.Do(chromedp.Reload())
	b.Sees("The draft")
	b.Do(chromedp.NavigateBack())
	b.Sees("Hut name")
	b.Do(chromedp.NavigateForward())
	b.Sees("The draft")

	b.Press("Go live")
	b.Confirm()
	b.Sees("What is left to do")
	b.Go(s.Live("larch-saddle") + "/")
	b.Sees("When Larch Saddle is open")
	assert.Equal(t, "Main menu",
		harness.Eval[string](b, `document.querySelector(".site-header nav").getAttribute("aria-label")`))
	require.NotEqual(t, before, digest(t, s, "larch-saddle"))

	b.Go(s.Console + "/deliveries/1")
	b.Press("Take it back")
	b.Confirm()
	b.Sees("Taken back, as revision 3")
	assert.Equal(t, before, digest(t, s, "larch-saddle"), "the site is as it was, digest for digest")
	b.Go(s.Console + "/deliveries")
	b.Sees("undone")
	b.Go(s.Console + "/account")
	b.Sees("Access tokens")

	// Narrow: nothing runs over the edge.
	b.Size(390, 800)
	for p, says := range map[string]string{"/library": "section/opening-hours", "/kits": "hut-basics",
		"/sites": "Larch Saddle", "/sites/larch-saddle": "Larch Saddle", "/deliveries/1/plan": "Item by item",
		"/kits/hut-basics/0.1.0": "Download the kit"} {
		b.Go(s.Console + p)
		b.Sees(says)
		b.Painted()
		assert.LessOrEqual(t, harness.Eval[int](b, `document.documentElement.scrollWidth`), 390, p)
	}
	b.Go(s.Console + "/deliveries/1/plan")
	b.Sees("Item by item")
	b.Shot("console-narrow")
}

// Pages that the plan does not name look the same; the one it names does not.
func TestPicturesOfTouchedPagesOnly(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	b := harness.NewBrowser(t)
	d := staged(t, s, "0.1.0")
	live := s.Live("larch-saddle")
	for width, n := range b.Differ("house-rules", live+"/house-rules/", *d.Preview+"/house-rules/", 390, 1280) {
		assert.Zero(t, n, "at %d px", width)
	}
	for width, n := range b.Differ("home", live+"/", *d.Preview+"/", 390, 1280) {
		assert.NotZero(t, n, "at %d px", width)
		b.Size(width, 800)
		assert.LessOrEqual(t, harness.Eval[int64](b, `document.documentElement.scrollWidth`), width,
			"nothing runs over the edge")
	}

	// The published folder looks like the live site.
	dir := filepath.Join(t.TempDir(), "out")
	s.Must("site", "publish", "kestrel-refuge", dir)
	for _, page := range []string{"/getting-here/", "/bunks-and-prices/"} {
		for width, n := range b.Differ("published", s.Live("kestrel-refuge")+page, dir+"#"+page, 390, 1280) {
			assert.Zero(t, n, "%s at %d px", page, width)
		}
	}
}

// The delivered section with its carried rules looks as it does at home.
func TestACarriedSectionLooksAsAtHome(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	d := staged(t, s, "0.1.0")
	b := harness.NewBrowser(t)
	const hours = `(() => { const q = (s) => document.querySelector(s); const c = (e, ...p) => p.map((x) => ` +
		`getComputedStyle(e)[x]).join("|");
		return [c(q(".hours"), "backgroundColor", "fontFamily", "fontSize", "lineHeight", "color", "width", ` +
		`"height"), c(q(".hours h2"), "fontFamily", "fontSize", "fontWeight", "marginBottom"),
		c(q(".hours-picture"), "width", "height", "objectFit", "borderRadius"), c(q(".hours-table"), ` +
		`"gridTemplateColumns", "rowGap"), c(q(".hours-note"), "borderLeftColor", "color", ` +
		`"paddingLeft")].join("\n") })()`
	for _, width := range []int64{390, 1280} {
		b.Size(width, 900)
		// Of the same name, so that the lines break alike.
		b.Go(s.Live("kestrel-refuge") + "/getting-here/")
		harness.Eval[bool](b, `(document.querySelector(".hours h2 span").textContent = "Larch Saddle", true)`)
		home := harness.Eval[string](b, hours)
		b.Go(*d.Preview + "/")
		assert.Equal(t, home, harness.Eval[string](b, hours), "at %d px", width)
	}
}
