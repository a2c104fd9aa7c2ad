package repeat

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cairn gives a small site of loose pages: a header that marks the current page, a
// footer, a band with another heading on each page, cards, and one page without all.
func cairn(t *testing.T) *item.Set {
	t.Helper()
	fsys := fstest.MapFS{
		"plain.html": {Data: []byte(`<!doctype html><title>Plain</title><p>bare</p>`)},
		"site.css": {
			Data: []byte(`:root{--ink:#123456;--space:.5rem;--type:"Hut Sans", serif;--shade:0 1px red;--late:1px}
@media print{:root{--late:2px}} p{color:var(--ink)}`),
		},
	}
	for i, name := range []string{"index", "about", "huts/index", "huts/upper", "contact"} {
		mark := func(n int, href, text string) string {
			class := ""
			if n == i || n == 2 && i == 3 {
				class = ` class="now"`
			}
			return "<li" + class + `><a href="/` + href + `">` + text + "</a></li>"
		}
		body := fmt.Sprintf(
			`<!doctype html><html><head><title>%[1]s</title><link rel="stylesheet" href="/site.css"></head><body>
<header class="top"><a href="/"><img src="/mark.png" alt="Cairn Edge"></a><ul>%[2]s%[3]s%[4]s%[5]s</ul></header>
<main><h1>%[1]s</h1><p>Text of %[1]s</p></main>
<section class="call"><h2>Ask about %[1]s</h2><p>We answer within a day.</p><p><a `+
				`href="/contact.html?about=%[1]s">Write</a></p></section>
<footer><p>Cairn Edge</p></footer></body></html>`,
			name,
			mark(0, "", "Home"),
			mark(1, "about.html", "About"),
			mark(2, "huts/", "Huts"),
			mark(4, "contact.html", "Contact"),
		)
		if name == "index" {
			body = strings.Replace(
				body,
				"</main>",
				`<div class="cards"><div class="card"><h3>One</h3><p>first <b>bold</b></p><img src="/a.png" `+
					`alt="a"></div>
<div class="card"><h3>Two</h3><p>second <b>b</b></p><img src="/b.png" alt="b"></div>
<div class="card"><h3>Three</h3><p>third <b>c</b></p><img src="/a.png" alt="c"></div></div></main>`,
				1,
			)
		}
		fsys[name+".html"] = &fstest.MapFile{Data: []byte(body)}
	}
	for _, p := range []string{"mark.png", "a.png", "b.png"} {
		fsys[p] = &fstest.MapFile{Data: []byte(p)}
	}
	set, _, err := folder.Read(fsys)
	require.NoError(t, err)
	return set
}

func proposed(t *testing.T, c item.Collection) map[string]Proposal {
	t.Helper()
	list, err := Find(c)
	require.NoError(t, err)
	out := map[string]Proposal{}
	for _, p := range list {
		out[p.Address.String()] = p
	}
	return out
}

func TestWhatRepeatsIsProposed(t *testing.T) {
	got := proposed(t, cairn(t))
	require.Len(t, got, 5, "%v", got)
	top := got["part/site-header"]
	assert.Equal(t, item.Header, top.Role)
	assert.Len(t, top.Stands, 5)
	assert.True(t, top.Sure)
	assert.Equal(t, "the header on 5 of 6 pages", top.Message)
	assert.Equal(t, 1.0, got["part/site-footer"].Likeness)
	call := got["section/call"]
	assert.Len(t, call.Differs, 2)
	assert.InDelta(t, 0.8, call.Likeness, 0.2)
	assert.Contains(t, got["record-type/card"].Message, "3 similar blocks")
	var tokens []string
	for _, d := range got["tokens/site"].Differs {
		tokens = append(tokens, d.What)
	}
	assert.Len(t, tokens, 4, "a shadow is no token: %v", tokens)
}

