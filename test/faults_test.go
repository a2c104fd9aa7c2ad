package test

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What visitors would trip over is found on the live site, in a draft (new faults first), in a kit
// and in a folder; each is told with the item and the line to mend.
func TestFaultsBeforeVisitorsSeeThem(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	clean := s.Must("site", "check", "kestrel-refuge")
	assert.Contains(t, clean, "page/bunks-and-prices:15")
	assert.NotContains(t, clean, "missing")
	assert.Contains(t, s.Must("kit", "check", "ridge-walk@1.0.0"), "Clean")

	var home api.ItemDetail
	s.JSON(&home, "site", "show", "kestrel-refuge", "page/home")
	page := filepath.Join(t.TempDir(), "home.html")
	require.NoError(t, os.WriteFile(page,
		[]byte(strings.Replace(*home.Content, "<main>",
			"<main>\n<p><a href=\"/cellar/\">Cellar</a> <img src=\"/media/none.jpg\"></p>", 1)), 0o644))
	var put api.Edited
	s.JSON(&put, "site", "put", "kestrel-refuge", "page/home", page)
	draft := strconv.FormatInt(put.Draft, 10)
	r := s.Client("site", "check", "kestrel-refuge", "--draft", draft, "-o", "json")
	assert.Equal(t, 5, r.Code)
	var list api.FaultList
	s.Call("GET", "/api/v1/sites/kestrel-refuge/faults?draft="+draft, nil).Into(t, &list)
	assert.Equal(t, 3, list.Grave, "no such page, no such picture, no words for it")
	for i, f := range list.Faults {
		assert.Equal(t, i < 3, f.New, f.Message)
		if f.New {
			assert.Equal(t, "page/home", f.Address.String())
			assert.Equal(t, []string{"/"}, f.Pages)
		}
	}

	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"),
		[]byte("<!doctype html>\n<title>Hut</title>\n<main><h1>Hut</h1>\n<a href=\"rooms.html\">Rooms</a></main>"),
		0o644))
	r = s.Client("file", "check", dir)
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Out, "page/home:4")
	assert.Contains(t, s.Client("site", "check", "nowhere").Err, "nowhere")

	b := harness.NewBrowser(t)
	b.Go(s.Console + "/sites/kestrel-refuge")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Press("Look for faults")
	b.Sees("Faults of the draft")
	b.Sees("It links to /cellar/, where no page is")
	b.Press("page/home")
	b.Sees("Used by and uses")
}
