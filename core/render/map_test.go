package render_test

import (
	"os"
	"slices"
	"testing"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The laws of the map, on every page of every demo site: asking for it changes nothing, segments
// tile the page, what was copied is the source's, and what was encoded says what the source says.
func TestMapsOfTheDemoSites(t *testing.T) {
	sites, err := os.ReadDir("../../demo/sites")
	require.NoError(t, err)
	kinds := map[sourcemap.Kind]int{}
	for _, site := range sites {
		set, _, err := folder.Read(os.DirFS("../../demo/sites/" + site.Name()))
		require.NoError(t, err)
		for _, links := range []render.Links{{}, {Base: "/huts/"}, {Relative: true}, {File: true}} {
			r := render.New(set)
			r.Static = true
			r.SetLinks(links)
			slugs := []string{}
			for slug := range r.Pages() {
				slugs = append(slugs, slug)
			}
			made, err := r.GeneratedPages()
			require.NoError(t, err)
			for _, m := range made {
				slugs = append(slugs, m.Slug)
			}
			for _, slug := range slugs {
				holds(t, r, set, site.Name()+slug, slug, kinds)
			}
		}
	}
	for _, k := range sourcemap.Kinds {
		assert.NotZero(t, kinds[k], "the demo sites have segments that were %s", k)
	}
}

// holds holds one page against the laws.
func holds(t *testing.T, r *render.Renderer, c item.Collection, what, slug string, kinds map[sourcemap.Kind]int) {
	t.Helper()
	plain, err := r.Page(render.PageRequest{Slug: slug})
	require.NoError(t, err, what)
	require.Nil(t, plain.Map, what)
	got, err := r.Page(render.PageRequest{Slug: slug, Mapped: true})
	require.NoError(t, err, what)
	require.Equal(t, string(plain.Body), string(got.Body), what)
	at := 0
	for _, s := range got.Map.Segments {
		require.Equal(t, at, s.Start, "%s: segments tile", what)
		require.Greater(t, s.End, s.Start, what)
		at = s.End
		kinds[s.Kind]++
		text := string(s.Span.Of(got.Body))
		if s.Kind == sourcemap.Made {
			assert.NotEmpty(t, s.Reason, "%s: %q", what, text)
			continue
		}
		a, ok := got.Map.Item(s)
		require.True(t, ok, what)
		h, ok := c.Find(a)
		require.True(t, ok, "%s: %s", what, a)
		src, err := item.Read(c, h)
		require.NoError(t, err)
		switch {
		case s.Place.Field == "title":
			assert.Equal(t, s.Codec.Page(h.Meta.Title), text, what)
		case s.Kind == sourcemap.Copied:
			assert.Equal(t, string(s.Place.Span.Of(src)), text, "%s: copied from %s", what, a)
		case s.Kind == sourcemap.Encoded:
			value, ok := s.Codec.Value(text)
			require.True(t, ok, "%s: %q", what, text)
			assert.Equal(t, string(s.Place.Span.Of(src)), s.Codec.Source(value), "%s: %s of %s", what, s.Codec, a)
		default:
			assert.NotEmpty(t, s.Place.Span.Of(src), what)
		}
		if s.Place.Field == "" {
			assert.True(t, slices.ContainsFunc(got.Map.Covered(a, s.Place.Span), func(at span.Span) bool {
				return at.Start <= s.Start && s.End <= at.End
			}), what)
		}
	}
	require.Equal(t, len(got.Body), at, "%s: segments tile", what)
	for _, o := range got.Map.Occurrences {
		if o.Parent >= 0 {
			parent, _ := c.Find(got.Map.Occurrences[o.Parent].Item)
			assert.LessOrEqual(t, int64(o.At.End), parent.Bytes, what)
		}
	}
}
