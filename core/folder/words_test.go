package folder_test

import (
	"io"
	"testing"
	"testing/fstest"

	"compactparcel/core/capture"
	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/folder"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func fsOf(in map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for name, text := range in {
		out[name] = &fstest.MapFile{Data: []byte(text)}
	}
	return out
}

// Somebody's folders and files may be called as ours are: in an adopted site an address is an address.
func TestFoldersAndFilesCalledAsOursAre(t *testing.T) {
	for _, k := range item.Kinds {
		word := k.Folder
		if word == "" {
			continue
		}
		page := func(body string) string {
			return `<!doctype html><html lang="en"><head><title>x</title><link rel="stylesheet" href="/` + word +
				`/app.css?v=2"></head><body><main><h1>x</h1>` + body + `</main></body></html>`
		}
		set, report, err := folder.Read(fsOf(map[string]string{
			"index.html": page(
				`<a href="./` + word + `/about.html">a</a><a href="/` + word + `/">b</a><a href="` + word +
					`.html">c</a><img src="` + word + `/pic.png" alt="p">`,
			),
			word + "/about.html": page(
				`<a href="../index.html">home</a><a href="index.html#x">up</a><img src="pic.png" alt="p">`,
			),
			word + "/index.html": page(`<p id="x">x</p>`),
			word + ".html":       page(`<p>file</p>`),
			word + "/pic.png":    "\x89PNG\r\n\x1a\n",
			word + "/app.css":    `h1 { background: url(pic.png) }`,
			word + "/notes.json": `{}`,
			word + "/" + word:    "a file of the name",
		}))
		require.NoError(t, err, word)
		require.Equal(t, folder.LayoutStaticSite, report.Layout, word)
		slugs := map[string]bool{}
		for _, h := range set.OfKind(item.Page) {
			slugs[h.Meta.Slug] = true
		}
		for _, slug := range []string{"/", "/" + word + "/", "/" + word + "/about.html", "/" + word + ".html"} {
			assert.True(t, slugs[slug], "%s: %s of %v", word, slug, slugs)
		}
		w := closure.NewSmall(set)
		var pages []item.Address
		for _, h := range set.OfKind(item.Page) {
			pages = append(pages, h.Address)
		}
		all, err := closure.Compute(w, pages, func(item.Address) bool { return false })
		require.NoError(t, err)
		assert.Empty(t, all.Needs, "%s: nothing is lacking", word)
		found, err := faults.Check(w, faults.Options{})
		require.NoError(t, err)
		for _, f := range found {
			assert.NotContains(t, []faults.Kind{faults.Link, faults.Missing}, f.Kind, "%s: %+v", word, f)
		}
		got, err := capture.Take(set, capture.Order{Chosen: []item.Address{pages[0]}})
		require.NoError(t, err)
		for _, n := range got.Notes {
			assert.False(t, n.Stops, "%s: %s", word, n.Message)
		}
		rel, _, err := folder.Publish(
			set,
			folder.Options{},
			func(string, folder.Published, func() (io.ReadCloser, error)) error { return nil },
		)
		require.NoError(t, err)
		assert.Contains(t, rel.Files, word+"/about.html")
	}
}
