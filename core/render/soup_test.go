package render_test

import (
	"errors"
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/core/outline"
	"compactparcel/core/render"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// soupSite is a site whose page, part, section and record hold the HTML that a test brings.
func soupSite(page, part, section, record string) *item.Set {
	c := item.NewSet()
	put := func(a, text string, m item.Meta) {
		c.Put(item.Head{ID: a, Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/home", page, item.Meta{Slug: "/", Title: "Home"})
	put("part/top", part, item.Meta{Role: item.Header, Placement: &item.Placement{Where: []string{"everywhere"}}})
	put("section/hours", section, item.Meta{})
	put("record-type/room", `{"fields":{"beds":{"type":"text"}}}`, item.Meta{})
	put("record/room/attic", record, item.Meta{Type: "room", Slug: "/rooms/attic/", Title: "Attic"})
	put("menu/main", `{"title":"Main","entries":[{"label":"Hut","to":"/"},{"label":"Far","to":"https://x.example/"}]}`,
		item.Meta{})
	put(
		"form/booking",
		`{"title":"Book","schema":{"type":"object","properties":{"name":{"type":"string"}}}}`,
		item.Meta{},
	)
	put("setting/title", `"Larch"`, item.Meta{})
	return c
}

// soup draws HTML as people write it who do not write HTML: tags left open, closed twice, in tables, in each other.
func soup(t *rapid.T, label string) string {
	pieces := rapid.SliceOfN(rapid.SampledFrom([]string{
		"<p>", "</p>", "<div>", "</div>", "<b>", "</b>", "<a href=/x>", "</a>", "</br>", "<br>", "<table>", "</table>",
		"<tr>", "<td>", "</td>", "</tr>", "<tbody>", "<select>", "<option>", "</select>", "<ul>", "<li>", "</ul>",
		"<form>", "</form>", "<button>", "</button>", "<svg>", "<path/>", "</svg>", "<template>", "</template>",
		"<h1>", "</h1>", "text", "Price", "<img src=/media/a.jpg>", "<!-- c -->", "<style>p{}</style>", "<textarea>",
		"</textarea>", "</body>", "<body>", "<head>", "</head>", "</html>", "<title>x</title>", "<frameset>",
		"<section class=\"x\" data-fill=\"text:day\">", "</section>", `<i data-fill="html:day">`, "</i>",
		`<p data-field="text:beds">`, `<img data-field="src:beds">`, `<b data-current="class:on">`,
		`<cp-region name="lead">`, "</cp-region>", `<cp-fill region="lead">`, "</cp-fill>", `<cp-section name="hours">`,
		"</cp-section>", `<cp-value for="day">`, "</cp-value>", `<cp-menu name="main">`, "</cp-menu>",
		`<cp-records type="room">`, "</cp-records>", "<cp-empty>", "</cp-empty>", `<cp-form name="booking">`,
		"</cp-form>", "<cp-title>", "</cp-title>", "<cp-logo>", "</cp-logo>", "<cp-content>", "</cp-content>",
		`<cp-part role="header">`, "</cp-part>", "<cp-search>", "<cp-results>", "</cp-results>", "<cp-pages>",
		"<cp-profiles>", "<x-own>", "</x-own>",
	}), 0, 14).Draw(t, label)
	return strings.Join(pieces, "")
}

// Whatever HTML stands in, beside and around the engine's elements: the page is shown, and so are its outline, its
// map and its faults.
func TestWhateverIsWrittenIsShown(t *testing.T) {
	shown := func(t require.TestingT, c *item.Set) {
		r := render.New(c)
		for _, ask := range []render.PageRequest{{Slug: "/"}, {Slug: "/", Mapped: true}, {Slug: "/rooms/attic/"},
			{Slug: "/", Bare: true}} {
			out, err := r.Page(ask)
			var circle *render.CircleError
			if errors.As(err, &circle) {
				continue
			}
			require.NoError(t, err)
			if ask.Mapped {
				outline.Of(out, nil)
			}
		}
		for _, a := range []string{"part/top", "section/hours", "record/room/attic"} {
			_, err := r.Alone(item.MustAddress(a))
			var circle *render.CircleError
			if !errors.As(err, &circle) {
				require.NoError(t, err, a)
			}
		}
	}
	plain := "<p>x</p>"
	for _, page := range []string{
		`<cp-region name="x"><table><tr><td>Price</td></tr></table><cp-menu name="main"></cp-menu></cp-region>`,
		`<cp-records type="room"><table><tr><td>Price</td></tr></table><cp-menu name="main"></cp-menu></cp-records>`,
		`<cp-region name="x"></p><cp-menu name="main"></cp-menu></cp-region>`,
		`<cp-region name="x"></br><cp-menu name="main"></cp-menu></cp-region>`,
		`<cp-region name="x"><p><p>in it</p></p><cp-menu name="main"></cp-menu></cp-region>`,
		`<p><b><p></p><cp-records type="room"></p><cp-empty>`,
		`<table><cp-menu name="main"></cp-menu><tr><td><cp-title></cp-title></td></tr></table>`,
	} {
		t.Run(page, func(t *testing.T) {
			shown(t, soupSite("<!doctype html><html><body><main>"+page+"</main></body></html>", page, plain, plain))
			shown(t, soupSite("<!doctype html><main>x</main>", "<header></header>", page, page))
		})
	}
	rapid.Check(t, func(t *rapid.T) {
		c := soupSite(soup(t, "page"), soup(t, "part"), soup(t, "section"), soup(t, "record"))
		shown(t, c)
		var circle *render.CircleError
		if _, err := faults.Check(closure.NewSmall(c), faults.Options{}); !errors.As(err, &circle) {
			require.NoError(t, err)
		}
	})
}
