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
	out, err := New(s).Page(PageRequest{Slug: slug})
	require.NoError(t, err)
	return string(out.Body), out
}

func TestAPageStandsInItsSurround(t *testing.T) {
	styles := []item.Address{item.MustAddress("stylesheet/base")}
	s := site(map[string]string{
		"page/home": "<!doctype html><html><body class=x><p>Hello</p><cp-part " +
			"role=\"footer\"></cp-part><!-- end --></body></html>",
		"page/bare":        "<p>bare</p>",
		"part/header":      "<header><cp-title>Sample</cp-title><cp-menu name=\"main\"></cp-menu></header>",
		"part/home-header": "<header>home</header>",
		"part/footer":      "<footer>foot</footer>",
		"part/wrap":        "<div class=\"wrap\"><cp-content></cp-content></div>",
		"part/lost":        "<main>lost</main>",
		"menu/main": `{"title":"Main","entries":[{"label":"A & ` +
			`B","to":"/","entries":[{"label":"C","to":"/c/"}]}]}`,
		"setting/title":      `"The <Hut>"`,
		"stylesheet/base":    ".x{background:url(/media/a.png)}",
		"media/a.png":        "png",
		"setting/home":       `"page/home"`,
		"stylesheet/unasked": "p{}",
	}, map[string]item.Meta{
		"page/home":        {Slug: "/", Variant: map[item.Role]string{item.Header: "over-picture"}, Styles: styles},
		"page/bare":        {Slug: "/bare/", Title: "Bare", Without: []item.Role{item.Footer}},
		"part/header":      {Role: item.Header},
		"part/home-header": {Role: item.Header, Placement: &item.Placement{Where: []string{"home"}}},
		"part/footer":      {Role: item.Footer},
		"part/wrap":        {Role: item.Wrapper},
		"part/lost":        {Role: item.NotFound},
	})
	home, out := shown(t, s, "/")
	assert.Contains(t, home, `<header data-variant="over-picture">home</header>`,
		"the more exact target wins, in the chosen variant")
	assert.Contains(t, home, `<footer>foot</footer><!-- end -->`, "a mark says where the part stands")
	assert.Contains(t, home, `<div class="wrap">`)
	assert.Regexp(t, `<link rel="stylesheet" href="/_cp/[0-9a-f]{12}/base.css">`, home)
	assert.NotContains(t, home, "unasked")
	assert.Equal(t, 200, out.Status)

	bare, out := shown(t, s, "/bare/")
	assert.Contains(t, bare, `<header>The &lt;Hut&gt;<nav class="cp-menu" aria-label="Main">`)
	assert.Contains(t, bare,
		`<li><a href="/">A &amp; B</a><ul class="cp-menu-sub"><li><a href="/c/">C</a></li></ul></li>`)
	assert.NotContains(t, bare, "foot")
	assert.Contains(t, bare, "<title>Bare · The &lt;Hut&gt;</title>")
	assert.Contains(t, out.Around, PartAssignment{Role: item.Footer, Why: "the page leaves it out"})

	lost, out := shown(t, s, "/nowhere/")
	assert.Equal(t, 404, out.Status)
	assert.Contains(t, lost, "<main>lost</main>")

	r := New(s)
	_, err := r.Page(PageRequest{Slug: "/"})
	require.NoError(t, err)
	for _, a := range r.Assets() {
		b, err := contentOf(r, a)
		require.NoError(t, err)
		if strings.HasSuffix(a.Path, ".css") {
			assert.Regexp(t, `url\(/_cp/[0-9a-f]{12}/a.png\)`, string(b))
		}
	}
}

func TestSectionsWithOwnValuesAndInCircles(t *testing.T) {
	s := site(map[string]string{
		"page/home": `<cp-section name="hours"><cp-value for="hut"><b>Larch</b></cp-value><cp-value ` +
			`for="go">/a?b=1&amp;c=2</cp-value></cp-section><cp-section name="none"><i>later</i><cp-value ` +
			`for="x">y</cp-value></cp-section>`,
		"section/hours": `<section><h2 data-fill="text:hut">Sample</h2><a data-fill="href:go" ` +
			`href="/x/">go</a></section>`,
		"page/loop": `<cp-section name="a"></cp-section>`,
		"section/a": `<cp-section name="b"></cp-section>`,
		"section/b": `<cp-section name="a"></cp-section>`,
	}, map[string]item.Meta{"page/home": {Slug: "/"}, "page/loop": {Slug: "/loop/"}})
	home, _ := shown(t, s, "/")
	assert.Contains(t, home, `<h2 data-fill="text:hut"><b>Larch</b></h2>`)
	assert.Contains(t, home, `href="/a?b=1&amp;c=2"`)
	assert.Contains(t, home, "<i>later</i>")
	_, err := New(s).Page(PageRequest{Slug: "/loop/"})
	assert.ErrorContains(t, err, "section/a → section/b → section/a")
}

