package pieces

import (
	"archive/zip"
	"bytes"
	"io"
	"sort"
	"testing"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func whole(t *testing.T) (*kit.PackingList, item.Collection) {
	t.Helper()
	set := item.NewSet()
	put := func(a, text string, m item.Meta) {
		set.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	styles := []item.Address{item.MustAddress("stylesheet/base")}
	put("page/home", `<!doctype html><main><cp-section name="hours"></cp-section><a href="/far/">far</a></main>`,
		item.Meta{Slug: "/", Styles: styles})
	put("page/far", `<!doctype html><main><p data-fill="text:far">x</p></main>`, item.Meta{Slug: "/far/"})
	put("section/hours", `<section><b data-fill="text:name">Hut</b><img src="/media/a.jpg" alt=""></section>`,
		item.Meta{Styles: styles})
	put("stylesheet/base", `section { color: red }`, item.Meta{})
	put("media/a.jpg", "a", item.Meta{})
	put("menu/lone", `{"title":"M","entries":[]}`, item.Meta{})
	order := capture.Order{}
	for _, h := range set.Heads() {
		order.Chosen = append(order.Chosen, h.Address)
	}
	taken, err := capture.Take(set, order)
	require.NoError(t, err)
	list := &kit.PackingList{
		Kit:        "hut",
		Version:    "1.2.0",
		Title:      "Hut",
		Terms:      kit.Terms{License: "CC0-1.0"},
		Fillins:    taken.Fillins,
		StyleOrder: taken.StyleOrder,
		Needs:      kit.Needs{Kits: map[string]string{"other": "^1"}},
	}
	for _, h := range taken.Items.Heads() {
		list.Items = append(
			list.Items,
			kit.Entry{
				Kind:             h.Address.Kind,
				Key:              h.Address.Key,
				SHA256:           h.Doc,
				NormalizedDigest: h.NormalizedDigest,
				Bytes:            h.Bytes,
				Meta:             h.Meta,
				Uses:             taken.Uses[h.Address],
			},
		)
	}
	list.Settle()
	return list, taken.Items
}

func TestEachPieceIsAKitOfItsOwn(t *testing.T) {
	list, items := whole(t)
	parts, err := Split(list, items)
	require.NoError(t, err)
	assert.Contains(t, titlesOf(parts), "Hut: page/far")
	list.Title = ""
	nameless, err := Split(list, items)
	require.NoError(t, err)
	assert.Contains(t, titlesOf(nameless), "hut: page/far", "by the kit's name")
	held := map[string][]string{}
	for _, p := range parts {
		for _, e := range p.List.Items {
			held[p.Address.String()] = append(held[p.Address.String()], e.Address().String())
		}
		sort.Strings(held[p.Address.String()])
		assert.Equal(t, "CC0-1.0", p.List.Terms.License)
		assert.NoError(t, p.List.Validate())
	}
	assert.Equal(t, map[string][]string{
		"page/home": {"media/a.jpg", "page/home", "section/hours", "stylesheet/base"}, "page/far": {"page/far"},
		"section/hours": {"media/a.jpg", "section/hours", "stylesheet/base"}, "menu/lone": {"menu/lone"},
	}, held, "what is only linked to does not come along")
	for _, p := range parts {
		if p.Address.Kind == item.Section {
			require.Len(t, p.List.Fillins, 1)
			assert.Equal(t, "name", p.List.Fillins[0].Name)
			assert.Empty(t, p.List.Needs.Kits, "nobody's need but its own")
			assert.Equal(t, "hut.section.hours-1.2.0.cpkit", p.FileName())
		}
		if p.Address.String() == "page/home" {
			require.Len(t, p.List.Needs.Items, 1)
			assert.Equal(t, "page/far", p.List.Needs.Items[0].Address)
			assert.True(t, p.List.Needs.Items[0].Optional)
		}
	}
	var file bytes.Buffer
	require.NoError(t, WriteAll(&file, parts))
	z, err := zip.NewReader(bytes.NewReader(file.Bytes()), int64(file.Len()))
	require.NoError(t, err)
	require.Len(t, z.File, 4)
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		k, err := kit.Open(bytes.NewReader(b), int64(len(b)))
		require.NoError(t, err, f.Name)
		require.NoError(t, k.Verify())
	}
}

func titlesOf(parts []Piece) (out []string) {
	for _, p := range parts {
		out = append(out, p.List.Title)
	}
	return out
}
