package edit_test

import (
	"regexp"
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A part, section or element wears the values of a look; what its page says by tokens is said again for it.
func TestPiecesWearLooksOfTheirOwn(t *testing.T) {
	s := hut(t)
	c := s.Collection.(*item.Set)
	c.Put(item.Head{Address: item.MustAddress("tokens/brand")},
		[]byte(`{"color":{"$type":"color","ink":{"$value":"#111"},"paper":{"$value":"#fff"},`+
			`"text":{"$value":"{color.ink}"}}}`))
	c.Put(item.Head{Address: item.MustAddress("setting/looks")},
		[]byte(`{"night":{"tokens/brand#color.ink":"#eee","tokens/brand#color.paper":"#000"}}`))
	c.Put(item.Head{Address: item.MustAddress("stylesheet/base"), Meta: item.Meta{}},
		[]byte(`html{--edge:1px solid var(--color-ink);--wide:calc(2*var(--step));--rim:var(--edge)}`+
			`body{color:var(--color-text);background:var(--color-paper)}`+
			`h1{color:var(--color-ink)}`))
	bar := edit.Operation{Op: edit.PartLook, Item: item.MustAddress("part/bar"), Value: "night"}
	got := after(t, s, bar)
	require.Len(t, got, 2)
	assert.Contains(t, got["part/bar"], `<header class="own-1">`)
	sheet := got["stylesheet/appearance"]
	for _, line := range []string{
		`--look: "night";`, "--color-ink: #eee;", "--color-text: var(--color-ink);", "--color-paper: #000;",
		"--edge: 1px solid var(--color-ink);",
		"--rim: var(--edge);", "color: var(--color-text);", "background: var(--color-paper);",
	} {
		assert.Contains(t, sheet, line)
	}

	assert.NotContains(t, sheet, "--wide", "it follows nothing of the look")

	t.Run("what says its own colour keeps its rule", func(t *testing.T) {
		sheet := after(t, s, on("/", "h1", edit.OwnLook, "night"))["stylesheet/appearance"]
		assert.Contains(t, sheet, "--color-ink: #eee;")
		assert.NotRegexp(t, regexp.MustCompile(`\n\s+color:`), sheet)
	})
	t.Run("the site's again, and what a keeper chose stays", func(t *testing.T) {
		back := bar
		back.Value = ""
		got := after(t, s, bar, back)
		assert.NotContains(t, got["part/bar"], "own-")
		assert.NotContains(t, got["stylesheet/appearance"], "--look")
		chosen := on("/", "header", edit.Appearance, "#123456")
		chosen.Property = "colour"
		sheet := after(t, s, bar, chosen, back)["stylesheet/appearance"]
		assert.Contains(t, sheet, "color: #123456;")
		assert.NotContains(t, sheet, "--color")
		assert.NotContains(t, sheet, "background")
	})
	t.Run("a look that is kept anew reaches those that wear it", func(t *testing.T) {
		sheet := after(t, s, bar, edit.Operation{Op: edit.Token, Property: "color.paper", Value: "#fafafa"},
			edit.Operation{Op: edit.LookKeep, Value: "night"})["stylesheet/appearance"]
		assert.Contains(t, sheet, "--color-paper: #fafafa;")
		assert.Contains(t, sheet, "--color-ink: #111;")
	})
	t.Run("a section with its element beside another", func(t *testing.T) {
		next := on("/", "p.last", edit.OwnLook, "night")
		next.Place = edit.After
		assert.Contains(t, after(t, s, next)["section/hours"], `<section class="hours own-1">`)
	})
	refused(t, s, "no look", edit.Operation{Op: edit.PartLook, Item: bar.Item, Value: "dusk"})
	refused(t, s, "no part or section", edit.Operation{Op: edit.PartLook, Item: item.MustAddress("part/gone")})
	refused(t, s, "no page shows", func() edit.Operation {
		c.Put(item.Head{Address: item.MustAddress("section/idle")}, []byte("<p>Idle</p>"))
		return edit.Operation{Op: edit.PartLook, Item: item.MustAddress("section/idle"), Value: "night"}
	}())
}
