package test

import (
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// A keeper who never saw HTML makes a site of a kit, writes over every sample where it stands, puts a section from the
// shelf on a page of its own, lets the menu lead there, and goes live.
func TestStoryOfAKeeperInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites")
	b.Type("#site-title", "Larch Hollow")
	b.Click(`input[name="site-from"][value="kit"]`)
	b.Choose("#site-kit", "hut-basics 2.0.0")
	b.Sees("Samples stand until you write over them")
	b.Press("Make the site")
	b.Sees("The component x-weather-strip")
	b.Click(`[data-decide="need:x-weather-strip=accept"]`)
	b.Sees("Edit the home page")
	live := s.Live("larch-hollow")
	assert.Contains(t, string(s.Visit(live+"/").Body), "Sample Hut")

	// Every sample, by clicking.
	b.Click("[data-open-to-edit]")
	b.Shows("Sample Hut")
	b.Shot("console-edit")
	pages := []string{"/", "/contact/"}
	for _, page := range pages {
		b.Go(s.Console + "/sites/larch-hollow/edit" + page)
		replaceSamples(b, map[string]string{"Sample Hut": "Larch Hollow", "the Sample Valley": "the larch valley",
			"01 000 000": "01 234 567"})
	}

	// A page of its own, with a section from the shelf.
	b.Go(s.Console + "/sites/larch-hollow")
	b.Type("#new-page-title", "Winter at the hut")
	b.Sees("/winter-at-the-hut/")
	b.Press("Make it and edit")
	b.Shows("Winter at the hut")
	b.Press("Use a piece here")
	b.Type(`input[aria-label="Search the shelf"]`, "opening")
	b.Click(`[data-piece$="section/opening-hours"]`)
	b.Click("[data-at-end]")
	b.Shows("When")
	b.Saved()
	b.Shot("console-shelf")

	// The menu leads there.
	b.PointAt(".cp-menu")
	b.Sees("Entries of")
	b.Choose("[data-menu-target]", "/winter-at-the-hut/")
	b.Click("[data-menu-add]")
	b.Shows("Winter at the hut")
	b.Do(chromedp.WaitVisible(`input[value="Winter at the hut"]`))
	b.Shot("console-menu")
	b.Saved()

	b.Press("Go live…")
	b.Sees("What changes")
	b.Press("Go live now")
	b.Confirm()
	b.Sees("It is live")
	for _, page := range append(pages, "/winter-at-the-hut/") {
		shown := string(s.Visit(live + page).Body)
		assert.NotContains(t, shown, "Sample Hut", page)
		assert.NotContains(t, shown, "Sample Valley", page)
		assert.Contains(t, shown, `href="/winter-at-the-hut/"`, page)
	}
	assert.Contains(t, string(s.Visit(live+"/winter-at-the-hut/").Body), "Larch Hollow")
}

// replaceSamples writes over each sample that stands on the page, where it stands.
func replaceSamples(b *harness.Browser, with map[string]string) {
	for range 20 {
		b.Do(chromedp.WaitVisible("[data-page-frame=shown]"))
		found := ""
		for sample := range with {
			if harness.Edited[bool](b, "document.body.innerText.includes(`"+sample+"`)") {
				found = sample
				break
			}
		}
		if found == "" {
			return
		}
		b.PointAt("words:" + found)
		if harness.Edited[bool](b, `!!document.querySelector("[contenteditable]")`) {
			was := harness.Edited[string](b, `document.querySelector("[contenteditable]").textContent`)
			harness.Edited[bool](b, `(e => { const w = document.createTreeWalker(e, 4); let n;
				while ((n = w.nextNode())) {
				const at = n.data.indexOf(`+"`"+found+"`"+`); if (at < 0) continue
				getSelection().setBaseAndExtent(n, at, n, at + `+"`"+found+"`"+`.length);
					return true } return false })`+
				`(document.querySelector("[contenteditable]"))`)
			b.Insert(with[found])
			b.Saved()
			b.Do(chromedp.KeyEvent(kb.Escape))
			b.Shows(strings.TrimSpace(strings.ReplaceAll(was, found, with[found])))
			continue
		}
		b.Do(chromedp.WaitVisible("[data-words]"))
		words := harness.Eval[string](b, `document.querySelector("[data-words]").value`)
		b.Type("[data-words]", strings.ReplaceAll(words, found, with[found]))
		b.Shows(strings.ReplaceAll(words, found, with[found]))
		b.Saved()
	}
}
