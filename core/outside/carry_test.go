package outside

import (
	"bytes"
	"fmt"
	"io"
	"maps"
	"math/rand"
	"os"
	"slices"
	"sort"
	"strings"
	"testing"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
	"compactparcel/test/seed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// published is a site in a folder, in memory.
type published struct {
	rel   *folder.Release
	files map[string][]byte
}

func publish(t require.TestingT, c item.Collection, base, links string) published {
	p := published{files: map[string][]byte{}}
	var err error
	p.rel, _, err = folder.Publish(c, folder.Options{Site: "s", Base: base, Links: links},
		func(path string, _ folder.Published, open func() (io.ReadCloser, error)) error {
			r, err := open()
			if err != nil {
				return err
			}
			defer r.Close()
			p.files[path], err = io.ReadAll(r)
			return err
		})
	require.NoError(t, err)
	return p
}

// carried brings edited files home and publishes what came of it.
func carried(t require.TestingT, c item.Collection, p published, files map[string][]byte, shared Shared) (*Carried,
	published) {
	f := Folder{Release: p.rel, Then: c, Shared: shared,
		Read: func(path string) ([]byte, error) { return files[path], nil }}
	for path, b := range files {
		if x, known := p.rel.Files[path]; known && item.DigestOf(b) != x.Digest {
			f.Changed = append(f.Changed, path)
		}
	}
	sort.Strings(f.Changed)
	got, err := Carry(f)
	require.NoError(t, err)
	over := item.NewOver(c)
	for a, text := range got.Texts {
		h, ok := c.Find(a)
		require.True(t, ok, a)
		over.Set(h, text)
	}
	for a, title := range got.Titles {
		h, _ := over.Find(a)
		b, err := item.Read(over, h)
		require.NoError(t, err)
		h.Meta.Title = title
		over.Set(h, b)
	}
	return got, publish(t, over, p.rel.Base, p.rel.Links)
}

// comesHome holds that publishing again gives the edited files but for what was reported, and for lists of records
// that nobody edited: they follow what was edited of a record elsewhere.
func comesHome(t require.TestingT, got *Carried, was, again published, files map[string][]byte, what string) {
	reported := map[string]map[int]bool{}
	for _, l := range got.Lines {
		if l.State != Taken {
			if reported[l.Path] == nil {
				reported[l.Path] = map[int]bool{}
			}
			for n := l.Line; n <= max(l.Line, l.End); n++ { // what is repeated can be told to stand before or behind
				reported[l.Path][n] = true
			}
		}
	}
	for _, path := range slices.Sorted(maps.Keys(files)) {
		if !strings.HasSuffix(path, ".html") {
			continue
		}
		for _, h := range align(again.files[path], files[path]) {
			n, _ := span.Line(files[path], h.New.Start)
			m, _ := span.Line(files[path], h.New.End)
			if line := lineAt(files[path], h.New.Start); bytes.Equal(files[path], was.files[path]) &&
				bytes.Contains(line, []byte("data-field=")) {
				continue
			}
			near := false
			for l := n - 1; l <= m+1; l++ {
				near = near || reported[path][l]
			}
			assert.True(t, near, "%s: %s, line %d: publishing again writes %q where the file has %q, and nothing "+
				"says so\n%v",
				what, path, n, h.Old.Of(again.files[path]), h.New.Of(files[path]), linesOf(got, path))
		}
	}
}

// lineAt gives the line that a place is in.
func lineAt(src []byte, at int) []byte {
	from := bytes.LastIndexByte(src[:at], '\n') + 1
	line, _, _ := bytes.Cut(src[from:], []byte("\n"))
	return line
}

func linesOf(got *Carried, path string) string {
	out := ""
	for _, l := range got.Lines {
		if l.Path == path {
			out += fmt.Sprintf("%+v\n", l)
		}
	}
	return out
}

func demoSites(t testing.TB) map[string]*item.Set {
	out := map[string]*item.Set{}
	sites, err := os.ReadDir("../../demo/sites")
	require.NoError(t, err)
	for _, s := range sites {
		set, _, err := folder.Read(os.DirFS("../../demo/sites/" + s.Name()))
		require.NoError(t, err)
		out[s.Name()] = set
	}
	return out
}

// scribble edits a page as people do, at a random place.
func scribble(r *rand.Rand, src []byte) []byte {
	tree := markup.Parse(src, "")
	var blocks, texts []*markup.Node
	for _, n := range tree.All {
		inBody := false
		for up := n; up != nil; up = up.Parent {
			inBody = inBody || up.Tag == "body"
		}
		if !n.Own || !n.Closed || !inBody || n.Tag == "body" {
			continue
		}
		switch n.Tag {
		case "li", "p", "section", "article", "div", "figure", "dt", "dd", "tr", "a":
			blocks = append(blocks, n)
		}
		if len(n.Children) == 0 && strings.TrimSpace(n.Text()) != "" {
			texts = append(texts, n)
		}
	}
	if len(blocks) == 0 || len(texts) == 0 {
		return src
	}
	b, x := blocks[r.Intn(len(blocks))], texts[r.Intn(len(texts))]
	var e span.Edit
	switch r.Intn(6) {
	case 0, 1: // words
		e = span.Edit{Span: x.Inner, New: []byte(fmt.Sprintf("Words %d &amp; more", r.Intn(1000)))}
	case 2: // repeated
		e = span.Edit{Span: span.Span{Start: b.Outer().End, End: b.Outer().End}, New: b.Outer().Of(src)}
	case 3: // put in
		e = span.Edit{Span: span.Span{Start: b.Outer().Start, End: b.Outer().Start},
			New: []byte(fmt.Sprintf("<p class=\"new\">New %d</p>\n", r.Intn(1000)))}
	case 4: // taken away
		e = span.Edit{Span: b.Outer()}
	default: // an attribute
		e = markup.SetAttr(b, "class", fmt.Sprintf("c%d", r.Intn(100)))
	}
	out, err := span.Apply(src, []span.Edit{e})
	if err != nil {
		return src
	}
	return out
}

// Edits at random places of the demo sites, published in every way, come home, or are reported:
// publishing again gives the edited folder byte for byte but for what was.
func TestRandomEditsComeHome(t *testing.T) {
	taken, not, begin := 0, 0, seed.Of(t)
	for name, set := range demoSites(t) {
		for _, way := range [][2]string{{"/", "rooted"}, {"/huts/", "rooted"}, {"/", "relative"}, {"/", "file"}} {
			p := publish(t, set, way[0], way[1])
			var pages []string
			for path := range p.files {
				if strings.HasSuffix(path, ".html") {
					pages = append(pages, path)
				}
			}
			sort.Strings(pages)
			for n := range int64(4) {
				r := rand.New(rand.NewSource(begin + n))
				files := map[string][]byte{}
				for path, b := range p.files {
					files[path] = b
				}
				for range 1 + r.Intn(10) {
					path := pages[r.Intn(len(pages))]
					files[path] = scribble(r, files[path])
				}
				shared := SharedWays[n%2]
				got, again := carried(t, set, p, files, shared)
				what := fmt.Sprintf("%s %v seed %d", name, way, begin+n)
				if shared == Ask {
					comesHome(t, got, p, again, files, what)
				}
				for _, l := range got.Lines {
					if l.State == Taken {
						taken++
					} else {
						not++
					}
				}
			}
		}
	}
	t.Logf("%d edits taken, %d reported", taken, not)
	assert.Greater(t, taken, not/4)
}

// ownEdits edits what is a page's own: words within its text, elements put in, repeated, taken away.
func ownEdits(r *rand.Rand, m *sourcemap.Map, src []byte, n int) []byte {
	var texts, blocks []span.Span
	own := func(at span.Span) bool {
		for i := at.Start; i < at.End; {
			s, ok := m.At(i)
			if !ok || s.Kind == sourcemap.Made || s.Kind == sourcemap.Encoded || s.Place.Occurrence != 0 {
				return false
			}
			i = s.End
		}
		return true
	}
	for _, x := range markup.Parse(src, "").All {
		if !x.Own || !x.Closed || x.Space != "" || !own(x.Outer()) {
			continue
		}
		inBody, plain := false, true
		for up := x.Parent; up != nil; up = up.Parent {
			inBody, plain = inBody || up.Tag == "body", plain && up.Tag != "template"
		}
		if inBody && plain && x.Value("id") == "" {
			blocks = append(blocks, x.Outer())
			if len(x.Children) == 0 && len(x.Text()) > 4 && x.Tag != "script" && x.Tag != "style" && x.Tag[0] != 'h' {
				texts = append(texts, x.Inner)
			}
		}
	}
	var edits []span.Edit
	free := func(at span.Span) bool {
		return !slices.ContainsFunc(edits, func(e span.Edit) bool { return e.Start <= at.End && at.Start <= e.End })
	}
	for range n {
		if len(texts) == 0 || len(blocks) == 0 {
			break
		}
		x, b := texts[r.Intn(len(texts))], blocks[r.Intn(len(blocks))]
		e := span.Edit{Span: x, New: []byte(fmt.Sprintf("Other words, number %d", r.Intn(100)))}
		switch r.Intn(3) {
		case 0:
			e = span.Edit{Span: span.Span{Start: b.End, End: b.End}, New: b.Of(src)}
		case 1:
			e = span.Edit{Span: span.Span{Start: b.Start, End: b.Start}, New: []byte("<p>Put in <b>here</b></p>")}
		}
		if free(e.Span) && own(span.Span{Start: max(0, e.Start-1), End: e.End + 1}) {
			edits = append(edits, e)
		}
	}
	out, err := span.Apply(src, edits)
	if err != nil {
		return src
	}
	return out
}

// Edits of what is a page's own, in any pages at once, are all taken: publishing again gives the
// folder byte for byte.
func TestOwnEditsComeHomeByteForByte(t *testing.T) {
	all, begin := 0, seed.Of(t)
	sites := demoSites(t)
	for _, name := range slices.Sorted(maps.Keys(sites)) {
		set := sites[name]
		for _, way := range [][2]string{{"/", "rooted"}, {"/huts/", "relative"}, {"/", "file"}} {
			p := publish(t, set, way[0], way[1])
			show := folder.Renderer(set, way[0], way[1], "")
			for n := range int64(6) {
				r := rand.New(rand.NewSource(begin + n))
				files := map[string][]byte{}
				for _, path := range slices.Sorted(maps.Keys(p.files)) {
					b := p.files[path]
					files[path] = b
					if x := p.rel.Files[path]; x.Item.Kind == item.Page && strings.HasSuffix(path, ".html") &&
						r.Intn(2) == 0 {
						h, _ := set.Find(x.Item)
						o, err := show.Page(render.PageRequest{Slug: h.Meta.Slug, Mapped: true})
						require.NoError(t, err)
						files[path] = ownEdits(r, o.Map, b, 12)
					}
				}
				got, again := carried(t, set, p, files, Ask)
				what := fmt.Sprintf("%s %v seed %d", name, way, begin+n)
				for _, l := range got.Lines {
					all++
					assert.Equal(t, Taken, l.State, "%s: %+v", what, l)
				}
				for path, b := range files {
					if strings.HasSuffix(path, ".html") {
						assert.Equal(t, string(b), string(again.files[path]), "%s: %s", what, path)
					}
				}
			}
		}
	}
	t.Logf("%d edits", all)
	assert.Greater(t, all, 100)
}

// The same edit of a part on every page that shows it is one edit of the part; at some of them it
// is asked, or made for all, or, of a section, for that page alone.
func TestEditsOfWhatIsShared(t *testing.T) {
	set := demoSites(t)["kestrel-refuge"]
	p := publish(t, set, "/", "rooted")
	replaced := func(paths ...string) map[string][]byte {
		files := map[string][]byte{}
		for path, b := range p.files {
			files[path] = b
			if strings.HasSuffix(path, ".html") && (len(paths) == 0 || slices.Contains(paths, path)) {
				files[path] = []byte(strings.ReplaceAll(string(b), "A warm stove", "A hot stove"))
			}
		}
		return files
	}
	got, again := carried(t, set, p, replaced(), Ask)
	for _, l := range got.Lines {
		assert.Equal(t, Taken, l.State, "%+v", l)
	}
	for path, b := range replaced() {
		if strings.HasSuffix(path, ".html") {
			assert.Equal(t, string(b), string(again.files[path]), path)
		}
	}
	one := replaced("index.html")
	got, _ = carried(t, set, p, one, Ask)
	require.NotEmpty(t, got.Lines)
	assert.Equal(t, NotTaken, got.Lines[0].State)
	assert.Empty(t, got.Texts)
	got, again = carried(t, set, p, one, Everywhere)
	assert.Equal(t, Taken, got.Lines[0].State)
	assert.Contains(t, string(again.files["contact/index.html"]), "A hot stove")

	two := replaced("index.html")
	two["contact/index.html"] = []byte(strings.ReplaceAll(string(p.files["contact/index.html"]), "A warm", "A cold"))
	got, _ = carried(t, set, p, two, Everywhere)
	for _, l := range got.Lines {
		assert.Equal(t, NotTaken, l.State)
		assert.Contains(t, l.Why, "contact/index.html, index.html")
	}

	hours := map[string][]byte{}
	for path, b := range p.files {
		hours[path] = b
	}
	page := "getting-here/index.html"
	hours[page] = []byte(strings.Replace(string(p.files[page]), "Friday to", "Fridays to", 1))
	require.NotEqual(t, string(p.files[page]), string(hours[page]), "the page shows the opening hours")
	got, again = carried(t, set, p, hours, Here)
	for _, l := range got.Lines {
		assert.Equal(t, Taken, l.State, "%+v", l)
		assert.Equal(t, "for this place alone", l.Why)
	}
	assert.Equal(t, string(hours[page]), string(again.files[page]))
	assert.NotContains(t, string(again.files["index.html"]), "Fridays to")
}
