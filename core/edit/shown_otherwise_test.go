package edit_test

import (
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/edit"
	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/core/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// applied gives the site as operations leave it.
func applied(t *testing.T, s site, list ...edit.Operation) site {
	t.Helper()
	got := done(t, s, list...)
	over := item.NewSet()
	for _, h := range s.Heads() {
		b, err := item.Read(s, h)
		require.NoError(t, err)
		over.Put(h, b)
	}
	for _, c := range got.Changes {
		over.Put(c.Head, c.Content)
	}
	return site{closure.NewSmall(over)}
}

// shownAs is a page as it is shown.
func shownAs(t *testing.T, s site, slug string) string {
	t.Helper()
	out, err := render.New(s).Page(render.PageRequest{Slug: slug, Mapped: true})
	require.NoError(t, err)
	return string(out.Body)
}

func TestPagesFillOpenRegions(t *testing.T) {
	s := hut(t)
	open := on("/", "header b", edit.RegionOpen, "")
	open.Property = "lead"
	fill := edit.Operation{Op: edit.RegionFill, Page: "/rooms/", Property: "lead",
		Value: `<p>Beds <a href="/">home</a></p>`}
	before := shownAs(t, s, "/")
	opened := applied(t, s, open)
	assert.Equal(t, before, shownAs(t, opened, "/"), "an open region shows what the part has")
	filled := applied(t, opened, fill)
	assert.Equal(t, before, shownAs(t, filled, "/"), "other pages stay")
	rooms := shownAs(t, filled, "/rooms/")
	assert.Contains(t, rooms, `<p>Beds <a href="/">home</a></p></header>`)
	assert.NotContains(t, rooms, "<b>Bar</b>")
	assert.NotContains(t, rooms, "cp-fill")
	assert.Contains(t, becomes(t, filled, "page/rooms", on("/rooms/", "header p a", edit.Text, "hut")),
		">hut</a></p></cp-fill>",
		"what fills a region is pointed at as the rest of the page is")
	assert.Equal(t, rooms, shownAs(t, applied(t, filled, fill), "/rooms/"))
	fill.Value = ""
	assert.Equal(t, shownAs(t, opened, "/rooms/"), shownAs(t, applied(t, filled, fill), "/rooms/"))

	shut := edit.Operation{Op: edit.RegionClose, Item: item.MustAddress("part/bar"), Property: "lead"}
	closed := applied(t, filled, shut)
	assert.Contains(t, shownAs(t, closed, "/rooms/"), "<b>Bar</b>")
	found, err := faults.Check(closed, faults.Options{})
	require.NoError(t, err)
	told := ""
	for _, f := range found {
		told += string(f.Kind) + " " + f.Message + "\n"
	}
	assert.Contains(t, told, `missing it fills the region "lead"`)

	refused(t, opened, "has a region", open)
	refused(t, s, "has no region", shut)
	refused(t, s, "no part on /rooms/ has",
		edit.Operation{Op: edit.RegionFill, Page: "/rooms/", Property: "lead", Value: "x"})
	refused(t, opened, "does not fill", fill)
	fill.Value = "<script>1</script>"
	refused(t, opened, "would run", fill)
	open.Element = "main ul"
	refused(t, s, "regions are opened in parts", open)
	open.Property = "No Name"
	refused(t, s, "cannot be a region's name", open)
}

func TestMenusStandInARowOrFolded(t *testing.T) {
	s := hut(t)
	assert.Contains(t, becomes(t, s, "part/bar", on("/", "nav", edit.MenuShown, "row")),
		`<cp-menu show="row" name="main">`)
	row := applied(t, s, on("/", "nav li:nth-child(2) a", edit.MenuShown, "row"))
	assert.NotContains(t, shownAs(t, row, "/"), "<details")
	folded := applied(t, row, on("/", "nav", edit.MenuShown, "folded"))
	assert.Contains(t, shownAs(t, folded, "/"), "</ul></details></nav>")
	assert.Contains(t, becomes(t, folded, "part/bar", on("/", "nav", edit.MenuShown, "by-width")),
		`<cp-menu name="main">`)
	refused(t, s, "row, folded or by-width", on("/", "nav", edit.MenuShown, "round"))
	refused(t, s, "is no menu", on("/", "main ul", edit.MenuShown, "row"))
}

func TestIconsAreInTheTextsColour(t *testing.T) {
	s := hut(t)
	put := func(name, text string) {
		s.Collection.(*item.Set).Put(item.Head{Address: item.MustAddress("media/" + name),
			Meta: item.Meta{MediaType: "image/svg+xml"}}, []byte(text))
	}
	put("bed.svg", `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24" id="bed">`+
		`<defs><clipPath id="c"><path d="M0 0h9"/></clipPath></defs>`+
		`<g style="fill:#123456;opacity:.5"><path clip-path="url(#c)" d="M1 1h2"/></g>`+
		`<path fill="none" stroke="#123456" d="M2 2"/></svg>`)
	got := becomes(t, s, "page/home", on("/", "img", edit.Icon, "media/bed.svg"))
	assert.Contains(t, got, `<svg width="1em" height="1em" viewBox="0 0 24 24" fill="currentColor" role="img" `+
		`aria-label="A">`)
	assert.Contains(t, got, `style="fill:currentColor;opacity:.5"`)
	assert.Contains(t, got, `fill="none" stroke="currentColor"`)
	assert.NotContains(t, got, "123456")
	twice := applied(t, s, on("/", "img", edit.Icon, "media/bed.svg"))
	more := edit.Operation{Op: edit.Empty, Page: "/", Element: "h1", Place: edit.After, Property: "icon",
		Value: "media/bed.svg"}
	both := becomes(t, twice, "page/home", more)
	assert.Contains(t, both, `id="c-2"`, "ids of two icons are told apart")
	assert.Contains(t, both, `url(#c-2)`)
	assert.Contains(t, both, `aria-hidden="true"`)

	for name, bad := range map[string]string{
		"several colours": `<svg><path fill="red" d=""/><path fill="blue" d=""/></svg>`,
		"several":         `<svg><path d=""/><path fill="blue" d=""/></svg>`,
		"<script>":        `<svg><script>1</script></svg>`,
		"would run":       `<svg><path onclick="1" d=""/></svg>`,
		"<image>":         `<svg><image href="/media/a.jpg"/></svg>`,
		"is no SVG":       `<p>x</p>`,
	} {
		t.Run(name, func(t *testing.T) {
			put("bad.svg", bad)
			refused(t, s, name, on("/", "img", edit.Icon, "media/bad.svg"))
		})
	}
	refused(t, s, "there are no media", on("/", "img", edit.Icon, "media/gone.svg"))
	refused(t, s, "is no picture", on("/", "h1", edit.Icon, "media/bed.svg"))
}

func TestCopiesBecomeLinked(t *testing.T) {
	s := hut(t)
	own := applied(t, s, on("/", ".hours h2", edit.OwnCopy, ""),
		on("/", ".hours h2", edit.Text, "Our hours"))
	before := shownAs(t, own, "/")
	link := edit.Operation{Op: edit.LinkCopy, Page: "/", Element: ".hours", Item: item.MustAddress("section/hours")}
	got := after(t, own, link)
	assert.Contains(t, got["page/home"], `<cp-section name="hours"><cp-value for="heading">Our hours</cp-value>`+
		`<cp-value for="day">Friday &amp; Saturday</cp-value></cp-section>`)
	assert.Equal(t, `<section class="hours"><h2 data-fill="text:heading">Hours</h2><p `+
		`data-fill="text:day">Monday</p></section>`,
		got["section/hours"])
	linked := applied(t, own, link)
	bare := strings.NewReplacer(` data-fill="text:heading"`, "", ` data-fill="text:day"`, "")
	assert.Equal(t, bare.Replace(before), bare.Replace(shownAs(t, linked, "/")), "it is shown as it was")
	link.Element = ""
	assert.Equal(t, got, after(t, own, link), "all copies of a page, where none is named")

	refused(t, s, "no copy of section/hours", link)
	link.Element = "main ul"
	refused(t, own, "built otherwise", link)
	link.Element = ".hours"
	refused(t, s, "itself", link)
	link.Item = item.MustAddress("section/gone")
	refused(t, s, "no section", link)
}

func TestOwnRulesMoveToASheetOfTheSite(t *testing.T) {
	s := hut(t)
	set := s.Collection.(*item.Set)
	section := func(style string) {
		set.Put(item.Head{Address: item.MustAddress("section/hours")},
			[]byte("<style>\n"+style+"\n</style>\n<section class=\"hours\"><h2>Hours</h2><p "+
				"data-fill=\"text:day\">Monday</p></section>"))
	}
	move := edit.Operation{Op: edit.StylesMove, Item: item.MustAddress("section/hours"), Value: "stylesheet/site"}
	section(`.hours h2:hover { color: red }
@media (max-width: 600px) { .hours p::before { content: "x" } }
p { margin: 0 }
@keyframes turn { to { opacity: 0 } }`)
	got := after(t, s, move)
	assert.Contains(t, got["stylesheet/site"], "/* of section/hours */\n"+
		".hours h2:hover:where(.of-hours, .of-hours *) { color: red }\n"+
		"@media (max-width: 600px) { .hours p:where(.of-hours, .of-hours *)::before { content: \"x\" } }\n")
	assert.Contains(t, got["section/hours"], "p { margin: 0 }", "it is about other paragraphs of the page, too")
	assert.Contains(t, got["section/hours"], "@keyframes turn")
	assert.NotContains(t, got["section/hours"], "hover")
	assert.Contains(t, got["section/hours"], `<section class="hours of-hours">`)
	assert.Contains(t, shownAs(t, applied(t, s, move), "/"), "/site.css")

	section(`.hours { padding: 1px }`)
	got = after(t, s, move)
	assert.NotContains(t, got["section/hours"], "<style>", "nothing of it is left")

	section(`.hours { top: 1px }`) // stylesheet/base says so, too, and comes before the piece's own
	assert.NotEmpty(t, after(t, s, move), "a new sheet comes last")
	set.Put(item.Head{Address: item.MustAddress("setting/style-order")},
		[]byte(`["stylesheet/site", "stylesheet/base"]`))
	refused(t, s, "would lose against .hours, which decides top", move)
	set.Put(item.Head{Address: item.MustAddress("stylesheet/site")}, []byte(`h1 { color: red }`))
	refused(t, s, "whose other rules it would get", move)
	section(`p { margin: 0 }`)
	refused(t, s, "none of its rules can move", move)
	move.Item = item.MustAddress("menu/main")
	refused(t, s, "name a section or part", move)
	move.Item, move.Value = item.MustAddress("part/bar"), "media/a.jpg"
	refused(t, s, "name the stylesheet", move)
	move.Value = "stylesheet/site"
	refused(t, s, "no <style>", move)
}
