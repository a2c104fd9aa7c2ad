package edit_test

import (
	"bytes"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/css"
	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/test/failing"
	"compactparcel/test/seed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hut is a site with a page that holds a section with values of its own, a part and a menu.
func hut(t *testing.T) site {
	t.Helper()
	c := item.NewSet()
	put := func(a, text string, m item.Meta) {
		c.Put(item.Head{ID: a, Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/home", "<!doctype html><html><head><title>Hut</title></head><body><main>\n<h1 class=\"big\">The "+
		"hut</h1>\n"+
		"<p>Open <a href=\"/rooms/\">all year</a></p>\n<ul>\n  <li>One</li>\n  <li>Two</li>\n</ul>\n"+
		"<p class=\"last\">Loose</p><cp-section name=\"hours\"><cp-value for=\"day\">Friday &amp; Saturday</cp-value>"+
		"</cp-section>\n<img src=\"/media/a.jpg\" srcset=\"/media/a.jpg 2x\" width=\"3\" "+
		"alt=\"A\">\n<p>unclosed\n</main>"+
		"</body></html>", item.Meta{Slug: "/", Title: "Home"})
	put("page/rooms", `<!doctype html><html><head><title>Rooms</title></head><body><main><h1>Rooms</h1></main></`+
		`body></html>`,
		item.Meta{Slug: "/rooms/"})
	put("section/hours", "<section class=\"hours\"><h2>Hours</h2><p data-fill=\"text:day\">Monday</p></section>",
		item.Meta{})
	put("part/bar", `<header><cp-menu name="main"></cp-menu><b>Bar</b></header>`, item.Meta{Role: item.Header})
	put("menu/main", `{"title":"Main","entries":[{"label":"Hut","to":"/"},{"label":"Rooms","to":"/rooms/"}]}`,
		item.Meta{})
	put("menu/other", `{"title":"Other","entries":[],"more":1}`, item.Meta{})
	put("setting/title", `"Larch"`, item.Meta{})
	put("stylesheet/base", `.big{top:0}.hours{top:0}`, item.Meta{})
	put("setting/style-order", `["stylesheet/base"]`, item.Meta{})
	put("media/a.jpg", "a", item.Meta{MediaType: "image/jpeg"})
	put("media/b.jpg", "b", item.Meta{MediaType: "image/jpeg"})
	h, _ := c.Find(item.MustAddress("page/home"))
	h.Meta.Styles = []item.Address{item.MustAddress("stylesheet/base")}
	b, err := item.Read(c, h)
	require.NoError(t, err)
	c.Put(h, b)
	return site{closure.NewSmall(c)}
}

func on(page, element string, op edit.Name, value string) edit.Operation {
	return edit.Operation{Op: op, Page: page, Element: element, Value: value}
}

// done does operations. Whatever cannot be read meanwhile fails them, and makes them do nothing else.
func done(t *testing.T, s site, list ...edit.Operation) *edit.Applied {
	t.Helper()
	got, err := edit.Apply(s, list)
	require.NoError(t, err)
	failing.AnyRead(t, s.Collection, func(c item.Collection) (any, error) {
		return edit.Apply(site{closure.NewSmall(c)}, list)
	})
	return got
}

// becomes does operations and gives the text of an item afterwards; all others must stay.
func becomes(t *testing.T, s site, of string, list ...edit.Operation) string {
	t.Helper()
	got := done(t, s, list...)
	require.Len(t, got.Says, len(list))
	for _, c := range got.Changes {
		assert.Equal(t, of, c.Head.Address.String())
	}
	require.Len(t, got.Changes, 1)
	return string(got.Changes[0].Content)
}

func refused(t *testing.T, s site, why string, op edit.Operation) {
	t.Helper()
	first := on("/", "h1", edit.Text, "Changed before")
	_, err := edit.Apply(s, []edit.Operation{first, op})
	var no *edit.RefusedError
	require.ErrorAs(t, err, &no, why)
	assert.Equal(t, 2, no.N)
	assert.Contains(t, no.Why.String(), why)
}

func TestWordsAreWrittenWhereTheyComeFrom(t *testing.T) {
	s := hut(t)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "h1", edit.Text, "Huts & <more>")),
		">Huts &amp; &lt;more&gt;</h1>")
	assert.Contains(t, becomes(t, s, "page/home", on("/", ".hours p", edit.Text, "Sunday < noon")),
		`<cp-value for="day">Sunday &lt; noon</cp-value>`, "the page's own value, not the section's sample")
	assert.Contains(t, becomes(t, s, "section/hours", on("/", ".hours h2", edit.Text, "Open")), "<h2>Open</h2>")
	assert.Contains(t, becomes(t, s, "menu/main", on("/", "nav li:nth-child(2) a", edit.Text, `The "rooms"`)),
		`"label":"The \"rooms\""`)
	refused(t, s, "holds other elements", on("/", "main ul", edit.Text, "x"))
	refused(t, s, "holds no words", on("/", "img", edit.Text, "x"))
	refused(t, s, "no page is at", on("/gone/", "h1", edit.Text, "x"))
	refused(t, s, "names 4 elements", on("/", "p", edit.Text, "x"))
}