func TestRecordsListingsAndSearch(t *testing.T) {
	s := site(map[string]string{
		"page/home": `<ul><cp-records type="room" sort="beds" limit="1"><li><a data-field="href:url; ` +
			`text:title">t</a></li></cp-records></ul><cp-records ` +
			`type="none"><p>x</p><cp-empty><p>none</p></cp-empty></cp-records>`,
		"record/room/attic": `<p data-value="text:beds">16</p>`,
		"record/room/east":  `<p data-value="text:beds">12</p>`,
		"part/room":         `<main><cp-content></cp-content></main>`,
		"part/search": `<cp-search></cp-search><cp-results><p ` +
			`data-field="text:title">t</p><cp-empty>nothing</cp-empty></cp-results>`,
		"record-type/room":   `{"title":"Room"}`,
		"section/unrelated":  `<p>x</p>`,
		"setting/search-dir": `"x"`,
	}, map[string]item.Meta{
		"page/home":         {Slug: "/", Title: "Rooms of the hut"},
		"record/room/attic": {Type: "room", Title: "Attic"},
		"record/room/east":  {Type: "room", Title: "East"},
		"part/room":         {Role: item.RecordRole, Placement: &item.Placement{Where: []string{"records:room"}}},
		"part/search":       {Role: item.Search},
	})
	home, _ := shown(t, s, "/")
	assert.Contains(t, home, `<li><a href="/room/attic/" data-field="href:url; text:title">Attic</a></li>`)
	assert.NotContains(t, home, "East")
	assert.Contains(t, home, "<p>none</p>")
	room, out := shown(t, s, "/room/east/")
	assert.Equal(t, 200, out.Status)
	assert.Contains(t, room, `<main><p data-value="text:beds">12</p></main>`)
	found, err := New(s).Page(PageRequest{Slug: "/search/", Query: "attic"})
	require.NoError(t, err)
	assert.Contains(t, string(found.Body), "nothing", "records are not pages")
	var made []string
	all, err := New(s).GeneratedPages()
	require.NoError(t, err)
	for _, m := range all {
		made = append(made, m.Slug)
	}
	assert.Equal(t, []string{"/room/attic/", "/room/east/", "/search/", "/404.html"}, made)
}

func TestFormsFromTheirSchema(t *testing.T) {
	s := site(map[string]string{
		"page/home": `<cp-form name="book"></cp-form><cp-form name="none"></cp-form>`,
		"form/book": `{"submit":"Ask <now>","order":["who","mail","n","say","pick","yes","ghost"],` +
			`"schema":{"required":["who"],"properties":{"who":{"type":"string","title":"Who & ` +
			`where"},"mail":{"type":"string","format":"email","title":"Mail"},"n":{"type":"integer","minimum":1,` +
			`"maximum":9,"title":"N"},"say":{"type":"string","maxLength":999,"title":"Say"},"pick":{"enum":["a",` +
			`"b<"],"title":"Pick"},"yes":{"type":"boolean","title":"Yes"}}}}`,
	}, map[string]item.Meta{"page/home": {Slug: "/"}})
	out, _ := shown(t, s, "/")
	for _, want := range []string{`<span>Who &amp; where</span><input type="text" name="who" required>`,
		`<input type="email" name="mail">`, `<input type="number" name="n" min="1" max="9">`,
		`<textarea rows="4" name="say" maxlength="999">`, `<option>b&lt;</option>`,
		`<input type="checkbox" name="yes">`, `<button>Ask &lt;now&gt;</button>`, `action="/_cp/form/book"`} {
		assert.Contains(t, out, want)
	}
	assert.NotContains(t, out, "ghost")
}

func TestTheLogoAndWhatStandsInsteadOfIt(t *testing.T) {
	page := map[string]item.Meta{"page/home": {Slug: "/"}}
	files := map[string]string{
		"page/home":     `<a><cp-logo><cp-title>Sample</cp-title></cp-logo></a>`,
		"setting/title": `"Hut"`,
	}
	out, _ := shown(t, site(files, page), "/")
	assert.Contains(t, out, "<a>Hut</a>")
	files["setting/logo"] = `{"media":"/media/m.svg","alt":"The \"mark\"","width":{"1280":44}}`
	files["media/m.svg"] = `<svg xmlns="http://www.w3.org/2000/svg"></svg>`
	out, _ = shown(t, site(files, page), "/")
	assert.Regexp(t, `<img class="cp-logo" src="/_cp/[0-9a-f]{12}/m.svg" alt="The &quot;mark&quot;" width="44">`, out)
}

