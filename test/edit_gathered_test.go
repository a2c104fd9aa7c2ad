package test

import (
	"strconv"
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// Several pages of a kit come in one act, with other titles and addresses and an entry each; a menu takes what it
// wants of a kit's; one press takes the pages back.
func TestSeveralPagesComeAtOnceInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/larch-saddle")
	b.Click("[data-several-pages]")
	b.Choose("#pages-of-kit", "hut-basics@2.0.0")
	b.Click("[data-comes='page/contact']")
	b.Click("[data-comes='page/home']")
	b.Sees("“Larch Saddle” is at this address")
	b.Type("[aria-label='Title of the page contact']", "Find us")
	b.Type("[aria-label='Address of the page contact']", "/find-us/")
	b.Type("[aria-label='Title of the page home']", "Summer")
	b.Type("[aria-label='Address of the page home']", "/summer/")
	option(b, "#menu-takes", "Main")
	b.Press("Bring 2 pages")
	answers := 0
	for _, q := range []struct{ sees, choice, words string }{
		{"The component x-weather-strip", "need:x-weather-strip=accept", ""},
		{"page/home", "page/home=both", ""},
		{"Name of the hut", "", "Larch Saddle"}, {"Telephone", "", "01 234 567"}, {"valley", "", "the larch valley"},
	} {
		b.Sees(q.sees)
		if answers++; q.choice != "" {
			b.Click(`[data-decide="` + q.choice + `"]`)
			continue
		}
		b.Type(`[data-shelf-questions] input`, q.words)
		b.Press("Go on")
	}
	b.Sees("Used 2 pages of kit hut-basics@2.0.0")
	b.Sees("/find-us/")
	var open struct{ Drafts []struct{ ID int64 } }
	s.Call("GET", "/api/v1/sites/larch-saddle/drafts", nil).Into(t, &open)
	draft := strconv.FormatInt(open.Drafts[0].ID, 10)
	assert.Contains(t, s.Must("site", "show", "larch-saddle", "--draft", draft), "/summer/")
	assert.Contains(t, s.Must("site", "show", "larch-saddle", "menu/main", "--draft", draft), "/find-us/")

	b.Press("Undo")
	b.Sees("Undone")
	assert.NotContains(t, s.Must("site", "show", "larch-saddle", "--draft", draft), "/summer/")

	// One entry of a kit's menu, and not the others.
	s.Must("site", "edit", "kestrel-refuge", "menu/main", "entry-remove", "--entry", "4", "--draft", "menu")
	s.Must("site", "go-live", "kestrel-refuge", "menu")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("First light, last stove")
	b.PointAt(".cp-menu")
	b.Click("[data-menu-arrivals] summary")
	option(b, "[aria-label=\"A kit’s menu\"]", "hut-basics@2.0.0")
	b.Sees("is there")
	b.Click(`[aria-label="Take Contact"]`)
	b.Saved()
	b.Sees("The entry was added")
}

// What a linked section shows asks once a draft whether a change is meant for all pages; the change that asked goes
// to this page alone. A component is set by its attributes.
func TestALinkedSectionAsksOnceADraftInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("When Kestrel Refuge is open")
	b.Write("words:every day, warden at home", "every day but Sunday")
	b.Sees("stands on 2 pages: what you changed shows on all of them")
	b.Press("Only on this page")
	b.Saved()
	b.Shows("every day but Sunday")
	var open struct{ Drafts []struct{ Preview string } }
	s.Call("GET", "/api/v1/sites/kestrel-refuge/drafts", nil).Into(t, &open)
	page := func(slug string) string { return string(s.Visit(open.Drafts[0].Preview + slug).Body) }
	assert.Contains(t, page("/"), "every day but Sunday")
	assert.Contains(t, page("/getting-here/"), "every day, warden at home")

	b.PointAt("x-weather-strip")
	b.Type("[data-attribute=place]", "The col")
	b.Do(chromedp.SendKeys("[data-attribute=place]", "\t"))
	b.Saved()
	assert.Contains(t, page("/"), `place="The col"`)
	assert.NotContains(t, page("/"), `place="Kestrel ridge"`)
}