func TestAttributesTakeWhatTheyCanHold(t *testing.T) {
	s := hut(t)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "main p a", edit.Link, "mailto:hut@highmoor.example")),
		`<a href="mailto:hut@highmoor.example">`)
	var drawn bytes.Buffer
	require.NoError(t, png.Encode(&drawn, image.NewGray(image.Rect(0, 0, 7, 5))))
	s.Collection.(*item.Set).Put(item.Head{Address: item.MustAddress("media/c.png")}, drawn.Bytes())
	assert.Contains(t, becomes(t, s, "page/home", on("/", "img", edit.Picture, "media/c.png")),
		`<img src="/media/c.png" width="7" alt="A">`, "as wide as the new one is")
	got := becomes(t, s, "page/home", on("/", "img", edit.Picture, "media/b.jpg"))
	assert.Contains(t, got, `<img src="/media/b.jpg" alt="A">`, "what was true of the other picture goes")
	assert.Contains(t, becomes(t, s, "page/home", on("/", "img", edit.Alternative, `A "bunk"`)),
		`alt="A &quot;bunk&quot;"`)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "h1", edit.Classes, "hours big")), `<h1 class="hours big">`)
	refused(t, s, "nothing is at /gone/", on("/", "main p a", edit.Link, "/gone/"))
	refused(t, s, "would run", on("/", "main p a", edit.Link, "javascript:alert(1)"))
	refused(t, s, "is no link", on("/", "h1", edit.Link, "/"))
	refused(t, s, "no media", on("/", "img", edit.Picture, "media/gone.jpg"))
	refused(t, s, "knows the class", on("/", "h1", edit.Classes, "huge"))
}

