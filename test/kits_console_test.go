package test

import (
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// pointAt clicks into the frame for picking, at a place of what it shows, until an expression holds.
func pointAt(b *harness.Browser, selector string, x, y float64, until string) {
	b.Do(chromedp.WaitVisible(selector))
	for range 12 { // the page inside may not be there yet
		harness.Eval[bool](b, `(async () => { document.querySelector("`+selector+`").scrollIntoView({block: `+
			`"center"}); await new Promise((r) => setTimeout(r, 1500)); return true })()`)
		left := harness.Eval[float64](b, `document.querySelector("`+selector+`").getBoundingClientRect().left`)
		top := harness.Eval[float64](b, `document.querySelector("`+selector+`").getBoundingClientRect().top`)
		b.Do(chromedp.MouseClickXY(left+x, top+y))
		time.Sleep(300 * time.Millisecond)
		if harness.Eval[bool](b, until) {
			return
		}
	}
	b.Fail("pointing at %s has no effect", selector)
}

func TestAKitIsMadeInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/kits")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("winter-notices")
	b.Press("Begin a kit")
	b.Type("#kit-name", "story")
	b.Press("Begin this kit")
	b.Choose(`select[aria-label="From"]`, "kestrel-refuge")
	b.Press("All placed parts")
	b.Sees("part/search-results")
	b.Click(`[data-pick="page/home"]`)
	b.Sees("page/home holds it, line 29")
	b.Shot("console-kit")

	// One element of a page, pointed at.
	harness.Eval[bool](
		b,
		`([...document.querySelectorAll("li")].find((l) => l.innerText.includes("page/contact") && `+
			`l.querySelector("button"))?.querySelector("button").click(), true)`,
	)
	b.Sees("Take one element of page/contact")
	pointAt(b, "iframe[title*='point at an element']", 120, 130,
		`!!document.querySelector("[data-picked*='main > section']")`)
	const picked = `document.querySelector("[data-picked]").dataset.picked`
	inner := harness.Eval[string](b, picked)
	b.Press("Choose what is around it")
	require.Eventually(t, func() bool { return harness.Eval[string](b, picked) != inner }, 10*time.Second,
		50*time.Millisecond)
	assert.True(t, strings.HasPrefix(inner, harness.Eval[string](b, picked)), "it holds what was chosen before")
	b.Type("#el-name", "contact-words")
	b.Press("Add to the kit")
	b.Sees("an element of page/contact, kestrel-refuge")
	b.Do(chromedp.WaitVisible(`[data-kit-item="block/contact-words"]`))

	// A piece of somebody else's kit.
	b.Choose(`select[aria-label="From"]`, "kit winter-notices@0.4.0")
	b.Click(`[data-pick="block/avalanche-scale"]`)
	b.Sees("block/avalanche-scale is styled by it")

	// Left out by hand, and back again.
	b.Click(`[aria-label="Exclude media/stove-smoke.jpg: it becomes a need"]`)
	b.Sees("Excluded by you")
	b.Press("Needs")
	b.Sees("Needed media/stove-smoke.jpg")
	b.Press("Contents")
	b.Press("Let it come along")
	b.Press("Graph")
	b.Sees("Parts, sections, blocks")
	b.Do(chromedp.Focus(`g[aria-label^="section/opening-hours"]`))
	b.Sees("page/home holds it")
	b.Sees("section/opening-hours uses it in <img src>: media/hut-door.jpg")

	// A blank, pointed at.
	b.Press("Blanks (1)")
	b.Choose("#blank-piece", "section/opening-hours")
	pointAt(b, "iframe", 160, 300, `!!document.querySelector("#blank-name")`)
	b.Do(chromedp.WaitVisible("#blank-name"))
	b.Type("#blank-name", "picture-of-the-door")
	b.Press("Mark this blank")
	b.Press("Blanks (2)")
	b.Sees("src:picture-of-the-door in section/opening-hours")
	b.Press("Pictures")
	b.Choose("#media-all", "lighter")
	b.Do(chromedp.WaitVisible("#media-width"))
	b.Sees("1280×720 of 1600×900")
	b.Press("Needs")
	b.Choose("#need-kind", "setting")
	b.Type("#need-name", "home")
	b.Type("#need-range", "page/home")
	b.Press("Add")
	b.Sees("Proposed setting/home page/home")
	b.Press("Version and terms")
	b.Type("#w-license", "CC-BY-4.0")
	b.Type("#w-credit", "Highmoor web room")
	b.Press("Save")
	b.Click(`//button[starts-with(normalize-space(.), "Check (")]`)
	b.Sees("Nothing stops sealing. A receiver should know this:")
	b.Sees("“Kestrel Refuge” is what kestrel-refuge calls itself")
	b.Press("Seal")
	b.Confirm()
	b.Press("Signatures (0)")
	b.Sees("It is not signed.")
	assert.Contains(t, s.Must("kit", "show", "story@0.1.0"), "Fill-in picture-of-the-door (image)")

	s.Must("kit", "new", "narrow@1.0.0", "--license", "CC0-1.0")
	s.Must("kit", "add", "narrow@1.0.0", "menu/main", "--from", "kestrel-refuge")
	s.Must("kit", "need", "narrow@1.0.0", "kit", "hut-basics", "^3")
	s.Must("kit", "seal", "narrow@1.0.0")
	// Which kit brings what another needs; why nothing fits; what a version asks for; a room
	// before the eyes.
	b.Go(s.Console + "/kits/hut-basics/2.0.0?tab=needs")
	b.Choose(`select[aria-label="The site"]`, "blackwater-bothy")
	b.Sees("story 0.1.0 is to be delivered first") // it brings the weather strip
	b.Go(s.Console + "/kits/narrow/1.0.0?tab=needs")
	b.Choose(`select[aria-label="The site"]`, "larch-saddle")
	b.Sees("Nothing fits: these demands cannot all be met.")
	b.Sees("narrow@1.0.0 needs hut-basics ^3 (there is 1.0.0, 1.1.0, 2.0.0)")
	b.Go(s.Console + "/kits/hut-basics/2.0.0?tab=version")
	b.Sees("renamed part/top-bar, was part/site-header")
	b.Go(s.Console + "/kits/room-pages/1.0.0?tab=look")
	b.Choose("#look-variant", "picture-first")
	b.Choose("#look-site", "kestrel-refuge")
	b.Do(chromedp.WaitVisible( // not the small ones beside each other, which show both
		`iframe[title="part/room-page"][src*="variant=picture-first"][src*="record=longest"]`))

	// Trusted keys.
	b.Go(s.Console + "/trust")
	b.Sees("No key is trusted yet")
	b.Go(s.Console + "/sites/larch-saddle")
	b.Choose(`select[aria-label="Whether kits must be signed"]`, "require")
	b.Sees("by any trusted key")
	b.Go(s.Console + "/sites/larch-saddle")
	b.Sees("by any trusted key")
}