func TestWhatIsAcceptedLooksAsItDid(t *testing.T) {
	set := cairn(t)
	done, err := Accept(
		set,
		[]item.Address{
			item.MustAddress("section/call"),
			item.MustAddress("record-type/card"),
			item.MustAddress("tokens/site"),
		},
		true,
	)
	require.NoError(t, err)
	assert.Empty(t, done.Notes)
	assert.Len(t, done.Took, 5)
	text := map[string]string{}
	over := map[item.Address]Item{}
	for _, x := range done.Items {
		text[x.Head.Address.String()], over[x.Head.Address] = string(x.Content), x
	}
	after := laidOver(set, over)
	assert.Contains(t, text["part/site-header"], `data-current-within="class:now"`)
	assert.Contains(t, text["part/site-header"], `<li data-current="class:now"><a href="/about.html">`)
	assert.NotContains(t, text["part/site-header"], `class="now"`)
	assert.Contains(t, text["page/about"], `<cp-part role="header"></cp-part>`)
	assert.Contains(t, text["page/contact"], `<cp-value for="heading">Ask about contact</cp-value>`)
	assert.Contains(t, text["page/home"], `<cp-records type="card" sort="order" order="rising">`)
	assert.Contains(t, text["record/card/two"], `<div data-value="html:text">second <b>b</b></div>`)
	assert.NotContains(t, text["stylesheet/site"], "--ink:#123456")
	assert.Contains(t, text["stylesheet/site"], "--late:2px", "what a medium changes still comes later")
	assert.Equal(t, []item.Role{item.Header, item.Footer}, over[item.MustAddress("page/plain")].Head.Meta.Without)
	before, now := render.New(set), render.New(after)
	for slug := range before.Pages() {
		x, err := before.Page(render.PageRequest{Slug: slug})
		require.NoError(t, err)
		y, err := now.Page(render.PageRequest{Slug: slug})
		require.NoError(t, err)
		assert.Equal(t, canon(x.Body), canon(y.Body), slug)
		assert.NotContains(t, string(y.Body), "cp-value", slug)
	}
	o, err := now.Page(render.PageRequest{Slug: "/huts/upper.html"})
	require.NoError(t, err)
	assert.Contains(t, string(o.Body), `class="now" data-current-within="class:now"><a href="/huts/">`,
		"a page below marks its place, too")
	pieces, err := Shapes(after)
	require.NoError(t, err)
	for _, h := range set.Heads() { // a page as it was is told again for what was made of it
		if h.Address.Kind == item.Page && h.Address.Key != "home" {
			b, err := item.Read(set, h)
			require.NoError(t, err)
			again, err := Recognise(b, "", pieces, true)
			require.NoError(t, err)
			assert.Equal(t, text[h.Address.String()], string(again), h.Address)
		}
	}
	b, err := Recognise(
		[]byte(
			`<header class="top"><a href="/"><img src="/media/mark.png" alt="Somebody else"></a><ul></ul></header>`,
		),
		"",
		pieces,
		false,
	)
	require.NoError(t, err)
	assert.NotContains(t, string(b), "cp-part", "what differs elsewhere is left alone")
	rest := proposed(t, after)
	assert.Empty(t, rest, "nothing is proposed twice")
}

// Where the repeated thing is not alike enough, or follows no rule, pages keep theirs.
func TestWhatStaysAPagesOwn(t *testing.T) {
	fsys := fstest.MapFS{}
	for i := range 4 {
		class := []string{"", "", "", ` class="odd"`}[i]
		fsys[fmt.Sprintf("p%d.html", i)] = &fstest.MapFile{
			Data: []byte(
				fmt.Sprintf(
					`<!doctype html><body><header><p>Hut</p><ul><li%s><a `+
						`href="/elsewhere.html">x</a></li></ul></header><article><h2>a%[2]d</h2><p>b%[2]d</p><p>`+
						`c%[2]d</p></article></body>`,
					class,
					i,
				),
			),
		}
	}
	set, _, err := folder.Read(fsys)
	require.NoError(t, err)
	assert.NotContains(t, proposed(t, set), "section/article", "articles of one build are not one thing")
	done, err := Accept(set, []item.Address{item.MustAddress("part/site-header")}, false)
	require.NoError(t, err)
	require.Len(t, done.Notes, 1)
	assert.Equal(t, "page/p3", done.Notes[0].Address.String())
	assert.Contains(t, done.Notes[0].Message, "follows no rule")
	_, err = Accept(set, []item.Address{item.MustAddress("section/none")}, false)
	assert.ErrorContains(t, err, "not one of the proposals")
}

func TestLiteralColoursAndType(t *testing.T) {
	set, _, err := folder.Read(
		fstest.MapFS{
			"index.html": {Data: []byte(`<!doctype html><head><link rel=stylesheet href=a.css></head><p>x`)},
			"a.css": {
				Data: []byte(
					`body{color:#222;font-family:Georgia, "Times New Roman", serif} a{color:#222;border:1px ` +
						`solid #222;background:linear-gradient(#fff,#222)} b{background:#fff} ` +
						`i{background-color:#fff} u{background:#fff}`,
				),
			},
		},
	)
	require.NoError(t, err)
	done, err := Accept(set, []item.Address{siteTokens}, false)
	require.NoError(t, err)
	for _, x := range done.Items {
		switch x.Head.Address.Kind {
		case item.Stylesheet:
			assert.Equal(
				t,
				`body{color:var(--ink);font-family:var(--type)} a{color:var(--ink);border:1px solid `+
					`var(--ink);background:linear-gradient(#fff,#222)} b{background:var(--ground)} `+
					`i{background-color:var(--ground)} u{background:var(--ground)}`,
				string(x.Content),
			)
		case item.Page:
			assert.Contains(t, string(x.Content), `<head><link rel="stylesheet" href="/tokens/site.tokens.json">`)
		}
	}
}

func TestTheSketchNeverCountsTooFew(t *testing.T) {
	s := &sketch{}
	for i := range 100_000 {
		s.add(shape(i % 30_000))
	}
	over := 0
	for i := range 30_000 {
		n := s.count(shape(i))
		assert.GreaterOrEqual(t, n, 3)
		if n > 4 {
			over++
		}
	}
	assert.Less(t, over, 3000, "and seldom too many")
}
