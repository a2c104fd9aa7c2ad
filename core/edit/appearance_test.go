package edit_test

import (
	"strings"
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func styled(element, property, value string) edit.Operation {
	op := on("/", element, edit.Appearance, value)
	op.Property = property
	return op
}

func TestAppearanceHolds(t *testing.T) {
	s := hut(t)
	sheet := func(list ...edit.Operation) string { return after(t, s, list...)["stylesheet/appearance"] }
	got := after(t, s, styled("h1", "background", "#eef3ee"))
	assert.Contains(t, got["page/home"], `<h1 class="big own-1">`)
	assert.Contains(t, got["stylesheet/appearance"], "\n.own-1 {\n  background: #eef3ee;\n}\n")
	assert.NotContains(t, got, "setting/style-order", "it outdoes the others wherever it stands")
	done := done(t, s, styled("h1", "background", "#eef3ee"))
	for _, c := range done.Changes {
		if c.Head.Address.Kind == item.Page {
			assert.Contains(t, c.Head.Meta.Styles, edit.AppearanceSheet, "the page wears the sheet")
		}
	}

	// The narrowest has the last word, and what is set again is set in its place.
	narrow := styled("h1", "space-within", "4px")
	narrow.Width = 390
	wide := styled("h1", "space-within", "1rem 2rem")
	wide.Width = 768
	over := styled("h1", "colour", "#123")
	over.State = edit.Pointed
	text := sheet(narrow, styled("h1", "background", "red"), wide, over, styled("h1", "background", "#fff"),
		styled("h1", "corners", "4px"))
	assert.Equal(t, 1, strings.Count(text, "background:"))
	assert.Contains(t, text, ".own-1 {\n  background: #fff;\n  border-radius: 4px;\n}\n")
	assert.Contains(t, text, ".own-1:hover {\n  color: #123;\n}\n")
	assert.Contains(t, text, "@media (max-width: 768px) {\n  .own-1 {\n    padding: 1rem 2rem;\n  }\n}\n"+
		"@media (max-width: 390px) {\n  .own-1 {\n    padding: 4px;\n  }\n}\n")

	// Taken back, all is as it came.
	narrow.Value = ""
	got = after(t, s, styled("h1", "background", "red"), styled("h1", "background", ""))
	assert.NotContains(t, got["page/home"], "own-1")
	assert.NotContains(t, got["stylesheet/appearance"], "{")

	// Columns stand below each other on narrow screens.
	text = sheet(styled("main ul", "columns", "2"))
	assert.Contains(t, text, "display: grid;\n  grid-template-columns: repeat(2, minmax(0, 1fr));")
	assert.Contains(t, text, "@media (max-width: 768px) {\n  .own-1 {\n    grid-template-columns: minmax(0, 1fr);")

	assert.Contains(t, sheet(styled("h1", "picture", "media/b.jpg")), `background-image: url("/media/b.jpg");`)

	// Lifted and put on another.
	same := on("/", ".last", edit.SameAppearance, "")
	same.Beside = "h1"
	text = sheet(styled("h1", "background", "red"), over, same)
	assert.Contains(t, text, ".own-2 {\n  background: red;\n}")
	assert.Contains(t, text, ".own-2:hover {\n  color: #123;\n}")
	refused(t, s, "as it came", same)

	for value, why := range map[string]string{"red; } body { display: none": "no value", "red !important": "no value",
		`url("/media/gone.jpg")`: "no media", "var(--gone)": "no stylesheet says",
		"url(https://x.example/a.png)": "no media"} {
		t.Run(value, func(t *testing.T) {
			refused(t, s, why, styled("h1", "background", value))
		})
	}
	refused(t, s, "no property", styled("h1", "smell", "sweet"))
	refused(t, s, "page engine", styled("nav", "background", "red"))
}

// Whatever the site's rules say of an element, its own appearance outdoes them.
func TestAppearanceOutdoesTheSitesRules(t *testing.T) {
	for rules, want := range map[string]string{
		"main h1.big{background:blue}":               ".own-1.own-1 {",
		"#top h1, main.x h1{background:blue}":        ".own-1 {",
		"h1.big:hover{background-color:blue}":        ".own-1.own-1.own-1 {",
		"h1:is(#y, .big){background:blue}":           ":is(#own-1, .own-1).own-1 {",
		"h1{background:blue!important}":              "background: red !important",
		"@layer a{h1.big.big{background:blue}}":      ".own-1 {",
		"h1.big.big::before{background:blue}":        ".own-1 {",
		"@media (max-width:9px){.big{background:a}}": ".own-1.own-1 {",
	} {
		t.Run(rules, func(t *testing.T) {
			s := hut(t)
			h, _ := s.Find(item.MustAddress("stylesheet/base"))
			over := item.NewOver(s)
			over.Set(h, []byte(rules))
			got, err := edit.Apply(laid{over, s}, []edit.Operation{styled("h1", "background", "red")})
			require.NoError(t, err, rules)
			text := ""
			for _, c := range got.Changes {
				if c.Head.Address == edit.AppearanceSheet {
					text = string(c.Content)
				}
			}
			assert.Contains(t, text, want, rules)
		})
	}
	s := hut(t)
	h, _ := s.Find(item.MustAddress("stylesheet/base"))
	over := item.NewOver(s)
	over.Set(h, []byte("@layer a{h1{background:blue!important}}"))
	_, err := edit.Apply(laid{over, s}, []edit.Operation{styled("h1", "background", "red")})
	assert.ErrorContains(t, err, "in a layer")
}

// laid is a site with an item changed.
type laid struct {
	*item.Over
	s site
}

func (l laid) LinkedFrom(slug string) ([]item.Address, error) { return l.s.LinkedFrom(slug) }
