package edit_test

import (
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// site is a collection that answers who links where.
type site struct{ *closure.Small }

func (s site) LinkedFrom(slug string) (out []item.Address, err error) {
	for _, h := range s.Heads() {
		f, err := s.Facts(h)
		if err != nil {
			return nil, err
		}
		for _, u := range closure.Uses(s, h, f) {
			if u.Slug == slug {
				out = append(out, h.Address)
			}
		}
	}
	return out, nil
}

func huts(t *testing.T) site {
	t.Helper()
	c := item.NewSet()
	put := func(a, slug, text string, where ...string) {
		m := item.Meta{Slug: slug}
		if len(where) > 0 {
			m.Role, m.Placement = item.Header, &item.Placement{Where: where}
		}
		c.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/home", "/", `<p><a href="/rooms/#beds">Rooms</a> <a href="/rooms/attic/">Attic</a></p>`)
	put("page/rooms", "/rooms/", `<h1>Rooms</h1><p><a href="/rooms/attic/?from=rooms">Attic</a></p>`)
	put("page/attic", "/rooms/attic/", `<script>go("/rooms/")</script><p>Attic</p>`)
	put("page/roomsnear", "/rooms-near/", `<p>Not below</p>`)
	put("menu/main", "", `{"title":"Main","entries":[{"label":"Rooms","to":"/rooms/"}]}`)
	put("part/bar", "", `<header>x</header>`, "under:/rooms/", "page:/rooms/attic/")
	return site{closure.NewSmall(c)}
}

func TestPagesBelowAndLinksFollowAPageThatMoves(t *testing.T) {
	s := huts(t)
	m, err := edit.Move(s, item.MustAddress("page/rooms"), "/beds/")
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"/rooms/": "/beds/", "/rooms/attic/": "/beds/attic/"}, m.Slugs)
	got := map[string]edit.Change{}
	for _, c := range m.Changes {
		got[c.Head.Address.String()] = c
	}
	assert.Equal(t, `<p><a href="/beds/#beds">Rooms</a> <a href="/beds/attic/">Attic</a></p>`,
		string(got["page/home"].Content))
	assert.Equal(t, `<h1>Rooms</h1><p><a href="/beds/attic/?from=rooms">Attic</a></p>`,
		string(got["page/rooms"].Content))
	assert.Equal(t, "/beds/", got["page/rooms"].Head.Meta.Slug)
	assert.Equal(t, "/beds/attic/", got["page/attic"].Head.Meta.Slug)
	assert.Contains(t, string(got["menu/main"].Content), `"to":"/beds/"`)
	assert.Equal(t, []string{"under:/beds/", "page:/beds/attic/"}, got["part/bar"].Head.Meta.Placement.Where)
	assert.NotContains(t, got, "page/roomsnear")
	assert.Equal(t, []item.Address{item.MustAddress("page/attic")}, m.Behind, "its script names the old address")

	m, err = edit.Move(s, item.MustAddress("page/home"), "/start/")
	require.NoError(t, err)
	assert.Len(t, m.Slugs, 1, "all pages are not below the home page")
}

func TestAPageMovesWhereThereIsRoom(t *testing.T) {
	s := huts(t)
	_, err := edit.Move(s, item.MustAddress("page/rooms"), "/rooms-near/")
	var taken *edit.TakenError
	require.ErrorAs(t, err, &taken)
	assert.Equal(t, "/rooms-near/", taken.Slug)
	assert.Equal(t, "page/roomsnear", taken.By.String())
	m, err := edit.Move(s, item.MustAddress("page/rooms"), "/rooms/attic/")
	require.NoError(t, err, "below itself: what is there goes along")
	assert.Equal(t, "/rooms/attic/attic/", m.Slugs["/rooms/attic/"])
	_, err = edit.Move(s, item.MustAddress("page/none"), "/x/")
	require.Error(t, err)
	_, err = edit.Move(s, item.MustAddress("page/rooms"), "no-slash/")
	require.Error(t, err)
}
