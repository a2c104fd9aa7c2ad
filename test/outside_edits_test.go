package test

import (
	"bytes"
	"fmt"
	"io/fs"
	"math/rand"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"compactparcel/core/markup"
	"compactparcel/core/outside"
	"compactparcel/core/span"
	"compactparcel/internal/api"
	"compactparcel/test/harness"
	"compactparcel/test/seed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Sites in the style of strangers are adopted, published, edited at many random places with
// repeated and inserted blocks among them, brought home and published again: byte for byte.
func TestEditsOfStrangersComeHome(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	for _, x := range strangers(t) {
		editsComeHome(t, s, x, 40)
	}
}

// The same with sites from public packages, in the long tests.
func TestEditsOfPublicSitesComeHome(t *testing.T) {
	sites := publicSites(t)
	s := harness.Start(t, "--demo=sites")
	for _, x := range sites {
		editsComeHome(t, s, x, 200)
	}
}

// A page whose folder moved keeps its identity, links to it follow, in texts that were edited too; a
// file that became a link is no deletion; a list of files that is another site's, or damaged, is
// refused.
func TestAPageMovedOutside(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	made := filepath.Join(t.TempDir(), "made")
	s.Must("site", "publish", "kestrel-refuge", made)
	dir, err := filepath.EvalSymlinks(made)
	require.NoError(t, err)
	require.NoError(t, os.Rename(filepath.Join(dir, "contact"), filepath.Join(dir, "write-to-us")))
	edit(t, filepath.Join(dir, "write-to-us", "index.html"), "How to find us", "How to come to us")
	edit(t, filepath.Join(dir, "getting-here", "index.html"), "The bus ends", "The last bus ends")
	prices := filepath.Join(dir, "bunks-and-prices", "index.html")
	require.NoError(t, os.Rename(prices, prices+".old"))
	require.NoError(t, os.Symlink(prices+".old", prices))
	var got api.AdoptedAgain
	s.JSON(&got, "site", "adopt", made, "--name", "kestrel-refuge", "--again")
	require.NotNil(t, got.Draft)
	said := map[string]string{}
	for _, c := range got.Changes {
		said[c.Path] += string(c.What) + " " + text(c.Message) + "; "
	}
	assert.Contains(t, said["write-to-us/index.html"], "it moved from /contact/ to /write-to-us/")
	assert.Contains(t, said["bunks-and-prices/index.html"], "it is a link now")
	s.Must("site", "go-live", "kestrel-refuge", fmt.Sprint(*got.Draft))
	page := s.Must("site", "show", "kestrel-refuge", "page/contact")
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/write-to-us/").Status)
	assert.Contains(t, page, "How to come to us")
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "menu/main"), "/write-to-us/")
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "page/getting-here"), "The last bus ends")
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/bunks-and-prices/").Status)

	assert.Contains(t, s.Client("site", "adopt", made, "--name", "larch-saddle", "--again").Err, "kestrel-refuge")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "_cp", "release.json"), []byte("{"), 0o644))
	assert.Contains(t, s.Client("site", "adopt", made, "--name", "kestrel-refuge", "--again").Err, "damaged")
}

// Edits in a folder that a draft was published to come home while it is open, and when it went live.
func TestEditsOfAPublishedDraftComeHome(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	file := filepath.Join(t.TempDir(), "note.html")
	require.NoError(t, os.WriteFile(file, []byte("<!doctype html><title>Note</title><main><p>New note</p></main>"),
		0o644))
	s.Must("site", "put", "kestrel-refuge", "page/note", file, "--path", "/note/")
	made := filepath.Join(t.TempDir(), "made")
	s.Must("site", "publish", "kestrel-refuge", made, "--draft", "1")
	edit(t, filepath.Join(made, "note", "index.html"), "New note", "Newer note")
	edit(t, filepath.Join(made, "getting-here", "index.html"), "The bus ends", "The last bus ends")
	var got api.AdoptedAgain
	s.JSON(&got, "site", "adopt", made, "--name", "kestrel-refuge", "--again")
	require.NotNil(t, got.Draft)
	said := map[string]string{}
	for _, c := range got.Changes {
		said[c.Path] = text(c.Message)
	}
	assert.Contains(t, said["note/index.html"], "it stands in draft 1 alone")
	s.Must("site", "discard", "kestrel-refuge", fmt.Sprint(*got.Draft))
	s.Must("site", "go-live", "kestrel-refuge", "1")
	s.JSON(&got, "site", "adopt", made, "--name", "kestrel-refuge", "--again")
	require.NotNil(t, got.Draft)
	s.Must("site", "go-live", "kestrel-refuge", fmt.Sprint(*got.Draft))
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "page/note"), "Newer note")
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "page/getting-here"), "The last bus ends")
}

