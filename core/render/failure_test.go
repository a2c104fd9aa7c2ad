package render

import (
	"io"
	"testing"

	"compactparcel/core/item"
	"compactparcel/test/failing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func contentOf(r *Renderer, x Asset) ([]byte, error) {
	f, err := r.Open(x)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(f)
}

// whole is a site in which every element of the engine reads something.
func whole() *item.Set {
	return site(map[string]string{
		"page/home": `<cp-logo></cp-logo><cp-title></cp-title><cp-section name="a"></cp-section><cp-menu ` +
			`name="m"></cp-menu><cp-menu anchors></cp-menu>` +
			`<cp-form name="f"></cp-form><cp-records type="room"><a ` +
			`data-field="text:title"></a></cp-records><img src="/media/a.svg">`,
		"page/about": `<p id="x">about</p>`,
		"section/a":  `<section id="a"><h2>A</h2></section>`,
		"part/head":  `<header><cp-strapline></cp-strapline></header>`,
		"part/rec":   `<main><cp-content></cp-content></main>`,
		"part/list": `<main><cp-records limit="1"><b ` +
			`data-field="text:title"></b></cp-records><cp-pages></cp-pages></main>`,
		"part/find":           `<main><cp-results><a data-field="href:url"></a></cp-results></main>`,
		"part/lost":           `<main>lost</main>`,
		"record/one":          `<p data-value="text:category">attic</p>`,
		"record/two":          `<p data-value="text:category">attic</p>`,
		"menu/m":              `{"title":"M","entries":[{"label":"Home","to":"/"}]}`,
		"form/f":              `{"schema":{"properties":{"a":{"type":"string"}}}}`,
		"stylesheet/b":        `@import "/stylesheets/c.css"; a{background:url(/media/a.svg)}`,
		"stylesheet/c":        `b{top:0}`,
		"tokens/t":            `{"ink":{"$value":"#000"}}`,
		"media/a.svg":         `<svg xmlns="http://www.w3.org/2000/svg"><image href="/media/b.png"/></svg>`,
		"media/b.png":         `png`,
		"setting/title":       `"Hut"`,
		"setting/logo":        `{"media":"/media/b.png"}`,
		"setting/icon":        `"/media/b.png"`,
		"setting/strapline":   `"High up"`,
		"setting/language":    `"en"`,
		"setting/home":        `"page/home"`,
		"setting/robots":      `"noindex"`,
		"setting/style-order": `["tokens/t","stylesheet/b"]`,
	}, map[string]item.Meta{
		"page/home": {
			Slug:   "/",
			Styles: []item.Address{item.MustAddress("stylesheet/b"), item.MustAddress("tokens/t")},
		},
		"page/about": {Slug: "/about/"},
		"part/head": {
			Role: item.Header,
		},
		"part/rec":   {Role: item.RecordRole, Placement: &item.Placement{Where: []string{"records:room"}}},
		"part/list":  {Role: item.Listing, Placement: &item.Placement{Where: []string{"listing:room"}}},
		"part/find":  {Role: item.Search},
		"part/lost":  {Role: item.NotFound},
		"record/one": {Type: "room", Title: "One"},
		"record/two": {Type: "room", Title: "Two"},
	})
}

func TestAFailedReadIsNeverAnAbsence(t *testing.T) {
	for _, slug := range []string{"/", "/about/", "/one/", "/room/", "/room/page-2/", "/room/category/attic/",
		"/search/", "/nowhere/"} {
		failing.EachRead(t, whole(), func(c item.Collection) (any, error) {
			out, err := New(c).Page(PageRequest{Slug: slug, Query: "about"})
			if err != nil {
				return nil, err
			}
			return string(out.Body), nil
		})
	}
	failing.EachRead(t, whole(), func(c item.Collection) (any, error) { return New(c).GeneratedPages() })
	failing.EachRead(t, whole(), func(c item.Collection) (any, error) { return StyleOrder(c) })
	failing.EachRead(t, whole(), func(c item.Collection) (any, error) {
		x, found, err := New(c).AssetAt("/stylesheets/b.css")
		return []any{x, found}, err
	})
	for _, a := range []string{"section/a", "part/head", "form/f"} {
		failing.EachRead(t, whole(), func(c item.Collection) (any, error) {
			out, err := New(c).Alone(item.MustAddress(a))
			if err != nil {
				return nil, err
			}
			return string(out.Body), nil
		})
	}
	failing.EachRead(
		t,
		whole(),
		func(c item.Collection) (any, error) { return New(c).Fragment(item.MustAddress("part/head")) },
	)
	failing.EachRead(t, whole(), func(c item.Collection) (any, error) {
		out, err := New(c).Pick(item.MustAddress("section/a"))
		if err != nil {
			return nil, err
		}
		return string(out.Body), nil
	})
}

// A renderer that met a failure shows all when it is over.
func TestAFailureIsNotKept(t *testing.T) {
	want, err := New(whole()).Page(PageRequest{Slug: "/"})
	require.NoError(t, err)
	for n := int64(1); n < 30; n++ {
		r := New(&failing.Collection{Collection: whole(), At: n})
		_, err := r.Page(PageRequest{Slug: "/"})
		if err == nil {
			continue
		}
		got, err := r.Page(PageRequest{Slug: "/"})
		require.NoError(t, err)
		assert.Equal(t, string(want.Body), string(got.Body), "read %d", n)
	}
}

func TestADocumentBeyondTheLimitsIsShownAsItIs(t *testing.T) {
	body := "<!doctype html><p>" + manyTags(250_000)
	s := site(map[string]string{"page/home": body, "part/head": "<header>x</header>"},
		map[string]item.Meta{"page/home": {Slug: "/"}, "part/head": {Role: item.Header}})
	out, err := New(s).Page(PageRequest{Slug: "/"})
	require.NoError(t, err)
	assert.Equal(t, body, string(out.Body))
}

func manyTags(n int) string {
	b := make([]byte, 0, 3*n)
	for range n {
		b = append(b, "<b>"...)
	}
	return string(b)
}