func TestMoreExactTargetsWinAndTiesAreTold(t *testing.T) {
	part := func(key string, on ...string) item.Head {
		return item.Head{
			Address: item.Address{Kind: item.Part, Key: key},
			Meta: item.Meta{Role: item.Header,
				Placement: &item.Placement{Where: on, Unless: []string{"page:/not/"}}},
		}
	}
	parts := []item.Head{
		part("all", "everywhere"),
		part("b-under", "under:/docs/"),
		part("a-under", "under:/docs/"),
		part("deep", "under:/docs/deep/"),
		part("one", "page:/docs/deep/one/"),
		part("rooms", "records:room?category=attic"),
	}
	off := part("off", "page:/docs/x/")
	off.Meta.Off = true
	parts = append(parts, off)
	for slug, want := range map[string]string{"/": "part/all", "/docs/": "part/all", "/docs/x/": "part/a-under",
		"/docs/deep/y/": "part/deep", "/docs/deep/one/": "part/one", "/not/": "/"} {
		t.Run(slug, func(t *testing.T) {
			h, st := AssignPart(parts, item.Header, PageContext{Slug: slug})
			assert.Equal(t, want, h.Address.String(), slug)
			if slug == "/docs/x/" {
				assert.Equal(t, []item.Address{item.MustAddress("part/b-under")}, st.Ties)
			}
		})
	}
	h, _ := AssignPart(parts, item.Header, PageContext{Slug: "/room/x/", Record: "room", Category: "attic"})
	assert.Equal(t, "part/rooms", h.Address.String())
	_, st := AssignPart(parts, item.Footer, PageContext{Slug: "/"})
	assert.Equal(t, "no part is placed here", st.Why)
}

func TestOnePieceAlone(t *testing.T) {
	s := site(
		map[string]string{
			"section/a":       `<section class="a">x</section>`,
			"stylesheet/base": ".a{top:0}",
			"menu/m":          `{"title":"M","entries":[]}`,
			"media/a.png":     "x",
			"tokens/t":        `{"ink":{"$value":"#000"}}`,
		},
		map[string]item.Meta{
			"section/a": {Styles: []item.Address{item.MustAddress("tokens/t"), item.MustAddress("stylesheet/base")}},
		},
	)
	r := New(s)
	out, err := r.Alone(item.MustAddress("section/a"))
	require.NoError(t, err)
	assert.Contains(t, string(out.Body), `<section class="a">x</section>`)
	assert.Less(t, strings.Index(string(out.Body), "t.css"), strings.Index(string(out.Body), "base.css"),
		"tokens come first when the order says nothing")
	for address, ok := range map[string]bool{"menu/m": true, "media/a.png": true, "tokens/t": false,
		"section/none": false} {
		t.Run(address, func(t *testing.T) {
			_, err := r.Alone(item.MustAddress(address))
			assert.Equal(t, ok, err == nil, address)
		})
	}
	x, found, err := New(s).AssetAt("/media/a.png")
	require.NoError(t, err)
	assert.True(t, found, "also by its own name")
	assert.NotEmpty(t, x.Path)
	for _, p := range []string{"/_cp/000000000000/a.png", "/media/none.png", "/pages/home.html"} {
		t.Run(p, func(t *testing.T) {
			_, found, err := New(s).AssetAt(p)
			require.NoError(t, err)
			assert.False(t, found, p)
		})
	}
}

func TestImpliedTagsAreNoObstacle(t *testing.T) {
	for _, src := range []string{"<!doctype html><title>T</title><p>x", "<!doctype html><html><p>x</p></html>",
		"<!doctype html><body><p>x", "<p>x"} {
		s := site(
			map[string]string{
				"page/home": src,
				"part/top":  "<header>top</header>",
				"part/foot": "<footer>foot</footer>",
			},
			map[string]item.Meta{
				"page/home": {Slug: "/", Title: "T"},
				"part/top":  {Role: item.Header},
				"part/foot": {Role: item.Footer},
			},
		)
		out, _ := shown(t, s, "/")
		top, x, foot := strings.Index(out, "<header>top"), strings.Index(out, "<p>x"), strings.Index(out,
			"<footer>foot")
		assert.True(t, 0 < top && top < x && x < foot, "%s gives %s", src, out)
		assert.Contains(t, out, "<title>T</title>")
		assert.Contains(t, out, `<meta charset="utf-8">`)
	}
}

// The site's addresses in social networks are written once, and shown wherever they are placed.
func TestProfilesAreShownWhereTheyArePlaced(t *testing.T) {
	c := item.NewSet()
	put := func(a, text string, m item.Meta) {
		c.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/home", `<!doctype html><main><cp-profiles>Nowhere yet</cp-profiles></main>`, item.Meta{Slug: "/"})
	show := func() string {
		out, err := New(c).Page(PageRequest{Slug: "/"})
		require.NoError(t, err)
		return string(out.Body)
	}
	assert.Contains(t, show(), "<main>Nowhere yet</main>")
	put("setting/profiles", `[{"name":"Hut & ridge","url":"https://social.example/@hut?a=1&b=2"}]`, item.Meta{})
	assert.Contains(t, show(), `<ul class="cp-profiles"><li><a rel="me" `+
		`href="https://social.example/@hut?a=1&amp;b=2">`+
		`Hut &amp; ridge</a></li></ul>`)
}
