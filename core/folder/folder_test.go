package folder

import (
	"fmt"
	"io"
	"io/fs"
	"strings"
	"testing"
	"testing/fstest"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func files(in map[string]string) fstest.MapFS {
	out := fstest.MapFS{}
	for p, text := range in {
		out[p] = &fstest.MapFile{Data: []byte(text)}
	}
	return out
}

func content(t *testing.T, s *item.Set, address string) string {
	t.Helper()
	h, ok := s.Find(item.MustAddress(address))
	require.True(t, ok, "there is no %s in %v", address, s.Heads())
	b, err := item.Read(s, h)
	require.NoError(t, err)
	return string(b)
}

func TestOurOwnLayout(t *testing.T) {
	set, report, err := Read(files(map[string]string{
		"site.json": `{"format":1,"site":"x","style-order":["stylesheet/base"],` +
			`"items":[{"kind":"page","key":"home","slug":"/","title":"Home","styles":["stylesheet/base"]},` +
			`{"kind":"part","key":"top","role":"header"}]}`,
		"settings.json": `{"title":"Hut","logo":{"value":{"media":"/media/a.png"},"portable":true},` +
			`"counter":{"value":"x","portable":false}}`,
		"pages/home.html":       "<!doctype html><html><body>é</body></html>",
		"pages/deep/inner.html": "<p>in</p>",
		"surround/top.html":     "<header></header>",
		"stylesheets/base.css":  "p{}",
		"media/A.png":           "not a key",
		"media/a.png":           "png",
		"notes.txt":             "what is this",
		".git/config":           "hidden",
	}))
	require.NoError(t, err)
	assert.EqualValues(t, LayoutOurs, report.Layout)
	h, _ := set.Find(item.MustAddress("page/home"))
	assert.Equal(t, "/", h.Meta.Slug)
	h, _ = set.Find(item.MustAddress("page/deep/inner"))
	assert.Equal(t, "/deep/inner/", h.Meta.Slug)
	h, _ = set.Find(item.MustAddress("setting/logo"))
	assert.True(t, h.Meta.IsPortable("logo"))
	assert.Equal(t, `["stylesheet/base"]`, content(t, set, "setting/style-order"))
	assert.Equal(t, `"Hut"`, content(t, set, "setting/title"))
	h, _ = set.Find(item.MustAddress("media/a.png"))
	assert.Equal(t, "image/png", h.Meta.MediaType)
	var left []string
	for _, l := range report.Left {
		left = append(left, l.Path)
		assert.NotEmpty(t, l.Why)
	}
	assert.ElementsMatch(t, []string{".git/", "media/A.png", "notes.txt"}, left)
}

func TestASiteAsSomebodyLeftIt(t *testing.T) {
	set, report, err := Read(files(map[string]string{
		"index.html": `<!doctype html><link rel="stylesheet" href="css/Main.css"><a ` +
			`href="about.html#team">a</a><a href="./docs/">d</a><img srcset="img/A%20b.JPG 1x, img/c.png 2x" ` +
			`src='img/c.png'><a href="missing.html">m</a><a href="https://example.org/">e</a>`,
		"about.html":              `<!doctype html><a href="/index.html">home</a><a href="docs/intro.html?x=1">i</a>`,
		"docs/index.html":         `<!doctype html><a href="../about.html">up</a><img src="../img/c.png">`,
		"docs/intro.html":         `<!doctype html><base href="/docs/sub/"><a href="../../about.html">a</a>`,
		"404.html":                `<!doctype html><p>lost</p>`,
		"css/Main.css":            `@import "more.css"; body{background:url(../img/c.png)}`,
		"css/more.css":            `p{}`,
		"img/A b.JPG":             "jpg",
		"img/c.png":               "png",
		"img/C.png":               "another one, but for capitals",
		"Über uns/Seite eins.htm": `<!doctype html><p>umlauts</p>`,
	}))
	require.NoError(t, err)
	assert.EqualValues(t, LayoutStaticSite, report.Layout)
	home := content(t, set, "page/home")
	for _, want := range []string{`href="/stylesheets/css/main.css"`, `href="/about.html#team"`, `href="/docs/"`,
		`/media/img/a-b.jpg 1x`, `src='/media/img/c-2.png'`, `href="https://example.org/"`} {
		assert.Contains(t, home, want)
	}
	assert.Contains(t, content(t, set, "page/about"), `href="/"`)
	assert.Contains(t, content(t, set, "page/about"), `href="/docs/intro.html?x=1"`)
	assert.Contains(t, content(t, set, "page/docs"), `href="/about.html"`)
	assert.Contains(t, content(t, set, "page/docs/intro"), `href="/about.html"`, "a <base> is followed")
	assert.Contains(t, content(t, set, "stylesheet/css/main"), `@import "/stylesheets/css/more.css"`)
	h, ok := set.Find(item.MustAddress("part/not-found"))
	require.True(t, ok)
	assert.Equal(t, item.NotFound, h.Meta.Role)
	h, _ = set.Find(item.MustAddress("page/uber-uns/seite-eins"))
	assert.Equal(t, "/Über uns/Seite eins.htm", h.Meta.Slug, "the address stays what it was")
	notes := fmt.Sprint(report.Notes)
	assert.Contains(t, notes, "missing.html")
}

// Each file keeps its address, whoever names it: a mail or another site may.
func TestAddressesThatAreKept(t *testing.T) {
	set, report, err := Read(files(map[string]string{
		"index.html": `<!doctype html><head><script ` +
			`src="js/site.js?v=2"></script><script>track()</script><link rel="manifest" ` +
			`href="site.webmanifest"></head><img src="img/shown.png"><a href="files/Prices 2027.pdf">p</a><div ` +
			`data-slides="img/late.png"></div>`,
		"index.htm":             `<!doctype html><p>an older front page</p>`,
		"about.html":            `<!doctype html><HEAD><SCRIPT SRC=/js/site.js></SCRIPT></HEAD><p>a</p>`,
		"about/index.html":      `<!doctype html><p>another</p>`,
		"img/shown.png":         "p",
		"img/late.png":          "p",
		"img/named.png":         "p",
		"img/unnamed.png":       "p",
		"files/Prices 2027.pdf": "pdf",
		"js/site.js":            `show("../img/named.png")`,
		"site.webmanifest":      `{"icons":[{"src":"img/shown.png"}],"start_url":"about/"}`,
		"robots.txt":            "User-agent: *",
		"broken.css":            "GIF\x00\x00",
	}))
	require.NoError(t, err)
	kept := map[string][]string{}
	for _, h := range set.Heads() {
		if h.Address.Kind == item.Media {
			kept[h.Address.Key] = h.Meta.Kept
		}
	}
	assert.Equal(
		t,
		map[string][]string{
			"img/shown.png":   {"/img/shown.png"},
			"img/late.png":    {"/img/late.png"},
			"img/named.png":   {"/img/named.png"},
			"img/unnamed.png": {"/img/unnamed.png"},
			"files/prices-2027.pdf": {
				"/files/Prices 2027.pdf",
			},
			"js/site.js":       {"/js/site.js"},
			"site.webmanifest": {"/site.webmanifest"},
			"robots.txt":       {"/robots.txt"},
			"broken.css":       {"/broken.css"},
		},
		kept,
	)
	assert.Equal(t, `{"icons":[{"src":"/media/img/shown.png"}],"start_url":"/about/"}`,
		content(t, set, "media/site.webmanifest"))
	slugs := map[string]string{}
	for _, h := range set.Heads() {
		if h.Address.Kind == item.Page {
			slugs[h.Meta.Slug] = h.Address.String()
		}
	}
	assert.Len(t, slugs, 4)
	assert.Contains(t, slugs, "/index.htm", "a second front page keeps its file's address")
	assert.Contains(t, slugs, "/about/")
	assert.Contains(t, slugs, "/about.html")
	require.Len(t, report.HeadScripts, 2)
	assert.Equal(t, facts.HeadScript{Script: "/media/js/site.js", Pages: 2}, report.HeadScripts[0])
	assert.Contains(t, content(t, set, "setting/head-scripts"), "inline:")
	assert.Contains(t, fmt.Sprint(report.Notes), "broken.css")
}

func TestFoldersThatCannotBeTaken(t *testing.T) {
	for name, c := range map[string]struct {
		in   map[string]string
		says string
	}{
		"empty":        {map[string]string{}, "no files"},
		"no page":      {map[string]string{"a.png": "x"}, "no HTML page"},
		"broken list":  {map[string]string{"site.json": "{"}, "site.json is not in order"},
		"unknown word": {map[string]string{"site.json": `{"format":1,"colour":"red"}`}, "unknown field"},
		"newer":        {map[string]string{"site.json": `{"format":7}`}, "format 7"},
		"missing file": {map[string]string{"site.json": `{"format":1,"items":[{"kind":"page","key":"x"}]}`},
			"page/x, and pages/x.html is missing"},
		"bad key": {map[string]string{"site.json": `{"format":1,"items":[{"kind":"page","key":"X"}]}`},
			"not an address"},
		"two of a place": {map[string]string{"site.json": `{"format":1,"items":[{"kind":"page","key":"a",` +
			`"slug":"/x/"},{"kind":"page","key":"b","slug":"/x/"}]}`, "pages/a.html": "a", "pages/b.html": "b"},
			"both claim the address /x/"},
		"bad settings": {map[string]string{"site.json": `{"format":1}`, "settings.json": `[]`},
			"settings.json is not in order"},
	} {
		t.Run(name, func(t *testing.T) {
			_, _, err := Read(files(c.in))
			if assert.Error(t, err, name) {
				assert.Contains(t, err.Error(), c.says, name)
			}
		})
	}
	m := files(map[string]string{"index.html": "<!doctype html>"})
	m["secret.html"] = &fstest.MapFile{Data: []byte("/etc/passwd"), Mode: fs.ModeSymlink}
	_, report, err := Read(m)
	require.NoError(t, err)
	require.Len(t, report.Left, 1)
	assert.Contains(t, report.Left[0].Why, "not followed")
}

func TestBrokenContentIsTakenAndTold(t *testing.T) {
	set, report, err := Read(
		files(
			map[string]string{
				"site.json":       `{"format":1}`,
				"menus/main.json": "{",
				"pages/home.html": strings.Repeat("<div>", 600),
			},
		),
	)
	require.NoError(t, err)
	assert.Len(t, set.Heads(), 2)
	assert.Len(t, report.Notes, 2)
}

func TestPublishingWritesWhatAVisitorNeeds(t *testing.T) {
	set, _, err := Read(files(map[string]string{
		"site.json": `{"format":1,"items":[{"kind":"page","key":"home","slug":"/",` +
			`"styles":["stylesheet/base"]},{"kind":"part","key":"lost","role":"not-found"},{"kind":"part",` +
			`"key":"room","role":"record","placement":{"where":["records:room"]}},{"kind":"record","key":"room/` +
			`attic","type":"room"}]}`,
		"pages/home.html":         `<!doctype html><html><body><img src="/media/a.png"></body></html>`,
		"pages/about/us.html":     `<p>us</p>`,
		"surround/lost.html":      `<p>lost</p>`,
		"surround/room.html":      `<cp-content></cp-content>`,
		"records/room/attic.html": `<p>attic</p>`,
		"stylesheets/base.css":    `p{background:url("/media/b.png")}`,
		"media/a.png":             "a",
		"media/b.png":             "b",
		"media/unused.png":        "c",
	}))
	require.NoError(t, err)
	out, rel, notes := published(t, set, Options{Site: "x"})
	assert.Equal(t, len(out), len(rel.Files)+1)
	for _, want := range []string{"index.html", "about/us/index.html", "room/attic/index.html", "404.html",
		"robots.txt", ReleaseFile} {
		assert.Contains(t, out, want)
	}
	assets := 0
	for p := range out {
		if strings.HasPrefix(p, "_cp/") && p != ReleaseFile {
			assets++
		}
	}
	assert.Equal(t, 3, assets, "the sheet and the two pictures in use")
	require.Len(t, notes, 1)
	assert.Contains(t, notes[0].Why, "address", "a site map needs to know where the site stands")
	assert.Equal(t, "page/home", rel.Files["index.html"].Item.String())
	_, _, err = Publish(
		set,
		Options{},
		func(string, Published, func() (io.ReadCloser, error)) error { return fmt.Errorf("the disk is full") },
	)
	assert.ErrorContains(t, err, "the disk is full")
	_, _, err = Publish(set, Options{Base: "huts"}, nil)
	assert.ErrorContains(t, err, "slash at both ends")
	_, _, err = Publish(set, Options{Links: "absolute"}, nil)
	assert.ErrorContains(t, err, "rooted, relative, file")
}

// published gives the files of a publication.
func published(t *testing.T, c item.Collection, o Options) (map[string]string, *Release, []Left) {
	t.Helper()
	out := map[string]string{}
	listed := false
	rel, notes, err := Publish(c, o, func(p string, f Published, open func() (io.ReadCloser, error)) error {
		r, err := open()
		require.NoError(t, err)
		b, err := io.ReadAll(r)
		require.NoError(t, err)
		assert.Equal(t, item.DigestOf(b), f.Digest, p)
		assert.False(t, listed, "the list comes last")
		listed = p == ReleaseFile
		out[p] = string(b)
		return nil
	})
	require.NoError(t, err)
	return out, rel, notes
}

func TestLinksOfAPublishedSite(t *testing.T) {
	set, _, err := Read(files(map[string]string{
		"site.json": `{"format":1,"items":[{"kind":"page","key":"home","slug":"/",` +
			`"styles":["stylesheet/base"]},{"kind":"page","key":"a/b","slug":"/a/b.html"},{"kind":"part",` +
			`"key":"find","role":"search"},{"kind":"part","key":"lost","role":"not-found"}]}`,
		"settings.json": `{"address":"https://hut.example","robots":"index"}`,
		"pages/home.html": `<!doctype html><html><head><title>Ridge home</title></head><body><a ` +
			`href="/a/b.html?x#y">b</a><img src="/media/a.png" srcset="/media/a.png ` +
			`2x"><cp-search></cp-search></body></html>`,
		"pages/a/b.html": `<!doctype html><html><body><a href="/">home</a><img ` +
			`src="/media/a.png"><p>larch</p></body></html>`,
		"surround/find.html": `<ul><cp-results><li><a data-field="href:url; ` +
			`text:title">x</a></li><cp-empty><li>none</li></cp-empty></cp-results></ul>`,
		"surround/lost.html":   `<a href="/">home</a>`,
		"stylesheets/base.css": `p{background:url("/media/a.png")}`,
		"media/a.png":          "a",
	}))
	require.NoError(t, err)
	rooted, _, _ := published(t, set, Options{Base: "/huts/"})
	assert.Contains(t, rooted["index.html"], `<a href="/huts/a/b.html?x#y">`)
	assert.Regexp(t, `<img src="/huts/_cp/[0-9a-f]{12}/a.png" srcset="/huts/_cp/[0-9a-f]{12}/a.png 2x">`,
		rooted["index.html"])
	assert.Contains(t, rooted["sitemap.xml"], "<loc>https://hut.example/huts/a/b.html</loc>")
	assert.Contains(t, rooted["robots.txt"], "Sitemap: https://hut.example/huts/sitemap.xml")
	relative, _, _ := published(t, set, Options{Links: RelativeLinks})
	assert.Contains(t, relative["index.html"], `<a href="a/b.html?x#y">`)
	assert.Contains(t, relative["a/b.html"], `<a href="../">home</a>`)
	assert.Contains(t, relative["404.html"], `<a href="/">home</a>`,
		"the not-found page is shown at any depth")
	for p, text := range relative {
		if strings.HasSuffix(p, "base.css") {
			assert.Regexp(t, `url\("\.\./[0-9a-f]{12}/a\.png"\)`, text)
		}
	}
	assert.Contains(t, relative["search/index.html"], `data-cp-root="../"`)
	assert.Contains(t, relative["_cp/search.json"], `["Ridge home","/"]`)
	assert.Contains(t, relative["_cp/search.json"], `"larch":[1]`)
	set.Put(item.Head{Address: item.MustAddress("setting/robots")}, []byte(`"noindex"`))
	hidden, _, _ := published(t, set, Options{})
	assert.Contains(t, hidden["robots.txt"], "Disallow: /\n")
	assert.Contains(t, hidden["index.html"], `<meta name="robots" content="noindex">`)
	assert.NotContains(t, hidden, "sitemap.xml")
}

func TestPagesInOtherEncodingsBecomeUTF8(t *testing.T) {
	set, report, err := Read(files(map[string]string{
		"index.html": "<!doctype html><meta charset=iso-8859-1><p>H\xfctte \x80 3</p>",
		"cp.html": "<!doctype html><meta http-equiv=Content-Type content='text/html; " +
			"charset=windows-1251'><p>\xc4\xee\xec</p>",
		"silent.html": "<!doctype html><p>caf\xe9</p>",
		"utf.html":    "<!doctype html><p>größe</p>",
		"bom.html":    "\xef\xbb\xbf<!doctype html><p>größe</p>",
	}))
	require.NoError(t, err)
	assert.Equal(t, "<!doctype html><meta charset=utf-8><p>Hütte € 3</p>", content(t, set, "page/home"),
		"iso-8859-1 is read as windows-1252, as browsers do")
	assert.Equal(t, "<!doctype html><meta http-equiv=Content-Type content='text/html; charset=utf-8'><p>Дом</p>",
		content(t, set, "page/cp"))
	assert.Contains(t, content(t, set, "page/silent"), "café")
	assert.Contains(t, content(t, set, "page/utf"), "größe")
	assert.Contains(t, content(t, set, "page/bom"), "größe")
	assert.Len(t, report.Notes, 3, "%v", report.Notes)
}
