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

const simplePage = `<!doctype html><html><head><title>Hut</title><link rel="stylesheet" ` +
	`href="s.css"></head><body><img src="pictures/a.png" alt=""></body></html>`

// told gives what was said about a file, left or noted.
func told(r *Report, file string) string {
	var out []string
	for _, list := range [][]Left{r.Left, r.Notes} {
		for _, l := range list {
			if l.Path == file {
				out = append(out, l.Why)
			}
		}
	}
	return strings.Join(out, "; ")
}

func TestNothingOutsideTheFolderIsReadOrNamed(t *testing.T) {
	page := `<!doctype html><html><head><link rel="stylesheet" href="s.css"></head><body>
<a href="../../etc/passwd">a</a><img src="../../../x.png" alt=""><img src="/../up.png" alt=""><img ` +
		`src="a/%2e%2e/%2e%2e/y.png" alt="">
<a href="..%2f..%2fsecret.html">b</a><iframe src="file:///etc/passwd"></iframe><img src="//host/x.png" ` +
		`alt=""></body></html>`
	m := files(
		map[string]string{
			"index.html":  page,
			"s.css":       `@import "../../evil.css"; .x{background:url(../../../../etc/hosts)}`,
			".git/config": "x",
			".hidden":     "x",
		},
	)
	for _, link := range []string{"passwd.txt", "other.html", "pictures/loop"} {
		m[link] = &fstest.MapFile{Data: []byte("/etc/passwd"), Mode: fs.ModeSymlink}
	}
	m["pipe"] = &fstest.MapFile{Mode: fs.ModeNamedPipe}
	set, report, err := Read(m)
	require.NoError(t, err)
	assert.Len(t, set.Heads(), 2, "the page and the sheet")
	assert.Contains(t, told(report, "passwd.txt"), "symbolic link")
	assert.Contains(t, told(report, "pipe"), "not a regular file")
	assert.Contains(t, told(report, ".git/"), "the history of the folder")
	assert.Contains(t, told(report, ".hidden"), "nothing will answer at /.hidden")
	assert.Contains(t, told(report, "index.html"), "/etc/passwd, which is not in the folder")
	assert.Contains(t, told(report, "s.css"), "/etc/hosts, which is not in the folder")
	assert.NotContains(t, content(t, set, "page/home"), "../",
		"an address that climbs ends at the root, as in browsers")
	assert.Contains(t, content(t, set, "page/home"), "file:///etc/passwd", "what is remote stays as it is")
}

func TestFilesThatLieAboutTheirType(t *testing.T) {
	png := "\x89PNG\r\n\x1a\n" + strings.Repeat("0", 50)
	set, report, err := Read(files(map[string]string{
		"index.html": simplePage,
		"html.png":   "<html><script>alert(1)</script></html>",
		"png.jpg":    png,
		"svg.png":    `<svg xmlns="http://www.w3.org/2000/svg"></svg>`,
		"html.svg":   "<html><body>x</body></html>",
		"html.js":    "<!doctype html><p>x",
		"png.html":   png,
		"nul.css":    "a\x00b",
		"empty.png":  "",
		"empty.html": "",
		"good.png":   png,
		"good.svg":   `<?xml version="1.0"?><!-- drawn --><svg xmlns="http://www.w3.org/2000/svg"></svg>`,
		"good.js":    "1 < 2",
		"icon.ico":   png,
		"page.txt":   "<html>",
	}))
	require.NoError(t, err)
	for file, says := range map[string]string{
		"html.png": "is text/html: browsers will not show it", "png.jpg": "is image/png: browsers show it",
		"svg.png": "something else", "html.svg": "is text/html",
		"html.js": "is text/html", "png.html": "holds other bytes", "nul.css": "holds other bytes",
		"empty.png": "empty", "empty.html": "empty",
		"good.png": "", "good.svg": "", "good.js": "", "icon.ico": "", "page.txt": "",
	} {
		t.Run(file, func(t *testing.T) {
			if says == "" {
				assert.Empty(t, told(report, file), file)
			} else {
				assert.Contains(t, told(report, file), says, file)
			}
		})
	}
	h, ok := set.Find(item.MustAddress("media/png.html"))
	require.True(t, ok, "a page that is a picture is kept as the file that it is")
	assert.Equal(t, []string{"/png.html"}, h.Meta.Kept)
}

func TestWhatIsTooLargeOrTooDeepIsKeptOrTold(t *testing.T) {
	deep := `<!doctype html><html><head><link rel="stylesheet" href="s.css"></head><body>` + strings.Repeat("<div>",
		100_000) + `<img src="pictures/a.png" srcset="pictures/a.png 2x" alt="">`
	var many strings.Builder
	for i := range 200_000 {
		fmt.Fprintf(&many, ".c%d{}", i)
	}
	many.WriteString(".x{background:url(pictures/a.png)}")
	m := files(
		map[string]string{
			"index.html":     simplePage,
			"deep.html":      deep,
			"s.css":          ".x{}",
			"many.css":       many.String(),
			"pictures/a.png": "\x89PNG\r\n\x1a\n",
			"large.css":      strings.Repeat("p{top:0}\n", (MaxTextBytes/9)+1),
			"large.html":     strings.Repeat("x", MaxTextBytes+1),
			"large.svg":      "<svg>" + strings.Repeat(" ", MaxTextBytes) + "</svg>",
		},
	)
	m["huge.png"] = &fstest.MapFile{Data: nil}
	set, report, err := Read(huge{m})
	require.NoError(t, err)
	assert.Contains(t, told(report, "page/deep"), "nested more than 500 deep")
	text := content(t, set, "page/deep")
	assert.Contains(t, text, `href="/stylesheets/s.css"`, "its addresses are known all the same")
	assert.Contains(t, text, `srcset="/media/pictures/a.png 2x"`)
	assert.Equal(t, strings.Count(deep, "<div>"), strings.Count(text, "<div>"))
	assert.Contains(t, told(report, "stylesheet/many"), "more than 100000 rules: kept whole")
	assert.Contains(t, content(t, set, "stylesheet/many"), "url(/media/pictures/a.png)")
	for _, file := range []string{"large.css", "large.svg"} {
		t.Run(file, func(t *testing.T) {
			assert.Contains(t, told(report, file), "nothing is read in it")
			h, ok := set.Find(item.MustAddress("media/" + file))
			require.True(t, ok, file)
			assert.Equal(t, []string{"/" + file}, h.Meta.Kept)
		})
	}
	assert.Contains(t, told(report, "large.html"), "larger than 16 MB")
	assert.Contains(t, told(report, "huge.png"), "larger than 512 MB")
}

