package test

import (
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
)

// The console works in a second browser: five stories of it.
func TestFiveStoriesInFirefox(t *testing.T) {
	if !soaking() {
		t.Skip("Firefox is installed and driven by make soak only")
	}
	s := harness.Start(t, "--demo=sites")
	browser := harness.NewFirefox(t)

	t.Run("signing in, and the library", func(t *testing.T) {
		f := browser.For(t)
		defer f.Calm()
		f.Go(s.Console + "/library")
		f.Sees("Sign in to the template library")
		f.Type("#name", "ida")
		f.Type("#password", "not the password")
		f.Press("Sign in")
		f.Sees("wrong name or password")
		f.Type("#password", "highmoor-demo")
		f.Press("Sign in")
		f.Sees("The library is empty")
		f.Go(s.Console + "/sites/kestrel-refuge/section/opening-hours")
		f.Press("Keep for reuse")
		f.Sees("kept for reuse, with everything it needs")
		f.Go(s.Console + "/library")
		f.Type(`input[type=search]`, "opening")
		f.Sees("section/opening-hours")
	})
	t.Run("words are written where they stand, and go live", func(t *testing.T) {
		f := browser.For(t)
		defer f.Calm()
		live := func() string { return string(s.Visit(s.Live("kestrel-refuge") + "/").Body) }
		f.Go(s.Console + "/sites/kestrel-refuge/edit/")
		f.Shows("First light, last stove")
		f.Write("h1", "Late light")
		f.Sees("Saved in your draft")
		assert.NotContains(t, live(), "Late light")
		f.Press("Undo")
		f.Shows("First light, last stove")
		f.Press("Redo")
		f.Shows("Late light")
		f.Press("Go live…")
		f.Sees("What changes")
		f.Press("Go live now")
		f.Confirm()
		f.Sees("It is live")
		assert.Contains(t, live(), "Late light")
	})
	t.Run("a page is made, with a piece from the shelf", func(t *testing.T) {
		f := browser.For(t)
		defer f.Calm()
		f.Go(s.Console + "/sites/kestrel-refuge")
		f.Type("#new-page-title", "Winter at the hut")
		f.Sees("/winter-at-the-hut/")
		f.Press("Make it and edit")
		f.Shows("Winter at the hut")
		f.Press("Use a piece here")
		f.Type(`input[aria-label="Search the shelf"]`, "opening")
		f.Click(`[data-piece$="section/opening-hours"]`)
		f.Click("[data-at-end]")
		f.Shows("winter room only")
	})
	t.Run("a kit is made, and sealed", func(t *testing.T) {
		f := browser.For(t)
		defer f.Calm()
		f.Go(s.Console + "/kits")
		f.Press("Begin a kit")
		f.Type("#kit-name", "hut-basics")
		f.Type("#kit-title", "Hut basics")
		f.Press("Begin this kit")
		f.Choose(`select[aria-label="From"]`, "kestrel-refuge")
		f.Click(`[data-pick="section/opening-hours"]`)
		f.Sees("media/hut-door.jpg")
		f.Press("Version and terms")
		f.Type("#w-credit", "Highmoor web room")
		f.Press("Save")
		f.Press("Check (0)")
		f.Press("Seal")
		f.Confirm()
		f.Sees("Download the kit")
	})
	t.Run("the kit is brought into a site", func(t *testing.T) {
		f := browser.For(t)
		defer f.Calm()
		f.Press("Use on a site")
		f.Choose("#site", "larch-saddle")
		f.Press("Make the plan")
		f.Type("#fill-hut-name", "Larch Saddle")
		f.Press("Fill in")
		f.Press("On to the preview")
		f.Press("Stage the draft")
		f.Sees("The draft")
		f.Press("Go live")
		f.Confirm()
		f.Sees("Live since")
	})
}
