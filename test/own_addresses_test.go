package test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The files of an adopted folder go on answering at their addresses: live, in drafts and published. A keeper may write
// them, and is told before one of them ends.
func TestFilesOfAnAdoptedFolderKeepTheirAddresses(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := filepath.Join(t.TempDir(), "peat-bank")
	files := map[string]string{
		"index.html": `<!doctype html><html lang="en"><head><title>Peat Bank</title><link rel="stylesheet" ` +
			`href="css/styles.css?v=3"><link rel="manifest" href="manifest.json"></head><body><h1>Peat Bank</h1>` +
			`<img src="media/hut.svg" alt="The hut"><a href="files/price.pdf">Prices</a></body></html>`,
		"css/styles.css":             "@import url(base.css);\nh1 { background: url('../media/hut.svg') }\n",
		"css/base.css":               "h1 { color: #123456 }\n",
		"manifest.json":              `{"name":"Peat Bank","icons":[{"src":"media/hut.svg"}]}`,
		"media/hut.svg":              `<svg xmlns="http://www.w3.org/2000/svg"/>`,
		"hut.svg":                    `<svg xmlns="http://www.w3.org/2000/svg" id="other"/>`,
		"files/price.pdf":            "%PDF-1.4 prices",
		".well-known/security.txt":   "Contact: mailto:ida@highmoor.example\n",
		".htaccess":                  "Redirect /old /new\n",
		"_redirects":                 "/old /new 301\n",
		"media/deep/Notes of May.md": "May\n",
	}
	for name, text := range files {
		at := filepath.Join(dir, filepath.FromSlash(name))
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o644))
	}
	said := s.Must("site", "adopt", dir, "--name", "peat-bank")
	assert.Contains(t, said, "rules for the server that had the site")
	assert.Contains(t, said, "it tells a server where addresses lead that were left")

	visit := func(root, path string) string {
		got := s.Visit(root + path)
		assert.Equal(t, 200, got.Status, path)
		return string(got.Body)
	}
	live := s.Live("peat-bank")
	for _, name := range []string{"files/price.pdf", ".well-known/security.txt", "media/hut.svg", "hut.svg",
		"css/base.css", "media/deep/Notes%20of%20May.md"} {
		assert.Equal(t, files[strings.ReplaceAll(name, "%20", " ")], visit(live, "/"+name), name)
	}
	assert.Contains(t, visit(live, "/css/styles.css"), "h1 { background: url(", "its references lead on")
	assert.Contains(t, visit(live, "/manifest.json"), "Peat Bank")

	out := filepath.Join(t.TempDir(), "out")
	s.Must("site", "publish", "peat-bank", out)
	for _, name := range []string{"files/price.pdf", ".well-known/security.txt", "media/hut.svg", "css/base.css"} {
		b, err := os.ReadFile(filepath.Join(out, filepath.FromSlash(name)))
		require.NoError(t, err)
		assert.Equal(t, files[name], string(b), name)
	}

	// A keeper writes such addresses: they are found, by what uses them, too, and travel as the items that they mean.
	page := filepath.Join(t.TempDir(), "beds.html")
	require.NoError(t, os.WriteFile(page, []byte(`<!doctype html><html lang="en"><head><title>Beds</title>`+
		`<link rel="stylesheet" href="/css/base.css"></head><body><main><h1>Beds</h1>`+
		`<img src="/media/hut.svg" alt="Hut"><a href="/files/price.pdf">Prices</a></main></body></html>`), 0o644))
	s.Must("site", "put", "peat-bank", "page/beds", page, "--path", "/beds/", "--draft", "beds")
	s.Must("site", "go-live", "peat-bank", "beds")
	assert.NotContains(t, s.Client("site", "check", "peat-bank").Out, "where no page is")
	var detail api.ItemDetail
	s.JSON(&detail, "site", "show", "peat-bank", "media/files/price.pdf")
	assert.Contains(t, detail.UsedBy, item.MustAddress("page/beds"))
	assert.Regexp(t, `href="/_cp/[0-9a-f]+/base.css"`, visit(live, "/beds/"))
	s.Must("library", "add", "peat-bank", "page/beds")
	kept := s.Must("library", "show", "page/beds")
	assert.NotContains(t, kept, `"/css/base.css"`)

	// What ends an address says so, before and as it is done; what comes to stand there ends nothing.
	s.Must("site", "remove", "peat-bank", "media/files/price.pdf", "--draft", "less")
	detailOf := s.Must("draft", "show", "peat-bank", "less")
	assert.Contains(t, detailOf, "/files/price.pdf will not answer any more: still named by page/beds, page/home")
	assert.Contains(t, s.Must("site", "go-live", "peat-bank", "less"), "/files/price.pdf will not answer any more")
	assert.Equal(t, 404, s.Visit(live+"/files/price.pdf").Status)
}