func TestElementsAreMovedWhole(t *testing.T) {
	s := hut(t)
	op := func(op edit.Name, element, value string, place edit.Place, beside string) edit.Operation {
		return edit.Operation{Op: op, Page: "/", Element: element, Value: value, Place: place, Beside: beside}
	}
	const one, two = "li:first-child", "li:last-child"
	assert.Contains(t, becomes(t, s, "page/home", op(edit.Duplicate, "main "+one, "", "", "")),
		"<li>One</li>\n  <li>One</li>\n  <li>Two</li>")
	assert.Contains(t, becomes(t, s, "page/home", op(edit.Remove, "main "+one, "", "", "")),
		"<ul>\n  <li>Two</li>\n</ul>")
	assert.Contains(t, becomes(t, s, "page/home", op(edit.MoveElement, "main "+two, "", edit.Before, "main "+one)),
		"<ul>\n  <li>Two</li>\n  <li>One</li>\n</ul>")
	assert.Contains(t, becomes(t, s, "page/home", op(edit.Insert, "h1", "<p>New</p>", edit.After, "")),
		"The hut</h1>\n<p>New</p>\n<p>Open")
	assert.Contains(t, becomes(t, s, "page/home",
		op(edit.Insert, "ul:not(.cp-menu-list)", "<li>Three</li>", edit.Inside, "")),
		"<li>Three</li></ul>")
	assert.Contains(t, becomes(t, s, "page/home", op(edit.Wrap, ".last", "section", "", "")),
		`<section><p class="last">Loose</p></section>`)
	assert.Contains(t, becomes(t, s, "page/home", op(edit.Tag, "h1", "h2", "", "")), `<h2 class="big">The hut</h2>`)
	twice := becomes(t, s, "page/rooms",
		edit.Operation{Op: edit.Insert, Page: "/rooms/", Element: "h1", Place: edit.After,
			Value: `<p id="a"><label for="b">B</label><input id="b"></p>`},
		edit.Operation{Op: edit.Duplicate, Page: "/rooms/", Element: "#a"})
	assert.Contains(t, twice, `<p id="a-2"><label for="b-2">B</label><input id="b-2"></p>`, "ids stay the only ones")
	refused(t, s, "no end tag", op(edit.Remove, "main > p:last-of-type", "", "", ""))
	refused(t, s, "stands in it", op(edit.MoveElement, "main", "", edit.After, "h1"))
	refused(t, s, "of part/bar", op(edit.MoveElement, "header b", "", edit.After, "h1"))
	refused(t, s, "would run", op(edit.Insert, "h1", `<p onclick="x()">x</p>`, edit.After, ""))
	refused(t, s, "not closed", op(edit.Insert, "h1", `<div>`, edit.After, ""))
	refused(t, s, "can hold nothing", op(edit.Insert, "img", `<p>x</p>`, edit.Inside, ""))
	refused(t, s, "page engine", op(edit.Remove, "nav", "", "", ""))
	refused(t, s, "cannot become", op(edit.Tag, "h1", "table", "", ""))
	refused(t, s, "needs place", op(edit.Insert, "h1", "<p>x</p>", "", ""))
	refused(t, s, "would run", op(edit.Insert, "h1", "<a href=\" java&#9;script:x()\">x</a>", edit.After, ""))
}

func TestLinksAreMadeAndEnded(t *testing.T) {
	s := hut(t)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "main li:first-child", edit.LinkAdd, "/rooms/")),
		`<li><a href="/rooms/">One</a></li>`)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "main img", edit.LinkAdd, "tel:012")),
		`<a href="tel:012"><img src="/media/a.jpg" srcset="/media/a.jpg 2x" width="3" alt="A"></a>`)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "main p a", edit.LinkEnd, "")), "<p>Open all year</p>")
	assert.Contains(t, becomes(t, s, "section/hours", on("/", ".hours", edit.Anchor, "")),
		`<section id="hours" class="hours">`)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "h1", edit.Anchor, "")), `<h1 id="the-hut" `)
	assert.Contains(t, becomes(t, s, "page/home", on("/", "h1", edit.Anchor, "top"), on("/", "h1", edit.Anchor, "")),
		`<h1 id="top" `, "one that it has stays")
	refused(t, s, "stands in <a>", on("/", "main p a", edit.LinkAdd, "/rooms/"))
	refused(t, s, "it holds <a>", on("/", "main p:has(a)", edit.LinkAdd, "/rooms/"))
	refused(t, s, "browsers would run", on("/", "main li:first-child", edit.LinkAdd, "javascript:x()"))
	refused(t, s, "is no link", on("/", "main ul", edit.LinkEnd, ""))
	refused(t, s, "no end tag", on("/", "main > p:last-child", edit.LinkAdd, "/"))
	refused(t, s, "no heading", on("/", "main ul", edit.Anchor, ""))
	refused(t, s, "made of a-z", on("/", "main ul", edit.Anchor, "The List"))
}

