package capture

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Names that scripts put together keep their rules: by a literal that something is joined to, and by what was seen when
// the page was run. A sheet of which nothing is used stays behind.
func TestNamesThatScriptsMakeKeepTheirRules(t *testing.T) {
	s := item.NewSet()
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	put("page/home", `<!doctype html><html><head><link rel="stylesheet" href="/stylesheets/slides.css"></head><body>`+
		`<main><cp-section name="slides"></cp-section></main></body></html>`, item.Meta{Slug: "/"})
	put(
		"section/slides",
		`<section class="slides"><ul><li>Dawn</li></ul><script src="/media/slides.js"></script></section>`,
		item.Meta{Styles: []item.Address{item.MustAddress("stylesheet/slides"), item.MustAddress("stylesheet/other")}},
	)
	put("media/slides.js", "const p = {prefix: 'sl-'}; for (const n of ['track', 'dot']) e.className = p.prefix + n; "+
		"e.classList.add(`at-${side}`); f.className = side + \"__end\"; g.className = [104, 117, 116].map(c).join('')",
		item.Meta{Context: "text/javascript"})
	put("stylesheet/slides", `.sl-track{gap:1px} .sl-dot button{gap:2px} .at-left{gap:3px} .big__end{gap:4px} `+
		`.hut > b{gap:5px} .slides.hut i{gap:6px} .elsewhere{gap:7px} .sl{gap:8px} .track{gap:9px}`, item.Meta{})
	put("stylesheet/other", `.elsewhere{gap:10px}`, item.Meta{})

	ran := func(slug string) ([][]byte, error) {
		assert.Equal(t, "/", slug)
		return [][]byte{
			[]byte(`<!doctype html><html class="js"><body><main><section class="slides hut"><ul><li>x</li></ul>` +
				`<div class="sl-dot"><button>x</button></div><p class="hut"><b>x</b></p><i></i></section></main>` +
				`</body></html>`),
		}, nil
	}
	sheet := func(o Order) (string, *Taken) {
		got, err := Take(s, o)
		require.NoError(t, err)
		h, ok := got.Items.Find(item.MustAddress("stylesheet/slides"))
		require.True(t, ok)
		b, err := item.Read(got.Items, h)
		require.NoError(t, err)
		return string(b), got
	}
	o := chosen("section/slides")
	text, got := sheet(o)
	for _, want := range []string{"1px", "3px", "4px", "9px"} { // “track” is a word of a literal, too
		assert.Contains(t, text, want)
	}
	for _, not := range []string{"2px", "5px", "6px", "7px", "8px"} {
		assert.NotContains(t, text, not)
	}
	assert.Equal(t, []string{"at-left", "big__end", "sl-dot", "sl-track", "track"}, got.Weights[0].ByScripts)
	assert.Empty(t, got.Weights[0].WhenRun)
	_, came := got.Items.Find(item.MustAddress("stylesheet/other"))
	assert.False(t, came, "nothing of it is used")
	h, _ := got.Items.Find(item.MustAddress("section/slides"))
	assert.Equal(t, []item.Address{item.MustAddress("stylesheet/slides")}, h.Meta.Styles)
	assert.Empty(t, got.Needs)

	o.Ran = ran
	text, got = sheet(o)
	for _, want := range []string{"1px", "2px", "3px", "4px", "5px", "6px", "9px"} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, "7px")
	assert.Equal(t, []string{"hut", "sl-dot"}, got.Weights[0].WhenRun)

	put("section/slides", `<section class="slides"><ul><li>Dawn</li></ul></section>`,
		item.Meta{Styles: []item.Address{item.MustAddress("stylesheet/slides")}})
	o.Ran = func(string) ([][]byte, error) {
		t.Error("nothing of it runs")
		return nil, nil
	}
	got, err := Take(s, o)
	require.NoError(t, err)
	assert.NotContains(t, addresses(got.Items), "stylesheet/slides")
}
