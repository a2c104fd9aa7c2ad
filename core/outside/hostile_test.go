package outside

import (
	"bytes"
	"fmt"
	"maps"
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// smallSite is a home page and another under one header with a menu.
func smallSite(home string) *item.Set {
	s := item.NewSet()
	put := func(a, text string, m item.Meta) {
		s.Put(item.Head{Address: item.MustAddress(a), Meta: m}, []byte(text))
	}
	page := func(main string) string {
		return "<!DOCTYPE html>\n<html lang=\"en\">\n<head><link rel=\"stylesheet\" " +
			"href=\"/stylesheets/site.css\"></head>\n" +
			"<body>\n<main>\n" + main + "\n</main>\n</body>\n</html>\n"
	}
	put("page/home", page(home), item.Meta{Slug: "/", Title: "Home"})
	put("page/walks", page("<p>Walks and <a href=\"/\">home</a></p>\n<p>Over the moor</p>\n<p>To the tarn</p>"),
		item.Meta{Slug: "/walks/", Title: "Walks"})
	put("part/top", `<header class="top"><cp-menu name="main"></cp-menu></header>`,
		item.Meta{Role: item.Header, Placement: &item.Placement{Where: []string{"everywhere"}}})
	put("menu/main", `{"title":"Main","entries":[{"label":"Home & `+
		`hearth","to":"/"},{"label":"Walks","to":"/walks/"}]}`,
		item.Meta{})
	put("stylesheet/site", ".top { color: red; background: url(/media/a.png) }\n", item.Meta{})
	put("media/a.png", "a picture", item.Meta{MediaType: "image/png", Kept: []string{"/img/a.png"}})
	put("setting/title", `"Highmoor"`, item.Meta{})
	return s
}

func edited(p published, edits map[string]func([]byte) []byte) map[string][]byte {
	files := maps.Clone(p.files)
	for path, edit := range edits {
		files[path] = edit(p.files[path])
	}
	return files
}

func replace(old, now string) func([]byte) []byte {
	return func(b []byte) []byte { return bytes.Replace(b, []byte(old), []byte(now), 1) }
}

// What an editor changed throughout is set aside and told once; the edit in it is taken.
func TestWhatAnEditorChangedThroughoutIsSetAside(t *testing.T) {
	set := smallSite("<p>Café by the door</p>")
	p := publish(t, set, "/", "rooted")
	for name, change := range map[string]struct {
		with func([]byte) []byte
		told string
	}{
		"byte-order mark": {func(b []byte) []byte { return append([]byte("\ufeff"), b...) }, "byte-order mark"},
		"line ends": {func(b []byte) []byte { return bytes.ReplaceAll(b, []byte("\n"), []byte("\r\n")) },
			"CR LF"},
		"encoding": {func(b []byte) []byte {
			return bytes.ReplaceAll(bytes.ReplaceAll(b, []byte("é"), []byte{0xe9}), []byte("·"), []byte{0xb7})
		}, "windows-1252"},
	} {
		t.Run(name, func(t *testing.T) {
			files := edited(p, map[string]func([]byte) []byte{"index.html": func(b []byte) []byte {
				return change.with(replace("by the door", "by the stove")(b))
			}})
			got, again := carried(t, set, p, files, Ask)
			require.Len(t, got.Lines, 2, "%s: %v", name, got.Lines)
			assert.Equal(t, Told, got.Lines[0].State, name)
			assert.Contains(t, got.Lines[0].Why, change.told, name)
			assert.Equal(t, Taken, got.Lines[1].State, name)
			assert.Contains(t, string(again.files["index.html"]), "Café by the stove", name)
		})
	}
}

// A release that this engine writes otherwise is not guessed at.
func TestAReleaseOfAnotherEngineIsNotGuessedAt(t *testing.T) {
	set := smallSite("<p>Door</p>")
	p := publish(t, set, "/", "rooted")
	x := p.rel.Files["index.html"]
	x.Digest = item.DigestOf([]byte("another"))
	p.rel.Files["index.html"] = x
	got, _ := carried(t, set, p, edited(p, map[string]func([]byte) []byte{"index.html": replace("Door", "Gate")}), Ask)
	assert.Empty(t, got.Texts)
	require.Len(t, got.Lines, 1)
	assert.Equal(t, NotTaken, got.Lines[0].State)
	assert.Contains(t, got.Lines[0].Why, "page engine")
}

// Many edits at once, and a page rewritten from end to end.
func TestVeryManyEdits(t *testing.T) {
	var list strings.Builder
	for i := range 5000 {
		fmt.Fprintf(&list, "<p>Entry %d of <b>many</b></p>\n", i)
	}
	set := smallSite(list.String())
	p := publish(t, set, "/", "relative")
	files := edited(p, map[string]func([]byte) []byte{"index.html": func(b []byte) []byte {
		return bytes.ReplaceAll(bytes.ReplaceAll(b, []byte("Entry"), []byte("Row")), []byte("many"), []byte("few"))
	}})
	got, again := carried(t, set, p, files, Ask)
	assert.Len(t, got.Lines, 10_000)
	assert.Equal(t, string(files["index.html"]), string(again.files["index.html"]))

	files = edited(p, map[string]func([]byte) []byte{"index.html": func(b []byte) []byte {
		from, to := bytes.Index(b, []byte("<main>")), bytes.Index(b, []byte("</main>"))
		return []byte(string(b[:from]) + "<main>\n<h1>All new</h1>\n" + strings.Repeat("<i>x</i>",
			300) + string(b[to:]))
	}})
	got, again = carried(t, set, p, files, Ask)
	assert.Equal(t, string(files["index.html"]), string(again.files["index.html"]))
	for _, l := range got.Lines {
		assert.Equal(t, Taken, l.State)
	}
}

// A label edited on every page is one of the menu; what is not plain text there is not taken, and
// what the engine writes is never.
func TestEditsOfWhatIsWrittenInAnotherForm(t *testing.T) {
	set := smallSite("<p>Door</p>")
	p := publish(t, set, "/", "rooted")
	all := func(edit func([]byte) []byte) map[string][]byte {
		return edited(p, map[string]func([]byte) []byte{"index.html": edit, "walks/index.html": edit,
			"404.html": edit})
	}
	got, again := carried(t, set, p, all(replace("Home &amp; hearth", "Hut &amp; &quot;stove&quot;")), Everywhere)
	assert.NotEmpty(t, got.Texts, "%+v", got.Lines)
	assert.Contains(t, string(got.Texts[item.MustAddress("menu/main")]), `"label":"Hut & \"stove\""`)
	assert.Contains(t, string(again.files["walks/index.html"]), "Hut &amp; ")

	got, _ = carried(t, set, p, all(replace(">Walks</a>", "><b>Walks</b></a>")), Everywhere)
	assert.Empty(t, got.Texts)
	for _, l := range got.Lines {
		assert.Equal(t, NotTaken, l.State)
	}
	got, again = carried(t, set, p, edited(p, map[string]func([]byte) []byte{
		"index.html": replace("<title>Home", "<title>At home"), "walks/index.html": replace("<p>Walks", "<p>Paths")}),
		Ask)
	assert.Equal(t, "At home", got.Titles[item.MustAddress("page/home")])
	assert.Contains(t, string(again.files["walks/index.html"]), "<p>Paths and <a href=\"/\">home</a>")
}

// A page whose file moved is the same page at another address; references in new text are those of
// the site.
func TestAPageThatMoved(t *testing.T) {
	set := smallSite("<p>Door</p>")
	p := publish(t, set, "/huts/", "relative")
	text := replace("Over the moor", `Over the moor and <img src="../img/a.png" alt=""><a href="index.html">here</a>`)(
		p.files["walks/index.html"])
	read := func(path string) ([]byte, error) {
		if path == "paths/index.html" {
			return text, nil
		}
		return p.files[path], nil
	}
	moves, err := Moves(p.rel, []string{"walks/index.html"}, []string{"paths/index.html", "other.txt"},
		func(path string) ([]byte, error) { return p.files[path], nil }, read)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"walks/index.html": "paths/index.html"}, moves)
	got, err := Carry(Folder{Release: p.rel, Then: set, Read: read, Moved: moves})
	require.NoError(t, err)
	assert.Equal(t, "/paths/", got.Slugs[item.MustAddress("page/walks")])
	assert.Contains(t, string(got.Texts[item.MustAddress("page/walks")]), `<img src="/img/a.png" alt="">`)
	moves, err = Moves(p.rel, []string{"walks/index.html"}, []string{"paths/index.html"},
		func(path string) ([]byte, error) { return p.files[path], nil },
		func(string) ([]byte, error) { return []byte("<p>something else</p>"), nil })
	require.NoError(t, err)
	assert.Empty(t, moves)
	moves, err = Moves(p.rel, []string{"walks/index.html"}, []string{"paths/index.html"},
		func(string) ([]byte, error) { return []byte{}, nil }, func(string) ([]byte, error) { return nil, nil })
	require.NoError(t, err)
	assert.Empty(t, moves, "what is no text is like no page, not even an empty one")
}

