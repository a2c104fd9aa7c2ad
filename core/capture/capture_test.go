package capture

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func source() *item.Set {
	s := item.NewSet()
	styles := []item.Address{item.MustAddress("tokens/brand"), item.MustAddress("stylesheet/base")}
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put(
		"section/hours",
		`<section class="hours"><h2 data-fill="text:hut-name">Sample Hut</h2><a data-fill="href:go" `+
			`href="/x/">x</a></section>`,
		item.Meta{Styles: styles},
	)
	put("part/top", `<header class="top"><cp-menu name="main"></cp-menu></header>`,
		item.Meta{Role: item.Header, Styles: styles, Variants: []string{"plain", "laid-over"}})
	put("menu/main", `{"title":"Main","entries":[{"label":"Home","to":"/"}]}`, item.Meta{})
	put("tokens/brand", `{"ink":{"$type":"color","$value":"#123456"}}`, item.Meta{})
	put(
		"stylesheet/base",
		`.hours{color:var(--ink);background:url(/media/used.png)} .other{background:url(/media/unused.png)} .top `+
			`.cp-menu-list{margin:0} .top .cp-menu-list a[aria-current]{top:0} `+
			`.top[data-variant="laid-over"]{position:absolute} .top[data-variant="unheard-of"]{left:0}`,
		item.Meta{},
	)
	put("media/used.png", "used", item.Meta{})
	put("media/unused.png", "unused", item.Meta{})
	put("setting/logo", `"x"`, item.Meta{})
	put("setting/visit-counter", `"x"`, item.Meta{})
	put("setting/style-order", `["stylesheet/base","tokens/brand"]`, item.Meta{})
	return s
}

func take(t *testing.T, o Order) *Taken {
	t.Helper()
	got, err := Take(source(), o)
	require.NoError(t, err)
	return got
}

func chosen(list ...string) Order {
	var o Order
	for _, s := range list {
		o.Chosen = append(o.Chosen, item.MustAddress(s))
	}
	return o
}

func addresses(s *item.Set) []string {
	var out []string
	for _, h := range s.Heads() {
		out = append(out, h.Address.String())
	}
	return out
}

func sheet(t *testing.T, got *Taken) string {
	t.Helper()
	h, ok := got.Items.Find(item.MustAddress("stylesheet/base"))
	require.True(t, ok)
	b, err := item.Read(got.Items, h)
	require.NoError(t, err)
	return string(b)
}

func TestOnlyTheRulesInUseTravelAndOnlyTheirPictures(t *testing.T) {
	got := take(t, chosen("section/hours"))
	assert.Equal(t, []string{"section/hours", "stylesheet/base", "tokens/brand", "media/used.png"},
		addresses(got.Items))
	assert.NotContains(t, sheet(t, got), "other")
	require.Len(t, got.Weights, 1)
	assert.Equal(t, 1, got.Weights[0].Rules)
	assert.Equal(t, 6, got.Weights[0].WholeRules)
	require.Len(t, got.Fillins, 2)
	assert.Equal(t, "Hut name", got.Fillins[1].Label)
	assert.Equal(t, "Sample Hut", got.Fillins[1].Sample)
	assert.EqualValues(t, "url", got.Fillins[0].Type)
	assert.Equal(t, []item.Address{item.MustAddress("stylesheet/base"), item.MustAddress("tokens/brand")},
		got.StyleOrder, "in the source's own order")
}

func TestAPartKeepsItsVariantsAndItsMenusStates(t *testing.T) {
	css := sheet(t, take(t, chosen("part/top")))
	assert.Contains(t, css, "laid-over")
	assert.NotContains(t, css, "unheard-of")
	assert.Contains(t, css, "aria-current", "the current page's mark comes when a page is shown")
	assert.NotContains(t, css, "hours")
}

func TestAChosenSheetTravelsWhole(t *testing.T) {
	got := take(t, chosen("section/hours", "stylesheet/base"))
	assert.Contains(t, sheet(t, got), ".other")
	assert.Contains(t, addresses(got.Items), "media/unused.png")
	assert.Empty(t, got.Weights)
}

func TestSheetsComeWholeWhereOthersWillLeanOnThem(t *testing.T) {
	o := chosen("section/hours")
	o.WholeSheets = true
	got := take(t, o)
	assert.Contains(t, sheet(t, got), ".other")
	assert.Contains(t, addresses(got.Items), "media/unused.png")
}

func TestNothingSiteOnlyTravels(t *testing.T) {
	got := take(t, chosen("section/hours", "setting/visit-counter", "setting/logo"))
	assert.NotContains(t, addresses(got.Items), "setting/visit-counter")
	assert.Contains(t, addresses(got.Items), "setting/logo", "a portable one travels when it is chosen")
	require.Len(t, got.LeavesOut, 1)
	assert.Equal(t, "site-only", got.LeavesOut[0].Why)
}

