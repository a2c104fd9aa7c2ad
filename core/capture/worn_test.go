package capture

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// keptByHand is a site as somebody wrote it: its pages link their sheets, and metadata name none.
func keptByHand() *item.Set {
	s := item.NewSet()
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/home", `<!DOCTYPE html><html lang="en"><head><link rel="stylesheet" href="/stylesheets/base.css">`+
		`<link rel="preload" as="style" href="/stylesheets/later.css"></head><body class="home">`+
		`<main class="hero">h</main></body></html>`, item.Meta{Slug: "/"})
	put("page/other", `<!DOCTYPE html><html lang="en"><head><link rel="stylesheet" href="/stylesheets/base.css">`+
		`<style>.own { color: red }</style></head><body><p class="own">o</p></body></html>`, item.Meta{Slug: "/other/"})
	put("part/foot", `<footer class="foot">f</footer>`,
		item.Meta{Role: item.Footer, Placement: &item.Placement{Where: []string{"everywhere"}}})
	put("stylesheet/base", `@import "/stylesheets/deep.css"; .hero { background: url(/media/hero.png) } `+
		`.foot { background: url(/media/foot.png) } .unused { background: url(/media/unused.png) }`, item.Meta{})
	put("stylesheet/deep", `.hero { margin: 0 } .gone { margin: 1px }`, item.Meta{})
	put("stylesheet/later", `.hero { top: 0 } .gone { top: 1px }`, item.Meta{})
	for _, m := range []string{"hero", "foot", "unused"} {
		put("media/"+m+".png", m, item.Meta{})
	}
	return s
}

func textOf(t *testing.T, c item.Collection, a string) string {
	t.Helper()
	h, ok := c.Find(item.MustAddress(a))
	require.True(t, ok, a)
	b, err := item.Read(c, h)
	require.NoError(t, err)
	return string(b)
}

// The sheets that a page links itself, and their imports, are cut as those are that metadata
// name, and their pictures come along.
func TestLinkedSheetsAreCutAndFollowed(t *testing.T) {
	got, err := Take(keptByHand(), chosen("page/home"))
	require.NoError(t, err)
	assert.Equal(t, []string{"page/home", "stylesheet/base", "stylesheet/deep", "stylesheet/later", "media/hero.png"},
		addresses(got.Items))
	assert.Contains(t, textOf(t, got.Items, "stylesheet/base"), ".hero")
	assert.NotContains(t, textOf(t, got.Items, "stylesheet/base"), "unused")
	assert.NotContains(t, textOf(t, got.Items, "stylesheet/deep"), "gone")
	h, _ := got.Items.Find(item.MustAddress("stylesheet/base"))
	assert.True(t, h.Meta.Cut)
	for _, n := range got.Notes {
		assert.False(t, n.Stops, n.Message)
	}
}

// A part that names no sheet wears those of the first page on which it stands.
func TestAPartWearsWhatItsPageLinks(t *testing.T) {
	got, err := Take(keptByHand(), chosen("part/foot"))
	require.NoError(t, err)
	h, _ := got.Items.Find(item.MustAddress("part/foot"))
	assert.Equal(t, []item.Address{item.MustAddress("stylesheet/base")}, h.Meta.Styles)
	assert.Contains(t, textOf(t, got.Items, "stylesheet/base"), ".foot")
	assert.NotContains(t, textOf(t, got.Items, "stylesheet/base"), ".hero")
	assert.Contains(t, addresses(got.Items), "media/foot.png")

	both, err := Take(keptByHand(), chosen("part/foot", "page/home"))
	require.NoError(t, err)
	h, _ = both.Items.Find(item.MustAddress("part/foot"))
	assert.NotEmpty(t, h.Meta.Styles, "it stands on pages of the site, too")
	assert.Contains(t, textOf(t, both.Items, "stylesheet/base"), ".hero")
}
