package capture

import (
	"fmt"
	"strings"
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
	put(
		"page/home",
		`<!DOCTYPE html><html lang="en"><head><link rel="stylesheet" href="/stylesheets/base.css?v=2&amp;x#y">`+
			`<link rel="preload" as="style" href="/stylesheets/later.css"></head><body class="home">`+
			`<main class="hero">h</main></body></html>`,
		item.Meta{Slug: "/"},
	)
	put("page/other", `<!DOCTYPE html><html lang="en"><head><link rel="stylesheet" href="/stylesheets/base.css">`+
		`<style>.own { color: red }</style></head><body><p class="own">o</p></body></html>`,
		item.Meta{Slug: "/other/"})
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

// unfriendly is a site whose pages order the same sheets differently, and link in all ways.
func unfriendly() *item.Set {
	s := item.NewSet()
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	link := func(rest string) string { return `<link rel="stylesheet" ` + rest + `>` }
	put("page/one", `<!DOCTYPE html><html><head>`+link(`href="/stylesheets/zebra.css"`)+link(`href="/stylesheets/`+
		`ant.css"`)+
		link(`href="/stylesheets/paper.css" media="print"`)+link(`href="/stylesheets/narrow.css" media="(width < `+
		`600px)"`)+
		`<link rel="alternate stylesheet" href="/stylesheets/other.css" title="Other">`+
		link(`href="/stylesheets/off.css" disabled`)+`<noscript>`+link(`href="/stylesheets/noscript.css"`)+
		`</noscript>`+
		`</head><body><main class="hero">h</main></body></html>`, item.Meta{Slug: "/one/"})
	put("page/two", `<!DOCTYPE html><html><head>`+link(`href="/stylesheets/ant.css"`)+link(`href="/stylesheets/`+
		`zebra.css"`)+
		`</head><body><main class="hero">h</main></body></html>`, item.Meta{Slug: "/two/"})
	put("part/bar", `<header class="hero">b</header>`,
		item.Meta{Role: item.Header, Placement: &item.Placement{Where: []string{"page:/one/"}}})
	for _, name := range []string{"zebra", "ant", "paper", "narrow", "other", "off", "noscript"} {
		put("stylesheet/"+name, `.hero { --by: `+name+` } .gone { top: 0 }`, item.Meta{})
	}
	return s
}

// A piece wears what its page wears when it is shown, in the order of the page's document.
func TestAPieceWearsItsPageInDocumentOrder(t *testing.T) {
	got, err := Take(unfriendly(), chosen("part/bar"))
	require.NoError(t, err)
	h, _ := got.Items.Find(item.MustAddress("part/bar"))
	var names []string
	for _, a := range h.Meta.Styles {
		names = append(names, a.Key)
	}
	assert.Equal(t, []string{"zebra", "ant", "bar-media"}, names, "no sheet that is not worn at home")
	assert.Contains(t, textOf(t, got.Items, "stylesheet/bar-media"),
		`@import "/stylesheets/narrow.css" (width < 600px);`)
	order := map[string]int{}
	for i, a := range got.StyleOrder {
		order[a.Key] = i
	}
	assert.Less(t, order["zebra"], order["ant"], "as its page orders them: %v", got.StyleOrder)
	assert.Less(t, order["ant"], order["bar-media"])
	assert.NotContains(t, textOf(t, got.Items, "stylesheet/narrow"), "gone")
}

// Two pages that order the same sheets differently keep their own links.
func TestTwoPagesThatOrderTheirSheetsDifferently(t *testing.T) {
	got, err := Take(unfriendly(), chosen("page/one", "page/two"))
	require.NoError(t, err)
	one, two := textOf(t, got.Items, "page/one"), textOf(t, got.Items, "page/two")
	assert.Less(t, strings.Index(one, "zebra.css"), strings.Index(one, "ant.css"))
	assert.Less(t, strings.Index(two, "ant.css"), strings.Index(two, "zebra.css"))
	for _, name := range []string{"zebra", "ant", "paper", "narrow", "other", "off", "noscript"} {
		assert.Contains(t, textOf(t, got.Items, "stylesheet/"+name), "--by",
			"a script may switch it on, paper shows it")
	}
}

// Imports are followed however long their chain is, and a circle of them ends.
func TestImportsAreFollowedToTheirEnd(t *testing.T) {
	s := item.NewSet()
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/one", `<!DOCTYPE html><html><head><link rel="stylesheet" href="/stylesheets/s0.css"></head>`+
		`<body><main class="hero">h</main></body></html>`, item.Meta{Slug: "/one/"})
	for i := range 40 {
		next := (i + 1) % 40 // the last imports the first
		put(fmt.Sprintf("stylesheet/s%d", i), fmt.Sprintf(`@import "s%d.css"; @import "/stylesheets/s%d.css"; `+
			`@import "/stylesheets/s%d.css"; .hero { --s%d: 1 } .gone { --g: 1 }`, next, next, i, i), item.Meta{})
	}
	got, err := Take(s, chosen("page/one"))
	require.NoError(t, err)
	for i := range 40 {
		text := textOf(t, got.Items, fmt.Sprintf("stylesheet/s%d", i))
		assert.Contains(t, text, fmt.Sprintf("--s%d", i))
		assert.NotContains(t, text, "--g")
	}
}

// Beside a sheet that lies elsewhere, which may use any custom property, none is cut, and the page
// says so.
func TestCustomPropertiesStayBesideARemoteSheet(t *testing.T) {
	s := item.NewSet()
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	const sheet = `:root { --used: red; --other: blue } .hero { color: var(--used) } .gone { top: 0 }`
	put("stylesheet/base", sheet, item.Meta{})
	put("page/one", `<!DOCTYPE html><html><head><link rel="stylesheet" href="https://styles.example/all.css">`+
		`<link rel="stylesheet" href="/stylesheets/base.css"></head><body><main class="hero">h</main></body></html>`,
		item.Meta{Slug: "/one/"})
	put("page/two", `<!DOCTYPE html><html><head><link rel="stylesheet" href="/stylesheets/base.css"></head>`+
		`<body><main class="hero">h</main></body></html>`, item.Meta{Slug: "/two/"})
	got, err := Take(s, chosen("page/one"))
	require.NoError(t, err)
	assert.Contains(t, textOf(t, got.Items, "stylesheet/base"), "--other")
	assert.NotContains(t, textOf(t, got.Items, "stylesheet/base"), "gone")
	said := ""
	for _, n := range got.Notes {
		said += n.Address.String() + " " + n.Message + "\n"
	}
	assert.Contains(t, said, "page/one it wears a stylesheet of https://styles.example/all.css")
	got, err = Take(s, chosen("page/two"))
	require.NoError(t, err)
	assert.NotContains(t, textOf(t, got.Items, "stylesheet/base"), "--other")
}
