package test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
)

// A font comes by its file, which says what it is; another site's kit brings its family along, with its files; a pair
// is taken at once. What is no font is refused, and nothing is kept.
func TestFontsComeByFileAndByKit(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	file := func(name string, b []byte) string {
		at := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(at, b, 0o644))
		return at
	}
	bad := s.Client("site", "font", "kestrel-refuge", file("none.woff2", []byte("<p>no font")), "--draft", "type")
	assert.Contains(t, bad.Err, "no font that browsers read")
	assert.Contains(t, bad.Err, "WOFF2, WOFF, TrueType or OpenType")
	assert.NotContains(t, s.Must("draft", "list", "kestrel-refuge"), "type")

	regular := file("Go Regular.ttf", goregular.TTF)
	assert.Contains(t, s.Must("site", "font", "kestrel-refuge", regular, "--as", "font.head", "--draft", "type"),
		"dded the font Go, weight 400")
	s.Must("site", "font", "kestrel-refuge", file("go-bold.ttf", gobold.TTF), "--draft", "type")
	s.Must("site", "font", "kestrel-refuge", regular, "--draft", "type") // the same again adds nothing
	assert.Contains(t, s.Client("site", "font", "kestrel-refuge", regular, "--as", "font.gone", "--draft", "type").Err,
		"fonts: font.head, font.text")
	assert.Regexp(t, `Go +400, \d+ +kestrel-refuge`, s.Must("site", "fonts", "kestrel-refuge", "--draft", "type"))
	s.Must("site", "go-live", "kestrel-refuge", "type")
	page := s.Visit(s.Live("kestrel-refuge") + "/")
	assert.Contains(t, string(page.Body), "<link")
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/media/go-regular.ttf").Status)
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "tokens/brand"), `"Go"`)

	// As a kit of styles it goes to another site, with its files.
	s.Must("kit", "new", "type@0.1.0", "--title", "Type")
	s.Must("kit", "add", "type@0.1.0", "--styles", "--from", "kestrel-refuge")
	s.Must("kit", "seal", "type@0.1.0")
	assert.Regexp(t, `Go +400, \d+ +kit type@0.1.0`, s.Must("site", "fonts", "blackwater-bothy"))
	s.Must("site", "font", "blackwater-bothy", "--from", "type@0.1.0", "--family", "Go", "--draft", "go")
	assert.Regexp(t, `media/go-regular.ttf +new`, s.Must("draft", "show", "blackwater-bothy", "go"))
	assert.Contains(t, s.Client("site", "font", "blackwater-bothy", "--from", "type@0.1.0", "--family", "Tarn").Err,
		"defines no such font")
	assert.Contains(t, s.Client("site", "font", "blackwater-bothy").Err, "name a FILE")
	s.Must("site", "trust", "blackwater-bothy", "--policy", "require")
	assert.Contains(t, s.Client("site", "font", "blackwater-bothy", "--from", "type@0.1.0", "--family", "Go").Err,
		"signed", "what a kit may not bring whole it brings in no part")
	assert.Contains(t, s.Client("site", "font", "kestrel-refuge", "--from", "type@0.1.0", "--pair").Err,
		"says the same already")
}

// A stranger's site loads its sheets itself, and a face of it has several files with queries behind them: a font is
// defined where the pages load it, and a family travels with all its files.
func TestFontsOfAStrangersSite(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	for name, b := range map[string][]byte{
		"css/a-idle.css": []byte(".idle{top:0}"),
		"css/main.css": []byte(`@font-face{font-family:Hut;src:url(../fonts/hut.ttf?v=2) format("truetype"),` +
			`url("../fonts/hut.ttf2") format("woff2")}body{font-family:Hut,serif}`),
		"fonts/hut.ttf": goregular.TTF, "fonts/hut.ttf2": gobold.TTF,
		"index.html": []byte(`<!doctype html><title>Lodge</title>` +
			`<link rel="stylesheet" href="css/main.css"><h1>Lodge</h1>`),
	} {
		at := filepath.Join(dir, filepath.FromSlash(name))
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, b, 0o644))
	}
	s.Must("site", "adopt", dir, "--name", "lodge", "--parts", "none")
	font := filepath.Join(t.TempDir(), "go.ttf")
	require.NoError(t, os.WriteFile(font, goregular.TTF, 0o644))
	assert.Contains(t, s.Must("site", "font", "lodge", font, "--draft", "go"), "It shows on one page")
	changed := s.Must("draft", "show", "lodge", "go")
	assert.Contains(t, changed, "stylesheet/css/main")
	assert.NotContains(t, changed, "a-idle")

	s.Must("kit", "new", "hut-type@0.1.0", "--title", "Type")
	s.Must("kit", "add", "hut-type@0.1.0", "stylesheet/css/main", "--from", "lodge")
	s.Must("kit", "seal", "hut-type@0.1.0")
	// Another file has the name of the first here.
	require.NoError(t, os.WriteFile(font, gobold.TTF, 0o644))
	s.Must("site", "put", "kestrel-refuge", "media/fonts/hut.ttf", font, "--draft", "hut")
	s.Must("site", "font", "kestrel-refuge", "--from", "hut-type@0.1.0", "--family", "Hut", "--draft", "hut")
	sheet := s.Must("draft", "show", "kestrel-refuge", "hut", "--lines")
	assert.Contains(t, sheet, "/media/fonts/hut-2.ttf")
	assert.Contains(t, sheet, "/media/fonts/hut.ttf2", "a longer name is another file's")
	assert.Regexp(t, `media/fonts/hut.ttf2 +new`, sheet)
}

// In the look a dropped font is chosen for headings, and a header wears a look of its own.
func TestFontsAndPartsInTheLookInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	font := filepath.Join(t.TempDir(), "go.ttf")
	require.NoError(t, os.WriteFile(font, goregular.TTF, 0o644))
	b.Go(s.Console + "/sites/kestrel-refuge/looks")
	b.Do(chromedp.WaitVisible(`[data-fonts] select`))
	b.Choose(`[data-fonts] select`, "font.head")
	b.Do(chromedp.SetUploadFiles(`[data-fonts] input[type=file]`, []string{font}))
	b.Sees("dded the font Go, weight 400")
	b.Sees("weights 400")
	b.Click(`[aria-label="Go for text"]`)
	b.Sees("ook the font Go")
	none := filepath.Join(t.TempDir(), "none.ttf")
	require.NoError(t, os.WriteFile(none, []byte("no font at all"), 0o644))
	b.Do(chromedp.SetUploadFiles(`[data-fonts] input[type=file]`, []string{none}))
	b.Sees("it is no font that browsers read")

	b.Type(`[aria-label="Name of the look"]`, "Day")
	b.Press("Keep this look")
	b.Sees("Kept the look as Day")
	b.Choose(`[aria-label="What color line is"]`, "{color.soft}")
	b.Sees("et color.line of tokens/brand")
	b.Choose(`[aria-label="Look of Site header"]`, "Day")
	b.Sees("wears the look “Day”")
	liveNow(b)
	var brand map[string]map[string]any
	live := s.Visit(s.Live("kestrel-refuge") + "/")
	assert.Contains(t, string(live.Body), "own-1")
	var item struct{ Content string }
	s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address=tokens/brand", nil).Into(t, &item)
	require.NoError(t, json.Unmarshal([]byte(item.Content), &brand))
	token := func(group, name string) any { return brand[group][name].(map[string]any)["$value"] }
	assert.Equal(t, "{color.soft}", token("color", "line"))
	for _, of := range []string{"head", "text"} {
		assert.Equal(t, "Go", token("font", of).([]any)[0])
	}
}
