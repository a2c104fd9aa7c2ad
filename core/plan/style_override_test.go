package plan

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What the site's sheets decide on a page of the kit's: where the kit says nothing or
// weighs less; not for the site's own parts, not in a state, and nothing when the page is
// shown with the kit's styles alone.
func TestHits(t *testing.T) {
	s := item.NewSet()
	at := func(a string) item.Address { return item.MustAddress(a) }
	page := item.Head{
		Address: at("page/kit"),
		Meta:    item.Meta{Slug: "/kit/", Styles: []item.Address{at("stylesheet/kit")}},
	}
	s.Put(page,
		[]byte(`<!doctype html><html><body><main class="a"><p id="x">p</p><img src="x" alt=""></main></body></html>`))
	s.Put(item.Head{Address: at("stylesheet/kit")},
		[]byte(`p{color:red;margin-top:1px}#x{padding:0}body{font-size:1rem}`))
	s.Put(
		item.Head{Address: at("stylesheet/site")},
		[]byte(
			`body{font:2rem/1.5 Serif}p{color:blue;margin:0!important}.a `+
				`p{color:green}p:hover{top:0}p::before{left:0}.top{right:0}@media print{p{order:1}}@media `+
				`(width>1px){img{max-width:100%}}`,
		),
	)
	s.Put(item.Head{Address: at("setting/style-order")}, []byte(`["stylesheet/site","stylesheet/kit"]`))
	own := func(a item.Address) bool { return a.Key == "kit" }
	none, err := styleOverrides(s, page, own)
	require.NoError(t, err)
	assert.Empty(t, none, "the site's sheet is not on the page")

	s.Put(
		item.Head{
			Address: at("part/top"),
			Meta:    item.Meta{Role: item.Header, Styles: []item.Address{at("stylesheet/site")}},
		},
		[]byte(`<header class="top"><p>site</p></header>`),
	)
	got, err := styleOverrides(s, page, own)
	require.NoError(t, err)
	var lines []string
	for _, h := range got {
		lines = append(lines, h.Element+" "+h.Property+" "+h.Value+" ("+h.Kit+") "+h.When)
	}
	assert.Equal(t, []string{
		":scope > html > body font 2rem/1.5 Serif () ",
		":scope > html > body > main > p color green (red) ",
		":scope > html > body > main > p margin 0!important (margin-top: 1px) ",
		":scope > html > body > main > img max-width 100% () @media (width>1px)",
	}, lines)
}