func editsComeHome(t *testing.T, s *harness.Service, x stranger, places int) {
	begin := seed.Of(t)
	for _, parts := range []string{"none", "auto"} {
		name := x.name + "-" + parts
		s.Must("site", "adopt", x.folder, "--name", name, "--parts", parts)
		made, again := filepath.Join(t.TempDir(), name), filepath.Join(t.TempDir(), name+"-again")
		links := []string{"rooted", "relative"}[len(parts)%2]
		s.Must("site", "publish", name, made, "--base", "/huts/", "--links", links)
		dir, err := filepath.EvalSymlinks(made)
		require.NoError(t, err)
		var pages []string
		require.NoError(t, filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
			if err == nil && strings.HasSuffix(p, ".html") && d.Name() != "404.html" { // which publishing writes
				pages = append(pages, p)
			}
			return err
		}))
		r := rand.New(rand.NewSource(begin + int64(len(name))))
		for range places {
			scrawl(t, r, pages[r.Intn(len(pages))])
		}
		var got api.AdoptedAgain
		s.JSON(&got, "site", "adopt", made, "--name", name, "--again")
		require.NotNil(t, got.Draft, name)
		reported := map[string][][2]int{}
		for _, c := range got.Changes {
			assert.NotEqual(t, api.FileChangeKindConflict, c.What, "%s: %s %s", name, c.Path, text(c.Message))
		}
		taken := 0
		for _, e := range got.Edits {
			if e.State == outside.Taken {
				taken++
				continue
			}
			line, end := 0, 1<<30
			if e.Line != nil {
				line, end = *e.Line, *e.EndLine
			}
			reported[e.Path] = append(reported[e.Path], [2]int{line, end})
			assert.NotEqual(t, "none", parts, "%s: %s:%d %s, %s → %s", name, e.Path, line, text(e.Message),
				text(e.Before), text(e.After))
		}
		assert.Greater(t, taken, places/8, name)
		s.Must("site", "go-live", name, fmt.Sprint(*got.Draft))
		s.Must("site", "publish", name, again, "--base", "/huts/", "--links", links)
		for _, p := range pages {
			rel, err := filepath.Rel(dir, p)
			require.NoError(t, err)
			sameBut(t, p, filepath.Join(again, rel), reported[filepath.ToSlash(rel)], name)
		}
	}
}

// sameBut holds that two files are the same but for some lines of the first and what is next to
// them.
func sameBut(t *testing.T, file, other string, but [][2]int, what string) {
	a, err := os.ReadFile(file)
	require.NoError(t, err)
	b, err := os.ReadFile(other)
	require.NoError(t, err)
	if len(but) == 0 {
		assert.True(t, bytes.Equal(a, b), "%s: %s comes out otherwise", what, file)
		return
	}
	kept := map[string]bool{}
	for _, l := range bytes.Split(b, []byte("\n")) {
		kept[string(l)] = true
	}
	for n, l := range bytes.Split(a, []byte("\n")) {
		near := slices.ContainsFunc(but, func(x [2]int) bool { return n+2 >= x[0] && n <= x[1] })
		assert.True(t, near || kept[string(l)], "%s: %s, line %d is lost: %s %v", what, file, n+1, l, but)
	}
}

// scrawl edits a page at a random place: words, an attribute, a block repeated or put in.
func scrawl(t *testing.T, r *rand.Rand, file string) {
	src, err := os.ReadFile(file)
	require.NoError(t, err)
	var texts, blocks []*markup.Node
	for _, n := range markup.Parse(src, "").All {
		in := map[string]bool{}
		for up := n; up != nil; up = up.Parent {
			in[up.Tag] = true
		}
		if !n.Own || !n.Closed || n.Space != "" || !in["body"] || n.Tag == "body" || in["script"] || in["style"] ||
			in["template"] || in["noscript"] {
			continue
		}
		if len(n.Children) == 0 && len(strings.TrimSpace(n.Text())) > 4 {
			texts = append(texts, n)
		}
		if slices.Contains([]string{"div", "li", "p", "section", "a", "article"}, n.Tag) {
			blocks = append(blocks, n)
		}
	}
	if len(texts) == 0 || len(blocks) == 0 {
		return
	}
	x, b := texts[r.Intn(len(texts))], blocks[r.Intn(len(blocks))]
	var e span.Edit
	switch r.Intn(4) {
	case 0:
		e = span.Edit{Span: x.Inner, New: fmt.Appendf(nil, "Other words &amp; number %d", r.Intn(1000))}
	case 1:
		e = span.Edit{Span: span.Span{Start: b.Outer().End, End: b.Outer().End}, New: b.Outer().Of(src)}
	case 2:
		e = span.Edit{Span: span.Span{Start: b.Outer().Start, End: b.Outer().Start},
			New: fmt.Appendf(nil, "<p class=\"put\">Put in <b>%d</b></p>\n", r.Intn(1000))}
	default:
		e = markup.SetAttr(b, "data-note", fmt.Sprint(r.Intn(1000)))
	}
	out, err := span.Apply(src, []span.Edit{e})
	require.NoError(t, err)
	if len(out) < 1<<20 {
		require.NoError(t, os.WriteFile(file, out, 0o644))
	}
}