func TestARunOfWordsIsWritten(t *testing.T) {
	s := hut(t)
	run := func(element string, n, from, to int, value string) edit.Operation {
		op := on("/", element, edit.Text, value)
		if op.Run, op.From = n, from; to >= 0 {
			op.To = &to
		}
		return op
	}
	assert.Contains(t, becomes(t, s, "page/home", run("main p:has(a)", 1, 0, -1, "Closed < ")),
		`<p>Closed &lt; <a href="/rooms/">all year</a></p>`)
	assert.Contains(t, becomes(t, s, "page/home", run("main p:has(a)", 2, 0, -1, "!")), "all year</a>!</p>")
	assert.Contains(t, becomes(t, s, "page/home", run("h1", 1, 4, 7, "höhle"), run("h1", 1, 5, 6, "oe")),
		">The hoehle</h1>", "places are characters, not bytes")
	assert.Contains(t, becomes(t, s, "page/home", run(".hours p", 1, 9, -1, "Sunday")),
		"Friday &amp; Sunday</cp-value>", "what stays is written as it was")
	assert.Contains(t, becomes(t, s, "page/home", run("main li:first-child", 1, 3, -1, " & all")),
		"<li>One &amp; all</li>")
	refused(t, s, "14 characters", run("h1", 0, 3, 19, "x"))
	refused(t, s, "runs of words", run("main p:has(a)", 3, 0, -1, "x"))
	refused(t, s, "the run of words (1 to 2)", on("/", "main p:has(a)", edit.Text, "x"))
}

func TestEntriesOfMenus(t *testing.T) {
	s := hut(t)
	op := func(name edit.Name, entry, label, value string) edit.Operation {
		return edit.Operation{Op: name, Item: item.MustAddress("menu/main"), Entry: entry, Label: label, Value: value}
	}
	labels := func(list ...edit.Operation) string {
		text := becomes(t, s, "menu/main", list...)
		return strings.Join(regexp.MustCompile(`"label": "[^"]*"`).FindAllString(text, -1), " ")
	}
	assert.Equal(t, `"label": "Hut" "label": "Rooms" "label": "Ask"`,
		labels(op(edit.EntryAdd, "", "Ask", "https://highmoor.example/")))
	assert.Equal(t, `"label": "Ask" "label": "Hut" "label": "Rooms"`, labels(op(edit.EntryAdd, "1", "Ask", "/rooms/")))
	assert.Equal(t, `"label": "Rooms" "label": "Hut"`, labels(op(edit.EntryMove, "1", "", "2")))
	assert.Contains(t, becomes(t, s, "menu/main", op(edit.EntryMove, "2", "", "1.1")),
		"{\"label\": \"Hut\", \"to\": \"/\", \"entries\": [\n      {\"label\": \"Rooms\", \"to\": \"/rooms/\"}\n "+
			"   ]}")
	assert.Equal(t, `"label": "Rooms"`, labels(op(edit.EntryRemove, "1", "", "")))
	assert.Equal(t, `"label": "Home" "label": "Rooms"`, labels(op(edit.EntryChange, "1", "Home", "")))
	refused(t, s, "no entry 9", op(edit.EntryRemove, "9", "", ""))
	refused(t, s, "below itself", op(edit.EntryMove, "1", "", "1.1"))
	refused(t, s, "nothing is at", op(edit.EntryAdd, "", "X", "/gone/"))
	other := op(edit.EntryRemove, "1", "", "")
	other.Item = item.MustAddress("menu/other")
	refused(t, s, "more than entries", other)
	made := edit.Operation{Op: edit.MenuNew, Item: item.MustAddress("menu/places"), Value: "On this page", Page: "/"}
	refused(t, s, "give them anchors", made)
	got := done(t, s, on("/", "h1", edit.Anchor, ""), made)
	assert.Contains(t, string(got.Changes[1].Content), `{"label": "The hut", "to": "/#the-hut"}`)
	made.Item = item.MustAddress("menu/main")
	refused(t, s, "already", made)
}

