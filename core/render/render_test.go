package render

import (
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func site(files map[string]string, metas map[string]item.Meta) *item.Set {
	s := item.NewSet()
	for a, text := range files {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: metas[a]}, []byte(text))
	}
	return s
}

func shown(t *testing.T, s *item.Set, slug string) (string, *Output) {
	t.Helper()
	out, err := New(s).Page(Ask{Slug: slug})
	require.NoError(t, err)
	return string(out.Body), out
}

func TestAPageStandsInItsSurround(t *testing.T) {
	styles := []item.Address{item.MustAddress("stylesheet/base")}
	s := site(map[string]string{
		"page/home":          "<!doctype html><html><body class=x><p>Hello</p><cp-part role=\"footer\"></cp-part><!-- end --></body></html>",
		"page/bare":          "<p>bare</p>",
		"part/header":        "<header><cp-title>Sample</cp-title><cp-menu name=\"main\"></cp-menu></header>",
		"part/home-header":   "<header>home</header>",
		"part/footer":        "<footer>foot</footer>",
		"part/wrap":          "<div class=\"wrap\"><cp-content></cp-content></div>",
		"part/lost":          "<main>lost</main>",
		"menu/main":          `{"title":"Main","entries":[{"label":"A & B","to":"/","entries":[{"label":"C","to":"/c/"}]}]}`,
		"setting/title":      `"The <Hut>"`,
		"stylesheet/base":    ".x{background:url(/media/a.png)}",
		"media/a.png":        "png",
		"setting/home-page":  `"page/home"`,
		"stylesheet/unasked": "p{}",
	}, map[string]item.Meta{
		"page/home":        {Slug: "/", Variant: map[item.Role]string{item.Header: "over-picture"}, Styles: styles},
		"page/bare":        {Slug: "/bare/", Title: "Bare", Without: []item.Role{item.Footer}},
		"part/header":      {Role: item.Header},
		"part/home-header": {Role: item.Header, Placement: &item.Placement{On: []string{"home"}}},
		"part/footer":      {Role: item.Footer},
		"part/wrap":        {Role: item.Wrapper},
		"part/lost":        {Role: item.NotFound},
	})
	home, out := shown(t, s, "/")
	assert.Contains(t, home, `<header data-variant="over-picture">home</header>`, "the more exact target wins, in the chosen variant")
	assert.Contains(t, home, `<footer>foot</footer><!-- end -->`, "a mark says where the part stands")
	assert.Contains(t, home, `<div class="wrap">`)
	assert.Regexp(t, `<link rel="stylesheet" href="/_cp/[0-9a-f]{12}/base.css">`, home)
	assert.NotContains(t, home, "unasked")
	assert.Equal(t, 200, out.Status)

	bare, out := shown(t, s, "/bare/")
	assert.Contains(t, bare, `<header>The &lt;Hut&gt;<nav class="cp-menu" aria-label="Main">`)
	assert.Contains(t, bare, `<li><a href="/">A &amp; B</a><ul class="cp-menu-sub"><li><a href="/c/">C</a></li></ul></li>`)
	assert.NotContains(t, bare, "foot")
	assert.Contains(t, bare, "<title>Bare · The &lt;Hut&gt;</title>")
	assert.Contains(t, out.Around, Standing{Role: item.Footer, Why: "the page leaves it out"})

	lost, out := shown(t, s, "/nowhere/")
	assert.Equal(t, 404, out.Status)
	assert.Contains(t, lost, "<main>lost</main>")

	r := New(s)
	_, err := r.Page(Ask{Slug: "/"})
	require.NoError(t, err)
	for _, a := range r.Assets() {
		b, err := r.Content(a)
		require.NoError(t, err)
		if strings.HasSuffix(a.Path, ".css") {
			assert.Regexp(t, `url\(/_cp/[0-9a-f]{12}/a.png\)`, string(b))
		}
	}
}

func TestSectionsWithOwnValuesAndInCircles(t *testing.T) {
	s := site(map[string]string{
		"page/home":     `<cp-section name="hours"><cp-value for="hut"><b>Larch</b></cp-value><cp-value for="go">/a?b=1&amp;c=2</cp-value></cp-section><cp-section name="none"><i>later</i><cp-value for="x">y</cp-value></cp-section>`,
		"section/hours": `<section><h2 data-fill="text:hut">Sample</h2><a data-fill="href:go" href="/x/">go</a></section>`,
		"page/loop":     `<cp-section name="a"></cp-section>`,
		"section/a":     `<cp-section name="b"></cp-section>`,
		"section/b":     `<cp-section name="a"></cp-section>`,
	}, map[string]item.Meta{"page/home": {Slug: "/"}, "page/loop": {Slug: "/loop/"}})
	home, _ := shown(t, s, "/")
	assert.Contains(t, home, `<h2 data-fill="text:hut"><b>Larch</b></h2>`)
	assert.Contains(t, home, `href="/a?b=1&amp;c=2"`)
	assert.Contains(t, home, "<i>later</i>")
	_, err := New(s).Page(Ask{Slug: "/loop/"})
	assert.ErrorContains(t, err, "section/a → section/b → section/a")
}

func TestRecordsListingsAndSearch(t *testing.T) {
	s := site(map[string]string{
		"page/home":          `<ul><cp-records type="room" sort="beds" limit="1"><li><a data-field="href:url; text:title">t</a></li></cp-records></ul><cp-records type="none"><p>x</p><cp-empty><p>none</p></cp-empty></cp-records>`,
		"record/room/attic":  `<p data-value="text:beds">16</p>`,
		"record/room/east":   `<p data-value="text:beds">12</p>`,
		"part/room":          `<main><cp-content></cp-content></main>`,
		"part/search":        `<cp-search></cp-search><cp-results><p data-field="text:title">t</p><cp-empty>nothing</cp-empty></cp-results>`,
		"record-type/room":   `{"title":"Room"}`,
		"section/unrelated":  `<p>x</p>`,
		"setting/search-dir": `"x"`,
	}, map[string]item.Meta{
		"page/home":         {Slug: "/", Title: "Rooms of the hut"},
		"record/room/attic": {Type: "room", Title: "Attic"},
		"record/room/east":  {Type: "room", Title: "East"},
		"part/room":         {Role: item.RecordRole, Placement: &item.Placement{On: []string{"records:room"}}},
		"part/search":       {Role: item.Search},
	})
	home, _ := shown(t, s, "/")
	assert.Contains(t, home, `<li><a href="/room/attic/" data-field="href:url; text:title">Attic</a></li>`)
	assert.NotContains(t, home, "East")
	assert.Contains(t, home, "<p>none</p>")
	room, out := shown(t, s, "/room/east/")
	assert.Equal(t, 200, out.Status)
	assert.Contains(t, room, `<main><p data-value="text:beds">12</p></main>`)
	found, err := New(s).Page(Ask{Slug: "/search/", Query: "attic"})
	require.NoError(t, err)
	assert.Contains(t, string(found.Body), "nothing", "records are not pages")
	assert.ElementsMatch(t, []string{"/room/attic/", "/room/east/", "/search/"}, New(s).Made())
}