func TestWhatDanglesIsTold(t *testing.T) {
	s := source()
	s.Drop(item.MustAddress("menu/main"))
	got, err := Take(s, chosen("part/top"))
	require.NoError(t, err)
	require.Len(t, got.Notes, 1)
	assert.True(t, got.Notes[0].Stops)
	assert.Contains(t, got.Notes[0].Message, "menu/main, which is not there")

	o := chosen("part/top")
	o.Leave = []item.Address{item.MustAddress("menu/main")}
	got = take(t, o)
	assert.Empty(t, got.Notes, "left out by choice is a need, not a fault")
	assert.Equal(t, "menu/main", got.Needs[0].Address)
	_, err = Take(s, chosen("part/none"))
	assert.Error(t, err)
}

func TestRulesForClassesThatScriptsPutOnTravel(t *testing.T) {
	s := source()
	s.Put(
		item.Head{Address: item.MustAddress("media/fold.js"), Meta: item.Meta{Context: "text/javascript"}},
		[]byte(
			`document.querySelector(".hours").classList.toggle("is-folded", "x y".length > 2); `+
				`document.querySelector('.other')`,
		),
	)
	s.Put(
		item.Head{
			Address: item.MustAddress("section/fold"),
			Meta:    item.Meta{Styles: []item.Address{item.MustAddress("stylesheet/fold")}},
		},
		[]byte(`<section class="fold"><p>Snow</p><script src="/media/fold.js"></script></section>`),
	)
	s.Put(
		item.Head{Address: item.MustAddress("stylesheet/fold")},
		[]byte(
			`.fold.is-folded p { display: none } .fold:not(.is-folded) p { color: red } .other { top: 0 } `+
				`.is-open { left: 0 } .fold p + .y { margin: 0 }`,
		),
	)
	got, err := Take(s, chosen("section/fold"))
	require.NoError(t, err)
	h, ok := got.Items.Find(item.MustAddress("stylesheet/fold"))
	require.True(t, ok)
	b, err := item.Read(got.Items, h)
	require.NoError(t, err)
	assert.Contains(t, string(b), ".is-folded p")
	assert.Contains(t, string(b), ":not(.is-folded)", "it is not always folded")
	assert.NotContains(t, string(b), ".other", "only looked up, not put on")
	assert.NotContains(t, string(b), ".is-open")
}

func TestAPagesHeadScriptsStayBehindUntilSomebodySaysOtherwise(t *testing.T) {
	s := source()
	s.Put(item.Head{Address: item.MustAddress("media/count.js"), Meta: item.Meta{Context: "text/javascript"}},
		[]byte(`count("visit")`))
	s.Put(item.Head{Address: item.MustAddress("media/map.js"), Meta: item.Meta{Context: "text/javascript"}},
		[]byte(`map()`))
	s.Put(
		item.Head{Address: item.MustAddress("page/way"), Meta: item.Meta{Slug: "/way/"}},
		[]byte(
			"<!doctype html><html><head><title>Way</title>\n<script "+
				"src=\"/media/count.js\"></script>\n<script>var hut = document.querySelector('.hut')</script><script "+
				"type=\"application/ld+json\">{}</script><script "+
				"src=\"/media/map.js\"></script></head><body><main class=\"hut\" id=\"way\">x</main></body></html>",
		),
	)
	page := func() (string, *Taken) {
		got, err := Take(s, chosen("page/way"))
		require.NoError(t, err)
		h, _ := got.Items.Find(item.MustAddress("page/way"))
		b, err := item.Read(got.Items, h)
		require.NoError(t, err)
		return string(b), got
	}
	text, got := page()
	assert.NotContains(t, text, "count.js")
	assert.NotContains(t, text, "var hut")
	assert.Equal(t, ".hut", got.LeavesOut[1].Names)
	assert.Contains(t, text, "ld+json", "data for search engines is no script")
	require.Len(t, got.LeavesOut, 3)
	assert.Empty(t, got.LeavesOut[0].Names, "it counts, and knows nothing of the page")
	assert.NotContains(t, addresses(got.Items), "media/count.js")

	s.Put(
		item.Head{Address: item.MustAddress("setting/head-scripts")},
		[]byte(
			`[{"script":"/media/map.js","pages":1,"portable":true},{"script":"/media/count.js","pages":1,`+
				`"portable":false}]`,
		),
	)
	text, got = page()
	assert.Contains(t, text, "/media/map.js")
	assert.NotContains(t, text, "count.js")
	assert.Len(t, got.LeavesOut, 2)
	assert.Contains(t, addresses(got.Items), "media/map.js")

	whole, err := Take(s, Order{Chosen: chosen("page/way").Chosen, KeepHeads: true})
	require.NoError(t, err)
	h, _ := whole.Items.Find(item.MustAddress("page/way"))
	b, err := item.Read(whole.Items, h)
	require.NoError(t, err)
	assert.Contains(t, string(b), "count.js", "the library keeps a page as it came")
}
