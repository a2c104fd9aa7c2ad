package kit

import (
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheCheckFindsWhatTheSourceSiteLeftBehind(t *testing.T) {
	set, list := item.NewSet(), &PackingList{Terms: Terms{License: "CC-BY-4.0"}}
	put := func(a, text, slug string) {
		h := item.Head{Address: item.MustAddress(a), Meta: item.Meta{Slug: slug}}
		set.Put(h, []byte(text))
		list.Items = append(list.Items, Entry{Kind: h.Address.Kind, Key: h.Address.Key, Meta: h.Meta})
	}
	id := "0198a1b2-0000-7000-8000-00000000abcd"
	put(
		"page/home",
		"<!doctype html>\n<body><p>Come to Kestrel Refuge</p>\n<p data-fill=\"text:hut\">Kestrel Refuge</p><img "+
			"alt=\"Kestrel Refuge at dawn\" src=\"/media/a.jpg\">\n<a "+
			"href=\"https://KESTREL.example/contact/\">us</a><a href=\"/there/#stove\">there</a><a "+
			"href=\"/there/#nothing\">there</a><a href=\"#gone\">x</a>\n<i data-id=\""+id+"\"></i><img alt=\"\" "+
			"src=\"/_cp/0123456789ab/a.jpg\"></body>",
		"/",
	)
	put("page/there", "<!doctype html><cp-section name=\"stove\"></cp-section>", "/there/")
	put("section/stove", `<section id="stove"></section>`, "")
	put("menu/main", `{"title":"Menu of Kestrel Refuge","entries":[]}`, "")
	put("media/a.jpg", "a", "")
	list.Fillins = []Fillin{{Name: "hut", Label: "Hut", Type: "text"}}
	found, err := CheckIn(
		list,
		closure.NewSmall(set),
		Origin{
			Site:    "kestrel",
			Names:   []string{"Kestrel Refuge"},
			Hosts:   []string{"kestrel.example"},
			HasItem: func(s string) bool { return s == id },
		},
	)
	require.NoError(t, err)
	var lines []string
	for _, f := range found {
		lines = append(lines, f.Address.String()+":"+strings.Repeat("|", f.Line)+" "+f.Message)
	}
	said := strings.Join(lines, "\n")
	for _, want := range []string{"page/home:|| “Kestrel Refuge” is what kestrel calls itself",
		"page/home:||| “Kestrel Refuge”", "menu/main:| “Kestrel Refuge”", "page/home:|||| it names kestrel.example",
		"/there/#nothing leads to no place", "the anchor #gone leads nowhere", "the id " + id,
		"/_cp/0123456789ab/… is one that only a shown page has", "asks for credit"} {
		assert.Contains(t, said, want)
	}
	assert.NotContains(t, said, "#stove", "an anchor in a section of the page is one of the page")
	assert.Equal(t, 3, strings.Count(said, "calls itself"), "what stands in a blank is nobody's")
}