func TestSettingsTakeValues(t *testing.T) {
	s := hut(t)
	op := func(a, value string) edit.Operation {
		return edit.Operation{Op: edit.Set, Item: item.MustAddress(a), Value: value}
	}
	assert.Equal(t, `"Birch"`, becomes(t, s, "setting/title", op("setting/title", "Birch")))
	assert.Equal(t, `{"a": 1}`, becomes(t, s, "setting/other", op("setting/other", `{"a": 1}`)))
	refused(t, s, "no JSON", op("setting/title", `{"a"`))
	refused(t, s, "no setting", op("menu/main", "x"))
	got := done(t, s, op("setting/title", `"Larch"`))
	assert.Empty(t, got.Changes, "it is so already")
}

// Each operation is declared in full, and its law is a test that there is.
func TestEachOperationHasItsRow(t *testing.T) {
	files, err := filepath.Glob("*_test.go")
	require.NoError(t, err)
	var src []byte
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		src = append(src, b...)
	}
	for _, r := range edit.Rows {
		assert.NotEmpty(t, r.Does, r.Op)
		assert.NotEmpty(t, r.Inputs, r.Op)
		assert.NotEmpty(t, r.Refusals, r.Op)
		assert.NotEmpty(t, r.Touches, r.Op)
		assert.Contains(t, r.Command, string(r.Op))
		assert.Contains(t, string(src), "func "+r.Law+"(", r.Op)
	}
	assert.Len(t, slices.Compact(slices.Sorted(slices.Values(edit.Names()))), len(edit.Rows), "each once")
	_, err = edit.Apply(hut(t), []edit.Operation{{Op: "dance"}})
	require.Error(t, err)
}

// Whatever is done at random elements: either it is refused and nothing changes, or pages that show
// none of what changed stay the same to the byte, and those that do can be shown.
func TestRandomOperationsTouchOnlyWhatTheySay(t *testing.T) {
	r := seed.Rand(t)
	s := hut(t)
	did := 0
	for range 400 {
		slug := []string{"/", "/rooms/"}[r.Intn(2)]
		out, err := render.New(s).Page(render.PageRequest{Slug: slug})
		require.NoError(t, err)
		all := markup.Parse(out.Body, "").All
		pick := func() string { return css.PathTo(all[r.Intn(len(all))]) }
		op := edit.Operation{Op: edit.Names()[r.Intn(11)], Page: slug, Element: pick(), Beside: pick(),
			Place: edit.Places[r.Intn(3)],
			Value: []string{"Words", "/rooms/", "media/b.jpg", "section", "<p>put</p>", "h3"}[r.Intn(6)]}
		got, err := edit.Apply(s, []edit.Operation{op})
		var no *edit.RefusedError
		if err != nil {
			require.ErrorAs(t, err, &no, "%+v", op)
			continue
		}
		over := item.NewOver(s)
		changed := map[item.Address]bool{}
		for _, c := range got.Changes {
			changed[c.Head.Address] = true
			over.Set(c.Head, c.Content)
		}
		for _, page := range []string{"/", "/rooms/"} {
			was, err := render.New(s).Page(render.PageRequest{Slug: page})
			require.NoError(t, err)
			now, err := render.New(over).Page(render.PageRequest{Slug: page})
			require.NoError(t, err, "%+v", op)
			if !slices.ContainsFunc(was.Reached, func(a item.Address) bool { return changed[a] }) {
				assert.Equal(t, string(was.Body), string(now.Body), "%+v", op)
			}
		}
		did++
	}
	assert.Greater(t, did, 30)
}
