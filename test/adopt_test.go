package test

import (
	"archive/zip"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/outside"
	"compactparcel/demo"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Story 3 in the client: the loose folder becomes a site, what repeats becomes parts,
// it is published back, edited outside, and the edits come home.
func TestAdoptingCairnEdge(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	from := filepath.Join(s.Data, demo.Loose)
	r := s.Client("site", "adopt", from, "--name", "cairn-edge", "--parts", "ask")
	assert.Equal(t, 3, r.Code, "proposals wait for a decision")
	for _, want := range []string{"7 × page", "the header on 8 of 8 pages", "mark of the current page",
		"record-type/log", "tokens/site", "site-only until you say otherwise"} {
		assert.Contains(t, strings.Join(strings.Fields(r.Out), " "), want)
	}
	assert.Contains(t, s.Must("site", "show", "cairn-edge", "setting/language"), `"en"`, "as all its pages say")
	plain := filepath.Join(t.TempDir(), "plain")
	s.Must("site", "publish", "cairn-edge", plain)
	out := s.Must("site", "accept", "cairn-edge", "part/site-header", "part/site-footer", "section/ask",
		"record-type/log", "tokens/site")
	assert.Contains(t, out, "draft 1")
	assert.NotContains(t, out, "stays as it is")
	s.Must("site", "go-live", "cairn-edge", "1")
	assert.Contains(t, s.Must("site", "surround", "cairn-edge", "/walks/tarn.html"), "part/site-header")
	assert.Contains(t, s.Must("site", "proposals", "cairn-edge"), "Nothing repeats")

	made := filepath.Join(t.TempDir(), "made")
	assert.Contains(t, s.Must("site", "publish", "cairn-edge", made), "as release 1")
	assert.Contains(t, s.Must("site", "publish", "cairn-edge", made), "already up to date with cairn-edge")
	for _, p := range []string{"/index.html", "/walks/tarn.html", "/404.html"} {
		for width, n := range b.Differ("cairn", from+"#"+p, made+"#"+p, 390, 1280) {
			assert.Zero(t, n, "%s at %d px: with parts, records and tokens it looks as the designer left it", p, width)
		}
	}

	// Edits made outside are noticed, not written over, and come back where they belong.
	edit(t, filepath.Join(made, "walks", "index.html"), "one hour", "ninety minutes")
	edit(t, filepath.Join(made, "hut.html"), "2,030 m", "2,031 m")
	require.NoError(t,
		os.WriteFile(filepath.Join(made, "ford.html"), []byte("<!doctype html><title>Ford</title><p>open"), 0o644))
	r = s.Client("site", "publish", "cairn-edge", made)
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Err, "hut.html was changed")
	source := s.Must("site", "source", "cairn-edge", "/hut.html", "--element", "footer")
	assert.Contains(t, source, "part/site-footer:1")
	assert.Contains(t, source, "8 pages")
	asked := s.Must("site", "adopt", made, "--name", "cairn-edge", "--again")
	for _, want := range []string{"not taken", "part/site-footer", "1 edit not taken", "--shared everywhere"} {
		assert.Contains(t, asked, want, "an edit of the footer on one page alone is asked about")
	}
	s.Must("site", "discard", "cairn-edge", "2")
	var again api.AdoptedAgain
	s.JSON(&again, "site", "adopt", made, "--name", "cairn-edge", "--again", "--shared", "everywhere")
	require.NotNil(t, again.Draft)
	require.Len(t, again.Edits, 2)
	for _, e := range again.Edits {
		assert.Equal(t, outside.Taken, e.State, "%+v", e)
	}
	got := map[string]string{}
	for _, c := range again.Changes {
		got[c.Address.String()] = string(c.What)
	}
	assert.Equal(t, map[string]string{"page/walks": "changed", "part/site-footer": "changed", "page/ford": "added"},
		got)
	s.Must("site", "go-live", "cairn-edge", "3")
	assert.Contains(t, s.Must("site", "show", "cairn-edge", "part/site-footer"), "2,031 m",
		"an edit of the footer is one of the part")
	s.Must("site", "publish", "cairn-edge", made, "--over")
	index, err := os.ReadFile(filepath.Join(made, "index.html"))
	require.NoError(t, err)
	assert.Contains(t, string(index), "2,031 m", "and every page has it")
	assert.Contains(t, s.Must("site", "publish", "cairn-edge", made, "--back", "1"), "release 1")

	// The designer goes on in the loose folder: that comes in, too.
	edit(t, filepath.Join(from, "prices.html"), "<td>22</td>", "<td>24</td>")
	edit(t, filepath.Join(from, "style.css"), "padding: 6rem 2rem", "padding: 7rem 2rem")
	require.NoError(t, os.Remove(filepath.Join(from, "humans.txt")))
	s.JSON(&again, "site", "adopt", from, "--name", "cairn-edge", "--again")
	got = map[string]string{}
	for _, c := range again.Changes {
		got[c.Path] = string(c.What) + text(c.Message)
	}
	assert.Equal(t, map[string]string{"prices.html": "changed", "style.css": "changed", "humans.txt": "removed"}, got)
	s.Must("site", "go-live", "cairn-edge", "4")
	assert.Contains(t, s.Must("site", "show", "cairn-edge", "page/prices"), `<cp-part role="header">`,
		"the page goes on using the parts")
	assert.Contains(t, s.Must("site", "adopt", from, "--name", "cairn-edge", "--again"), "is up to date with it")

	// An outlet follows what goes live.
	assert.Contains(t, s.Must("site", "outlet", "add", "cairn-edge", "main", "--base", "/edge/"), "Release 1 is there")
	outlet := filepath.Join(s.Data, "outlets", "cairn-edge", "main")
	prices, err := os.ReadFile(filepath.Join(outlet, "prices.html"))
	require.NoError(t, err)
	assert.Contains(t, string(prices), `href="/edge/hut.html"`)
	edit(t, filepath.Join(from, "prices.html"), "<td>24</td>", "<td>25</td>")
	s.Must("site", "adopt", from, "--name", "cairn-edge", "--again")
	s.Must("site", "go-live", "cairn-edge", "5")
	prices, err = os.ReadFile(filepath.Join(outlet, "prices.html"))
	require.NoError(t, err)
	assert.Contains(t, string(prices), "<td>25</td>")
	assert.Contains(t, s.Must("site", "outlet", "list", "cairn-edge"), "up to date")
	s.Must("site", "outlet", "publish", "cairn-edge", "main", "--back", "1")
	prices, err = os.ReadFile(filepath.Join(outlet, "prices.html"))
	require.NoError(t, err)
	assert.Contains(t, string(prices), "<td>24</td>")
	s.Must("site", "outlet", "remove", "cairn-edge", "main")
	assert.FileExists(t, filepath.Join(outlet, "prices.html"), "the folder stays")
}

