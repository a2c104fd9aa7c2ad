package render

import (
	"testing"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryElementOfAPieceCanBePickedByItsPathInTheSource(t *testing.T) {
	set := item.NewSet()
	src := `<section class="a"><h2>One</h2><cp-menu name="main"></cp-menu><p>x <a ` +
		`href="/y/">y</a></p></section><section>two</section>`
	set.Put(item.Head{Address: item.MustAddress("section/a")}, []byte(src))
	set.Put(item.Head{Address: item.MustAddress("menu/main")},
		[]byte(`{"title":"M","entries":[{"label":"Z","to":"/z/"}]}`))
	r := New(set)
	out, err := r.Pick(item.MustAddress("section/a"))
	require.NoError(t, err)
	shown := markup.Parse(out.Body, "")
	source := markup.Parse([]byte(src), "")
	seen := 0
	for _, n := range shown.All {
		at, ok := n.Attr(AtName)
		if !ok {
			continue
		}
		seen++
		want, err := css.QueryOne(source, at.Value)
		require.NoError(t, err, at.Value)
		assert.Equal(t, want.Tag, n.Tag)
	}
	assert.Equal(t, 5, seen, "what the engine writes out for the menu is no element of the source")
	assert.Contains(t, string(out.Body), "pick.js")
	x, ok, _ := r.AssetAt(EngineRoot + item.DigestOf(pickScript).Short() + "/pick.js")
	assert.True(t, ok)
	assert.Equal(t, "text/javascript; charset=utf-8", x.MediaType)
	_, err = r.Pick(item.MustAddress("menu/main"))
	assert.ErrorContains(t, err, "no piece")
}

func TestAPieceIsShownAsAVariantAndWithARecord(t *testing.T) {
	set := item.NewSet()
	set.Put(
		item.Head{
			Address: item.MustAddress("part/room"),
			Meta:    item.Meta{Role: item.RecordRole, Variants: []string{"card"}},
		},
		[]byte(`<main><cp-content></cp-content></main>`),
	)
	other := item.NewSet()
	other.Put(
		item.Head{Address: item.MustAddress("record/room/attic"), Meta: item.Meta{Type: "room", Title: "The attic"}},
		[]byte(`<article><h1 data-value="text:title">The attic</h1></article>`),
	)
	other.Put(item.Head{Address: item.MustAddress("part/room")}, []byte(`<p>the site's own</p>`))
	both := item.NewUnion(set, other)
	assert.Len(t, both.Heads(), 2)
	out, err := New(
		both,
	).AloneAs(item.MustAddress("part/room"), As{Variant: "card", Record: item.MustAddress("record/room/attic")})
	require.NoError(t, err)
	assert.Contains(t, string(out.Body), `<main data-variant="card">`)
	assert.Contains(t, string(out.Body), "The attic")
	assert.NotContains(t, string(out.Body), "own")
	_, err = New(both).AloneAs(item.MustAddress("part/room"), As{Record: item.MustAddress("record/room/none")})
	assert.ErrorContains(t, err, "there is no record/room/none")
}
