package test

import (
	"os"
	"path/filepath"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Pictures are found by name, made in sizes which all that shows them offers, and the site's icon in all
// sizes; what is no picture is refused.
func TestPicturesInSizes(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	assert.Contains(t, s.Must("site", "media", "kestrel-refuge", "--words", "dawn"), "media/ridge-dawn.jpg")
	assert.Contains(t, s.Must("site", "media", "kestrel-refuge", "--words", "nothing"), "no media")
	s.Must("site", "sizes", "kestrel-refuge", "media/hut-evening.jpg", "--widths", "160,320,5000", "--draft", "light")
	var d api.DraftDetail
	s.JSON(&d, "draft", "show", "kestrel-refuge", "light")
	page := string(s.Visit(d.Draft.Preview + "/").Body)
	assert.Regexp(t, `srcset="/_cp/[0-9a-f]+/hut-evening-160.webp 160w, /_cp/[0-9a-f]+/hut-evening-320.webp 320w"`,
		page)
	assert.NotContains(t, page, "5000", "never wider than it is")
	b := harness.NewBrowser(t)
	b.Go(d.Draft.Preview + "/")
	assert.True(t, harness.Eval[bool](b,
		`(async () => { const i = document.querySelector("img[srcset]"); i.scrollIntoView();
		await i.decode(); return i.currentSrc.endsWith(".webp") && i.naturalWidth > 0 })()`))
	s.Must("draft", "undo", "kestrel-refuge", "light")
	assert.Contains(t, s.Must("draft", "show", "kestrel-refuge", "light"), "It changes nothing")

	own := filepath.Join(t.TempDir(), "own.webp")
	require.NoError(t, os.WriteFile(own, s.Visit(d.Draft.Preview+"/media/hut-evening.jpg").Body, 0o644))
	s.Must("site", "put", "kestrel-refuge", "media/ridge-dawn-160.webp", own, "--draft", "own")
	for range 2 {
		s.Must("site", "sizes", "kestrel-refuge", "media/ridge-dawn.jpg", "--widths", "160", "--draft", "own")
	}
	s.JSON(&d, "draft", "show", "kestrel-refuge", "own")
	assert.Equal(t, s.Visit(s.Live("kestrel-refuge")+"/media/hut-evening.jpg").Body,
		s.Visit(d.Draft.Preview+"/media/ridge-dawn-160.webp").Body, "what has the name already is somebody's own")
	list := s.Must("site", "media", "kestrel-refuge", "--words", "ridge", "--draft", "own")
	assert.Contains(t, list, "media/ridge-dawn-160-2.webp")
	assert.NotContains(t, list, "media/ridge-dawn-160-3.webp", "made again it is the same one")

	var evening api.ItemDetail
	s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address=media/hut-evening.jpg", nil).Into(t, &evening)
	raw := s.Visit(s.Live("kestrel-refuge") + "/media/hut-evening.jpg").Body
	file := filepath.Join(t.TempDir(), "evening.jpg")
	require.NoError(t, os.WriteFile(file, raw, 0o644))
	s.Must("site", "icon", "kestrel-refuge", file, "--draft", "icon")
	s.JSON(&d, "draft", "show", "kestrel-refuge", "icon")
	page = string(s.Visit(d.Draft.Preview + "/").Body)
	for _, want := range []string{`<link rel="icon" sizes="32x32" href="/_cp/`,
		`<link rel="apple-touch-icon" sizes="180x180"`,
		`<link rel="icon" sizes="512x512"`} {
		assert.Contains(t, page, want)
	}
	none := filepath.Join(t.TempDir(), "none.png")
	require.NoError(t, os.WriteFile(none, []byte("no picture"), 0o644))
	assert.Contains(t, s.Client("site", "icon", "kestrel-refuge", none).Err, "not a picture")
	require.NoError(t, os.WriteFile(none, make([]byte, 21<<20), 0o644))
	assert.NotZero(t, s.Client("site", "icon", "kestrel-refuge", none).Code)
	assert.Contains(t, s.Client("site", "sizes", "kestrel-refuge", "media/valley-map.svg").Err, "fits every size")
	assert.Contains(t, s.Client("site", "sizes", "kestrel-refuge", "media/gone.jpg").Err, "no such picture")
}
