package test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page gets another address: what is below it goes along, links follow, and the addresses that
// were left lead on until something else takes them; live, in drafts and in published folders.
func TestAddressesThatPagesLeaveLeadOn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	const head = "<!doctype html><html><head><title>Rooms</title></head><body>"
	files := map[string]string{
		"site.json": `{"format":1,"items":[{"kind":"page","key":"home","slug":"/"},{"kind":"page","key":"rooms",` +
			`"slug":"/rooms/"},{"kind":"page","key":"attic","slug":"/rooms/attic/"}]}`,
		"settings.json":    `{"title":"Moving","address":"https://moving.example/"}`,
		"pages/home.html":  head + `<a href="/rooms/attic/">Attic</a></body></html>`,
		"pages/rooms.html": head + `<h1>Rooms</h1></body></html>`,
		"pages/attic.html": head + `<h1>Attic</h1></body></html>`,
	}
	require.Equal(t, 201,
		s.Call("PUT", "/api/v1/sites/moving", zipped(t, files), "Content-Type", "application/zip").Status)
	rooms := filepath.Join(t.TempDir(), "rooms.html")
	require.NoError(t, os.WriteFile(rooms, []byte(head+`<h1>Beds</h1></body></html>`), 0o644))
	said := s.Must("site", "put", "moving", "page/rooms", rooms, "--path", "/beds/")
	assert.Contains(t, said, "With it: page/attic")
	assert.Contains(t, said, "With it: page/home")
	var drafts struct{ Preview string }
	s.JSON(&drafts, "site", "put", "moving", "page/rooms", rooms, "--draft", "1")
	in := strings.TrimSuffix(drafts.Preview, "/")
	assert.Contains(t, string(s.Visit(in+"/beds/").Body), "Beds")
	moved := s.Visit(in + "/rooms/attic?from=card")
	assert.Equal(t, 301, moved.Status, "in the draft already")
	assert.Equal(t, "/beds/attic/?from=card", moved.Header.Get("Location"))
	assert.Equal(t, 200, s.Visit(s.Live("moving")+"/rooms/attic/").Status, "live as it was")

	s.Must("site", "go-live", "moving", "1")
	moved = s.Visit(s.Live("moving") + "/rooms/")
	assert.Equal(t, 301, moved.Status)
	assert.Equal(t, "/beds/", moved.Header.Get("Location"))
	assert.Contains(t, string(s.Visit(s.Live("moving")+"/").Body), `href="/beds/attic/"`)
	assert.Equal(t, 404, s.Visit(s.Live("moving")+"/never/").Status)

	out := filepath.Join(t.TempDir(), "out")
	s.Must("site", "publish", "moving", out, "--base", "/huts/")
	read := func(name string) string {
		b, err := os.ReadFile(filepath.Join(out, name))
		require.NoError(t, err)
		return string(b)
	}
	assert.Equal(t, "/huts/rooms/ /huts/beds/ 301\n/huts/rooms/attic/ /huts/beds/attic/ 301\n", read("_redirects"))
	assert.Contains(t, read("rooms/attic/index.html"), `<link rel="canonical" href="/huts/beds/attic/">`)
	assert.NotContains(t, read("sitemap.xml"), "/rooms/")
	b := harness.NewBrowser(t)
	disk := filepath.Join(t.TempDir(), "disk")
	s.Must("site", "publish", "moving", disk, "--links", "file")
	b.Go("file://" + disk + "/rooms/attic/index.html")
	b.Sees("Attic")
	assert.True(t, strings.HasSuffix(harness.Eval[string](b, "location.pathname"), "/beds/attic/index.html"))

	// What was edited in the folder comes home past the pages that lead on.
	home := strings.Replace(read("index.html"), ">Attic<", ">The attic<", 1)
	require.NoError(t, os.WriteFile(filepath.Join(out, "index.html"), []byte(home), 0o644))
	s.Must("site", "adopt", out, "--name", "moving", "--again")
	s.Must("site", "go-live", "moving", "2")
	assert.Contains(t, string(s.Visit(s.Live("moving")+"/").Body), "The attic")

	// Something else takes an address: it leads nowhere any more.
	other := filepath.Join(t.TempDir(), "other.html")
	require.NoError(t, os.WriteFile(other, []byte(head+`<h1>Other rooms</h1></body></html>`), 0o644))
	s.Must("site", "put", "moving", "page/other", other, "--path", "/rooms/")
	s.Must("site", "go-live", "moving", "3")
	assert.Contains(t, string(s.Visit(s.Live("moving")+"/rooms/").Body), "Other rooms")
	s.Must("site", "publish", "moving", out, "--base", "/huts/")
	assert.Equal(t, "/huts/rooms/attic/ /huts/beds/attic/ 301\n", read("_redirects"))
	assert.Contains(t, read("rooms/index.html"), "Other rooms")
}