// huge says of huge.png that it has two gigabytes.
type huge struct{ fstest.MapFS }

func (h huge) Open(name string) (fs.File, error) {
	f, err := h.MapFS.Open(name)
	if name == "huge.png" && err == nil {
		return hugeFile{f}, nil
	}
	return f, err
}

type hugeFile struct{ fs.File }

func (f hugeFile) Stat() (fs.FileInfo, error) {
	info, err := f.File.Stat()
	return hugeInfo{info}, err
}

type hugeInfo struct{ fs.FileInfo }

func (hugeInfo) Size() int64 { return 2 << 30 }

func TestCirclesAreTold(t *testing.T) {
	_, report, err := Read(
		files(
			map[string]string{
				"index.html": simplePage,
				"s.css":      `@import "t.css";`,
				"t.css":      `@import url(s.css); @import "t.css";`,
				"u.css":      `@import "s.css";`,
			},
		),
	)
	require.NoError(t, err)
	assert.Contains(t, told(report, "stylesheet/s"), "stylesheet/s → stylesheet/t → stylesheet/s")
	assert.Contains(t, told(report, "stylesheet/t"), "stylesheet/t → stylesheet/t")
	assert.Empty(t, told(report, "stylesheet/u"), "it is in no circle itself")

	set, report, err := Read(
		files(map[string]string{
			"site.json":               `{"format":1}`,
			"pages/home.html":         `<cp-section name="a"></cp-section>`,
			"pages/other.html":        `<p>other</p>`,
			"sections/a.html":         `<p class="a"><cp-section name="b"></cp-section></p>`,
			"sections/b.html":         `<p class="b"><cp-section name="a"></cp-section></p>`,
			"tokens/site.tokens.json": `{"x":{"$type":"color","$value":"{y}"},"y":{"$type":"color","$value":"{x}"}}`,
		}),
	)
	require.NoError(t, err)
	assert.Contains(t, told(report, "section/a"), "section/a → section/b → section/a")
	assert.Contains(t, told(report, "tokens/site"), "circle: x → y → x")
	rel, notes, err := Publish(
		set,
		Options{},
		func(string, Published, func() (io.ReadCloser, error)) error { return nil },
	)
	require.NoError(t, err)
	require.NotEmpty(t, notes)
	assert.Equal(t, "index.html", notes[0].Path)
	assert.Contains(t, notes[0].Why, "in a circle: section/a → section/b → section/a")
	assert.NotContains(t, rel.Files, "index.html")
	assert.Contains(t, rel.Files, "other/index.html", "one page keeps no other from being published")
}

func TestHeadScriptsAreListedOnceForAllPages(t *testing.T) {
	page := `<!doctype html><html><head><script src="%scount.js?v=2"></script><script>var x=1</script><script ` +
		`type="application/json">{}</script></head><body><script src="%sbody.js"></script></body></html>`
	set, report, err := Read(
		files(
			map[string]string{
				"index.html": fmt.Sprintf(page, "", ""),
				"a/b.html":   fmt.Sprintf(page, "../", "../"),
				"count.js":   "1",
				"body.js":    "2",
			},
		),
	)
	require.NoError(t, err)
	assert.Len(t, report.HeadScripts, 2)
	assert.Equal(t, facts.HeadScript{Script: "/media/count.js", Pages: 2}, report.HeadScripts[0])
	assert.Equal(t, 2, report.HeadScripts[1].Pages)
	assert.True(t, strings.HasPrefix(report.HeadScripts[1].Script, "inline:"))
	assert.Contains(t, content(t, set, "setting/head-scripts"), "/media/count.js")
}

// A page that gives itself an endless title is taken, and keeps it in its source.
func TestALongTitleLosesNoPage(t *testing.T) {
	long := strings.Repeat("Ridge ", 100)
	for name, page := range map[string]string{
		"title":   "<!doctype html><title>" + long + "</title><p>x</p>",
		"heading": "<!doctype html><h1>" + long + "</h1><p>x</p>",
	} {
		t.Run(name, func(t *testing.T) {
			set, report, err := Read(files(map[string]string{"index.html": page}))
			require.NoError(t, err)
			require.Len(t, set.Heads(), 1, "%s: %v", name, report)
			h := set.Heads()[0]
			assert.Len(t, []rune(h.Meta.Title), item.MaxTitle, name)
			assert.Contains(t, content(t, set, h.Address.String()), long, name)
		})
	}
}