func edit(t *testing.T, file, old, now string) {
	t.Helper()
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	require.Contains(t, string(b), old)
	require.NoError(t, os.WriteFile(file, []byte(strings.ReplaceAll(string(b), old, now)), 0o644))
}

// zipOf packs a folder as somebody would do by hand.
func zipOf(t *testing.T, dir, file string) {
	t.Helper()
	f, err := os.Create(file)
	require.NoError(t, err)
	z := zip.NewWriter(f)
	require.NoError(t, z.AddFS(os.DirFS(dir)))
	require.NoError(t, z.Close())
	require.NoError(t, f.Close())
}

// Story 3 in the console.
func TestAdoptingInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/sites")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("A new site")
	file := filepath.Join(t.TempDir(), "cairn-edge.zip")
	zipOf(t, filepath.Join(s.Data, demo.Loose), file)
	b.Click(`input[name="site-from"][value="folder"]`)
	b.Do(chromedp.SetUploadFiles(`[data-new-site] input[type=file]`, []string{file}))
	b.Sees("8 pages and")
	b.Type("#site-name", "larch-saddle")
	b.Sees("There is already a site of this name")
	b.Type("#site-name", "cairn-edge")
	b.Press("Make the site")
	b.Sees("What was taken")
	b.Sees("the header on 8 of 8 pages")
	b.Sees("98 % alike, sure")
	b.Shot("console-adopt")
	b.Click(`[data-proposal="record-type/log"]`)
	b.Click(`[data-proposal="tokens/site"]`)
	b.Press("Put 5 into a draft")
	b.Sees("5 of them are in draft 1")
	b.Go(s.Console + "/sites/cairn-edge")
	b.Press("Go live…")
	b.Press("Go live now")
	b.Confirm()
	b.Sees("It is live")
	b.Go(s.Console + "/sites/cairn-edge/history")
	b.Sees("5 proposals")
	b.Go(s.Console + "/sites/cairn-edge")
	b.Sees("Site header")
	b.Go(s.Console + "/sites/cairn-edge/page/hut")
	b.Sees("header: part/site-header, placed on everywhere")
	b.Go(s.Console + "/sites/cairn-edge/publishing")
	b.Sees("No outlet yet")
	b.Type("#outlet-name", "main")
	b.Press("Add and publish")
	b.Sees("release 1")
	edit(t, filepath.Join(s.Data, "outlets", "cairn-edge", "main", "contact.html"), "Your words", "Your question")
	b.Press("Publish now")
	b.Sees("contact.html was changed")
	b.Press("Overwrite")
	b.Confirm()
	b.Sees("shows release 2")
	zipOf(t, filepath.Join(s.Data, "outlets", "cairn-edge", "main")+".releases/1", file)
	b.Do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	b.Sees("The edits are in draft 2")
	b.Sees("Every edit within the files")
	b.Sees("contact.html:")
	b.Go(s.Console + "/sites/cairn-edge/page/hut")
	b.Press("Where it comes from")
	b.Type("input[type=number]", "44")
	b.Sees("part/site-footer")
	b.Sees("8 pages")
	// Which scripts of the heads may travel is said with a switch, and comes into a draft.
	b.Go(s.Console + "/sites/cairn-edge/setting/head-scripts")
	b.Sees("counts visits")
	b.Click(`[role=switch]`)
	b.Sees("May travel in kits")
	b.Press("Put the edit into a draft")
	b.Sees("It is in draft 3")
	s.Must("site", "go-live", "cairn-edge", "3")
	assert.Contains(t, s.Must("site", "scripts", "cairn-edge"), "portable")
	// What a kit's changes ask for.
	s.Must("kit", "new", "edge@1.0.0", "--license", "CC-BY-4.0")
	s.Must("kit", "add", "edge@1.0.0", "part/site-footer", "--from", "cairn-edge")
	s.Must("kit", "seal", "edge@1.0.0")
	s.Must("kit", "new", "edge@1.0.1", "--license", "CC-BY-4.0")
	s.Must("kit", "add", "edge@1.0.1", "part/site-header", "--from", "cairn-edge")
	assert.Contains(t, s.Client("kit", "seal", "edge@1.0.1").Err, "ask for 2.0.0")
	b.Go(s.Console + "/kits/edge/1.0.1")
	b.Sees("1.0.1 is too small a number: its changes since 1.0.0 ask for 2.0.0")
	b.Press("See why, or say why it is right")
	b.Sees("1.0.1 is too small.")
	b.Type("#because", "nobody has it yet")
	b.Press("Seal")
	b.Confirm()
	b.Sees("Download the kit")
	b.Size(390, 800)
	for _, p := range []string{"/sites/cairn-edge/proposals", "/sites/cairn-edge/publishing"} {
		b.Go(s.Console + p)
		b.Sees("Edits made outside")
		assert.LessOrEqual(t, harness.Eval[int](b, `document.documentElement.scrollWidth`), 390, p)
	}
}

// text is what a pointer points to, or nothing.
func text(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
