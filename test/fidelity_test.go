package test

import (
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fixtureSites are static sites of strangers, each in another style.
var fixtureSites = []string{"one-page", "handbook", "log", "old-tables", "utility", "modern", "switcher"}

// domOf gives a page's tree as text, with what publishing may change set aside: where
// files lie, the order of classes, the bindings of parts, and the encoding's name.
const domOf = `(() => {
  const key = (s) => { try { s = decodeURIComponent(s) } catch { } return ` +
	`s.toLowerCase().normalize("NFD").replace(/[\u0300-\u036f]/g, "").replace(/[^a-z0-9._]+/g, "-") }
  const file = (v) => v.startsWith("data:") || v.startsWith("#") || v.startsWith("mailto:") ? v : key(new URL(v, ` +
	`document.baseURI).pathname.split("/").pop().replace(/^index\.html?$/, "")) + new URL(v, document.baseURI).hash
  const urls = { href: 1, src: 1, action: 1, poster: 1, background: 1, data: 1, manifest: 1, usemap: 0 }
  const out = []
  const walk = (n) => {
    if (n.nodeType === 3) { const t = n.data.replace(/\s+/g, " ").trim(); if (t && ` +
	`!/^(style|script)$/i.test(n.parentNode.tagName)) out.push(t); return }
    if (n.nodeType !== 1) return
    if (n.tagName === "META" && (n.hasAttribute("charset") || /content-type/i.test(n.httpEquiv))) return
    const attrs = [...n.attributes].filter((a) => !/^data-(fill|field|current)/.test(a.name)).map((a) => {
      let v = a.value
      if (urls[a.name]) v = file(v)
      else if (a.name === "srcset") v = v.split(",").map((s) => s.trim().split(/\s+/)).map(([u, d]) => file(u) + ` +
	`" " + (d ?? "")).join(",")
      else if (a.name === "class") v = [...n.classList].sort().join(" ")
      else if (a.name === "content" && /refresh/i.test(n.httpEquiv)) v = v.split(/url=/i).map((x, i) => i ? ` +
	`file(x) : x).join("url=")
      else if (a.name === "content" && /image/.test(n.getAttribute("property") ?? "")) v = file(v)
      else if (a.name === "style") v = ""
      return a.name + "=" + v
    }).sort()
    out.push("<" + n.tagName + " " + attrs.join(" ") + ">")
    for (const c of (n.tagName === "TEMPLATE" ? n.content : n).childNodes) walk(c)
    out.push("</" + n.tagName + ">")
  }
  walk(document.documentElement)
  return out.join("\n")
})()`

// A site of strangers, adopted with what is sure taken as parts and published again,
// is the same site: page by page the same tree and the same picture.
func TestAdoptedSitesArePublishedAsTheyWere(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	widths := []int64{390, 768, 1280}
	for _, name := range fixtureSites {
		from := filepath.Join(harness.Root(t), "test", "fixtures", "sites", name)
		var got api.Adopted
		s.JSON(&got, "site", "adopt", from, "--name", name, "--parts", "auto")
		t.Logf("%s: %d items, parts %v", name, got.Site.Items, got.Took)
		for _, n := range got.Notes {
			t.Logf("%s: %s %s", name, n.Address, n.Message)
		}
		to := filepath.Join(t.TempDir(), "out")
		s.Must("site", "publish", name, to)
		compareSites(t, b, name, from, to, widths)
		below := filepath.Join(t.TempDir(), "below")
		s.Must("site", "publish", name, below, "--links", "relative")
		deep := t.TempDir()
		require.NoError(t, os.Symlink(below, filepath.Join(deep, "deep")))
		compareSitesAt(t, b, name+"-relative", serve(t, from)+"/", serve(t, deep)+"/deep/", pagesOf(t, from)[:1],
			[]int64{768})
	}
}

// pictured is how many pages of each site are compared by picture in every run; make
// soak compares all.
const pictured = 2

func soaking() bool { return os.Getenv("CPARCEL_SOAK") != "" }

func serve(t *testing.T, dir string) string {
	files := http.FileServer(http.Dir(dir))
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if ext := strings.ToLower(filepath.Ext(r.URL.Path)); ext == ".html" || ext == ".htm" || ext == "" {
			w.Header().Set("Content-Type", "text/html") // the page says its encoding itself
		}
		files.ServeHTTP(w, r)
	}))
	t.Cleanup(s.Close)
	return s.URL
}

func pagesOf(t *testing.T, dir string) []string {
	var pages []string
	require.NoError(t, filepath.WalkDir(dir, func(p string, d os.DirEntry, err error) error {
		if ext := strings.ToLower(filepath.Ext(p)); err == nil && (ext == ".html" || ext == ".htm") {
			rel, _ := filepath.Rel(dir, p)
			pages = append(pages, filepath.ToSlash(rel))
		}
		return err
	}))
	sort.Strings(pages)
	return pages
}

func compareSites(t *testing.T, b *harness.Browser, name, from, to string, widths []int64) {
	compareSitesAt(t, b, name, serve(t, from)+"/", serve(t, to)+"/", pagesOf(t, from), widths)
}

func compareSitesAt(t *testing.T, b *harness.Browser, name, from, to string, pages []string, widths []int64) {
	t.Helper()
	for i, p := range pages {
		there := p
		if p == "index.htm" { // the front page answers at the root, whatever its file was called
			there = "index.html"
		}
		at := func(root, p string) string { return root + (&url.URL{Path: p}).EscapedPath() }
		b.Go(at(from, p))
		one := harness.Eval[string](b, domOf)
		b.Go(at(to, there))
		assert.Equal(t, one, harness.Eval[string](b, domOf), "%s %s", name, p)
		if i >= pictured && !soaking() {
			continue
		}
		for w, n := range b.Differ(name+"-"+item.MakeKey(strings.ReplaceAll(p, "/", "-")), at(from, p), at(to, there),
			widths...) {
			assert.Zero(t, n, "%s %s at %d px", name, p, w)
		}
	}
}