// A stylesheet edited in its file comes home with its references; in two files differently, it is
// not taken.
func TestAStylesheetInItsFile(t *testing.T) {
	set := smallSite("<p>Door</p>")
	p := publish(t, set, "/", "rooted")
	path := ""
	for name, x := range p.rel.Files {
		if x.Item.Kind == item.Stylesheet {
			path = name
		}
	}
	require.NotEmpty(t, path)
	got, _ := carried(t, set, p, edited(p, map[string]func([]byte) []byte{path: replace("color: red", "color: blue")}),
		Ask)
	assert.Equal(t, ".top { color: blue; background: url(/media/a.png) }\n",
		string(got.Texts[item.MustAddress("stylesheet/site")]))
}

// The home page that a setting names stands at both its addresses: an edit at one is one of the page,
// different ones at both are not taken.
func TestTheHomePageAtBothItsAddresses(t *testing.T) {
	set := smallSite("<p>Door</p>")
	set.Put(item.Head{Address: item.MustAddress("setting/home")}, []byte(`"page/walks"`))
	p := publish(t, set, "/", "relative")
	assert.Contains(t, string(p.files["index.html"]), "Over the moor")
	got, again := carried(t, set, p, edited(p, map[string]func([]byte) []byte{
		"index.html": replace("Over the moor", "Over the hill")}), Ask)
	for _, l := range got.Lines {
		assert.Equal(t, Taken, l.State, "%+v", l)
	}
	assert.Contains(t, string(again.files["index.html"]), "Over the hill")
	assert.Contains(t, string(again.files["walks/index.html"]), "Over the hill")
	got, _ = carried(t, set, p, edited(p, map[string]func([]byte) []byte{
		"index.html":       replace("Over the moor", "Over the hill"),
		"walks/index.html": replace("Over the moor", "Over the fen")}), Ask)
	assert.Empty(t, got.Texts)
}
