package views

import (
	"path"
	"sort"
	"strings"
	"testing"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func kitOf(texts map[string]string, metas map[string]item.Meta) (*kit.PackingList, *item.Set) {
	set, list := item.NewSet(), &kit.PackingList{Kit: "test", Version: "1.0.0"}
	for a, text := range texts {
		h := set.Put(item.Head{Address: item.MustAddress(a), Meta: metas[a]}, []byte(text))
		list.Items = append(
			list.Items,
			kit.Entry{
				Kind:             h.Address.Kind,
				Key:              h.Address.Key,
				SHA256:           h.Doc,
				NormalizedDigest: h.NormalizedDigest,
				Bytes:            h.Bytes,
				Meta:             h.Meta,
			},
		)
	}
	list.StyleOrder = []item.Address{
		item.MustAddress("tokens/brand"),
		item.MustAddress("stylesheet/base"),
		item.MustAddress("stylesheet/sub/more"),
	}
	return list, set
}

// made gives the views of a kit, by path.
func made(t *testing.T, list *kit.PackingList, set *item.Set) []View {
	t.Helper()
	var out []View
	require.NoError(t, Make(list, set, func(v View) error { out = append(out, v); return nil }))
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out
}

func example() (*kit.PackingList, *item.Set) {
	styles := []item.Address{
		item.MustAddress("stylesheet/sub/more"),
		item.MustAddress("stylesheet/base"),
		item.MustAddress("tokens/brand"),
	}
	return kitOf(map[string]string{
		"page/home": `<!doctype html><html><head><title>x</title><link rel="icon" ` +
			`href="/media/mark.svg"></head><body><main><cp-section name="hours"></cp-section><a ` +
			`href="/deep/page/#x">deep</a><a href="/nowhere/">out</a><a ` +
			`href="https://else.example/">else</a><x-strip></x-strip><y-join></y-join></main></body></html>`,
		"page/deep/page": `<!doctype html><html><body><a href="/">home</a><video poster="/media/a.jpg" ` +
			`src="/media/v.mp4"></video></body></html>`,
		"section/hours": `<section><img src="/media/a.jpg" srcset="/media/a.jpg 1x, /media/b.jpg 2x" ` +
			`alt=""></section>`,
		"part/top":        `<header><a href="/">home</a><cp-menu name="main"></cp-menu></header>`,
		"menu/main":       `{"title":"M","entries":[{"label":"Deep","to":"/deep/page/"}]}`,
		"stylesheet/base": `@import "/stylesheets/sub/more.css"; section { background: url("/media/b.jpg") }`,
		"stylesheet/sub/more": `@font-face { font-family: H; src: url(/media/h.woff2) } p { background: ` +
			`url(/media/mark.svg) }`,
		"tokens/brand":      `{"ink":{"$type":"color","$value":"#123456"}}`,
		"component/x-strip": `customElements.define("x-strip", class extends HTMLElement {})`,
		"component/y-join":  `import "/components/x-strip/x-strip.js"`,
		"media/a.jpg":       "a",
		"media/b.jpg":       "b",
		"media/v.mp4":       "v",
		"media/h.woff2":     "h",
		"media/mark.svg":    `<svg xmlns="http://www.w3.org/2000/svg"><image href="/media/a.jpg"/></svg>`,
	}, map[string]item.Meta{"page/home": {Slug: "/", Styles: styles}, "page/deep/page": {Slug: "/deep/page/"},
		"section/hours": {Styles: styles}, "part/top": {Role: item.Header}, "stylesheet/base": {},
		"media/mark.svg": {MediaType: "image/svg+xml"}})
}

// Every address in every generated file that is not on the web leads to a file of the kit.
func TestEveryAddressInAViewLeadsToAFileOfTheKit(t *testing.T) {
	list, set := example()
	first := made(t, list, set)
	there := map[string]bool{}
	for _, e := range list.Items {
		there[item.Address{Kind: e.Kind, Key: e.Key}.Path()] = true
	}
	for _, v := range first {
		there[v.Path] = true
		assert.Equal(t, item.DigestOf(v.Content), v.SHA256)
	}
	seen := 0
	for _, v := range first {
		kind := map[string]item.Kind{".html": item.Page, ".css": item.Stylesheet, ".svg": item.Media}[path.Ext(v.Path)]
		if kind == "" {
			continue
		}
		for _, r := range facts.Extract(kind, "", v.Content).Refs {
			if r.Defines || r.Space != facts.Loose && r.Space != facts.Address {
				continue
			}
			if r.Name == "/nowhere/" {
				continue // not in the kit
			}
			seen++
			assert.Equal(t, facts.Loose, r.Space, "%s: %s is rooted", v.Path, r.Name)
			assert.True(t, there[path.Join(path.Dir(v.Path), r.Name)], "%s: %s leads nowhere", v.Path, r.Name)
		}
	}
	assert.Greater(t, seen, 20)
	for _, p := range []string{"views/page--home.html", "views/page--deep--page.html", "views/section--hours.html",
		"views/part--top.html"} {
		assert.True(t, there[p], p)
	}
	assert.Equal(t, first, made(t, list, set))
}

func TestAPageShowsItsPiecesInPlace(t *testing.T) {
	list, set := example()
	var home string
	for _, v := range made(t, list, set) {
		if v.Path == "views/page--home.html" {
			home = string(v.Content)
		}
	}
	for _, want := range []string{"<header>", `<a href="page--deep--page.html">Deep</a>`, `<img src="../media/a.jpg"`,
		`href="page--deep--page.html#x"`, `<script defer src="../components/x-strip/x-strip.js">`,
		`<script type="module" src="../components/y-join/y-join.js">`, `href="https://else.example/"`} {
		assert.Contains(t, home, want)
	}
	brand, base := strings.Index(home, "brand.css"), strings.Index(home, "base.css")
	assert.True(t, 0 < brand && brand < base, "the kit's order of stylesheets holds")
}

func TestViewsAreGeneratedFilesOfTheKit(t *testing.T) {
	list, set := example()
	open, done, err := Add(list, set, nil)
	require.NoError(t, err)
	defer done()
	var file strings.Builder
	digest, err := kit.Write(&file, list, open)
	require.NoError(t, err)
	k, err := kit.Open(strings.NewReader(file.String()), int64(file.Len()))
	require.NoError(t, err)
	require.NoError(t, k.Verify())
	assert.NotEmpty(t, k.List.Generated)
	own, err := Own(&k.List, k)
	require.NoError(t, err)
	assert.True(t, own)
	changed := k.List
	changed.Generated = append([]kit.File{}, k.List.Generated...)
	changed.Generated[0].SHA256 = item.DigestOf([]byte("another"))
	own, err = Own(&changed, k)
	require.NoError(t, err)
	assert.False(t, own, "views that show something else are told of")
	assert.Equal(t, k.Digest, digest)
	list.Generated = nil
	list.Settle()
	plain, err := list.Digest()
	require.NoError(t, err)
	assert.Equal(t, plain, digest, "what was generated is not part of the kit's identity")
}
