package render

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The setting home decides what / shows, also while another page has / for its own address; links
// to the home page lead to /, and where it is at hand they are current.
func TestTheSettingHomeDecidesWhatTheRootShows(t *testing.T) {
	s := site(map[string]string{
		"page/old":     `<p>old</p>`,
		"page/welcome": `<p>welcome</p><a href="/welcome/#beds">here</a><cp-menu name="main"></cp-menu>`,
		"page/other":   `<a href="/welcome/">home</a>`,
		"part/banner":  `<header>banner</header>`,
		"part/foot":    `<footer>foot</footer>`,
		"menu/main":    `{"title":"M","entries":[{"label":"Home","to":"/welcome/"}]}`,
		"setting/home": `"page/welcome"`,
	}, map[string]item.Meta{
		"page/old":     {Slug: "/"},
		"page/welcome": {Slug: "/welcome/"},
		"page/other":   {Slug: "/other/"},
		"part/banner":  {Role: item.Header, Placement: &item.Placement{Where: []string{"home"}}},
		"part/foot":    {Role: item.Footer, Placement: &item.Placement{Where: []string{"page:/welcome/"}}},
	})
	for _, slug := range []string{"/", "/welcome/"} {
		home, out := shown(t, s, slug)
		assert.Contains(t, home, "welcome", slug)
		assert.Contains(t, home, "banner", "parts placed on the home page stand there: %s", slug)
		assert.Contains(t, home, "foot", "and parts placed on its own address: %s", slug)
		assert.Contains(t, home, `<a href="/#beds">`, slug)
		assert.Contains(t, home, `<a href="/" aria-current="page">Home</a>`, slug)
		assert.Equal(t, item.MustAddress("page/welcome"), out.Page, slug)
	}
	other, _ := shown(t, s, "/other/")
	assert.Contains(t, other, `<a href="/">home</a>`)
	assert.NotContains(t, other, "banner")
	assert.Contains(t, New(s).Pages(), "/")

	gone := site(map[string]string{"page/old": "<p>old</p>", "setting/home": `"page/nowhere"`},
		map[string]item.Meta{"page/old": {Slug: "/"}})
	text, _ := shown(t, gone, "/")
	assert.Contains(t, text, "old", "a page that is not there is no home")
	_, set, err := HomeOf(gone)
	require.NoError(t, err)
	assert.False(t, set)
}
