package test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/kit"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// unzip unpacks a kit as any other program would.
func unzip(t *testing.T, file string) string {
	t.Helper()
	z, err := zip.OpenReader(file)
	require.NoError(t, err)
	defer z.Close()
	dir := t.TempDir()
	require.NoError(t, os.CopyFS(dir, z))
	return dir
}

func TestAKitIsMadePieceByPieceInTheClient(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("kit", "new", "hut@1.0.0", "--license", "CC-BY-4.0")
	out := s.Must("kit", "add", "hut@1.0.0", "--placed-parts", "--from", "kestrel-refuge")
	for _, part := range []string{"part/site-header", "part/site-footer", "part/not-found", "part/search-results",
		"part/room-page"} {
		assert.Contains(t, out, part)
	}
	s.Must("kit", "add", "hut@1.0.0", "page/home", "--from", "kestrel-refuge")
	out = s.Must("kit", "add", "hut@1.0.0", "page/home", "--from", "kestrel-refuge", "--element", "ul.cards", "--as",
		"block/reasons")
	assert.Contains(t, out, "block/reasons")
	r := s.Client("kit", "add", "hut@1.0.0", "page/home", "--from", "kestrel-refuge", "--element", "li.card", "--as",
		"block/card")
	assert.NotEqual(t, 0, r.Code)
	assert.Contains(t, r.Err, "names 3 elements")
	assert.Contains(t, s.Must("kit", "check", "hut@1.0.0"), "asks for credit")
	s.Must("kit", "describe", "hut@1.0.0", "--credit", "Highmoor web room", "--title", "A hut")

	out = s.Must("kit", "fill-in", "hut@1.0.0", "booking-link", "--in", "page/home", "--at", "a.button", "--bind",
		"href", "--label", "Where one asks for a bunk")
	assert.Contains(t, out, "Fill-in booking-link (url): Where one asks for a bunk, sample “/contact/#booking”")
	out = s.Must("kit", "media", "hut@1.0.0", "all", "lighter", "--width", "400")
	assert.Contains(t, out, "400×225 in place of 1600×900")
	out = s.Must("kit", "media", "hut@1.0.0", "media/hut-door.jpg", "placeholder")
	assert.Contains(t, out, "Left out: media/hut-door.jpg (a placeholder of 800×600 stands in for the picture)")
	out = s.Must("kit", "exclude", "hut@1.0.0", "component/x-weather-strip", "--optional")
	assert.Contains(t, out, "Need, optional: the component x-weather-strip ^2.3.0")
	s.Must("kit", "propose", "hut@1.0.0", "home=page/home")
	out = s.Must("kit", "need", "hut@1.0.0", "kit", "winter-notices", "^0.3 || ^1")
	assert.Contains(t, out, "Need: the kit winter-notices ^0.3 || ^1")
	assert.Contains(t, out, "Proposes setting/home: page/home")
	r = s.Client("kit", "need", "hut@1.0.0", "kit", "winter-notices", "about one")
	assert.Contains(t, r.Err, "not a range of versions")
	s.Must("kit", "need", "hut@1.0.0", "kit", "winter-notices", "--no")
	graph := s.Must("kit", "graph", "hut@1.0.0")
	assert.Contains(t, graph, "page/home  you added it")
	assert.Regexp(t, `[├└]─ section/opening-hours  holds it`, graph)
	assert.Contains(t, s.Must("kit", "check", "hut@1.0.0"), "“Kestrel Refuge” is what kestrel-refuge calls itself")

	s.Must("kit", "seal", "hut@1.0.0")
	dir := t.TempDir()
	file := filepath.Join(dir, "hut.cpkit")
	s.Must("kit", "get", "hut@1.0.0", "-f", file)
	in := unzip(t, file)
	home, err := os.ReadFile(filepath.Join(in, "pages/home.html"))
	require.NoError(t, err)
	assert.Contains(t, string(home), `data-fill="href:booking-link"`)
	assert.NotContains(t, string(s.Visit(s.Live("kestrel-refuge")+"/").Body), "booking-link",
		"the source stays as it is")
	assert.FileExists(t, filepath.Join(in, "views/page--home.html"))
	assert.NoFileExists(t, filepath.Join(in, "components/x-weather-strip/x-weather-strip.js"))

	// One for each piece, and all of them in one ZIP brought home.
	s.Must("kit", "get", "hut@1.0.0", "--pieces", "-f", filepath.Join(dir, "pieces.zip"))
	out = s.Must("kit", "import", filepath.Join(dir, "pieces.zip"))
	assert.Contains(t, out, "a ZIP of kits")
	assert.Contains(t, out, "hut.block.reasons@1.0.0 is on the shelf")
	out = s.Must("file", "split", file, filepath.Join(dir, "split"))
	assert.Contains(t, out, "hut.part.site-header-1.0.0.cpkit")
	require.NoError(t, os.Rename(file, filepath.Join(dir, "hut.pdf")))
	assert.Contains(t, s.Must("kit", "import", filepath.Join(dir, "hut.pdf")), "hut@1.0.0 is on the shelf",
		"the ending does not matter")
}

func TestLooseFilesBecomeAKitInTheMaking(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	require.NoError(t, z.AddFS(os.DirFS(filepath.Join(s.Data, "cairn-edge"))))
	require.NoError(t, z.Close())
	loose := filepath.Join(dir, "Cairn Edge.zip")
	require.NoError(t, os.WriteFile(loose, b.Bytes(), 0o600))
	out := s.Must("kit", "import", loose)
	assert.Contains(t, out, "it is loose files in a ZIP")
	assert.Contains(t, out, "it became the kit in the making cairn-edge@0.1.0")
	assert.Contains(t, out, "/cgi-bin/mail, which is not in the folder")
	r := s.Client("kit", "import", loose)
	assert.NotEqual(t, 0, r.Code)
	assert.Contains(t, r.Err, "--as NAME@VERSION")
	s.Must("kit", "import", loose, "--as", "edge@1.0.0")
	assert.Contains(t, s.Must("kit", "import", filepath.Join(s.Data, "cairn-edge"), "--as", "folder@1.0.0"),
		"it became the kit in the making folder@1.0.0", "a folder, without zipping it first")
	assert.Equal(t, strings.ReplaceAll(s.Must("kit", "show", "edge@1.0.0"), "edge@", "folder@"),
		s.Must("kit", "show", "folder@1.0.0"))
	s.Must("kit", "exclude", "edge@1.0.0", "page/prices")
	assert.Contains(t, s.Must("kit", "show", "edge@1.0.0"), "stylesheet/style")
	s.Must("kit", "seal", "edge@1.0.0")
	band := filepath.Join(dir, "band.txt")
	require.NoError(t, os.WriteFile(band, []byte(`<section class="band"><h2>Hello</h2></section>`), 0o600))
	assert.Contains(t, s.Must("kit", "import", band), "the kit in the making band@0.1.0, 1 item.")
	nothing := filepath.Join(dir, "nothing.zip")
	require.NoError(t, os.WriteFile(nothing, []byte("hello"), 0o600))
	r = s.Client("kit", "import", nothing)
	assert.Equal(t, 5, r.Code, r.Err)
	assert.Contains(t, r.Err, "this is not a kit, nor anything else that is known here")
	assert.Contains(t, s.Must("file", "pack", loose, "--kit", "packed@1.0.0", "-f", filepath.Join(dir, "p.cpkit")),
		"packed@1.0.0 is in")
}

func TestSignaturesAndTrust(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	sealed(t, s, "0.1.0")
	key := filepath.Join(dir, "ida")
	s.Must("file", "keys", "new", key)
	s.Must("site", "trust", "larch-saddle", "--policy", "require")
	r := s.Client("deliver", "hut-basics@0.1.0", "larch-saddle")
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Err, "larch-saddle accepts only kits signed by a trusted key, and the kit is not signed")
	out := s.Must("kit", "sign", "hut-basics@0.1.0", "--key", key)
	assert.Contains(t, out, "a key that no team trusts")
	r = s.Client("deliver", "hut-basics@0.1.0", "larch-saddle")
	assert.Contains(t, r.Err, "which is none of anybody's trusted keys")
	s.Must("site", "trust", "larch-saddle", "--policy", "warn")
	r = s.Client("deliver", "hut-basics@0.1.0", "larch-saddle")
	assert.Equal(t, 3, r.Code, "it is planned, with a warning")
	assert.Contains(t, r.Out, "Be careful: the kit is signed by")
	r = s.Client("site", "trust", "larch-saddle", "--team", "web room")
	assert.Contains(t, r.Err, "it trusts no key")
	r = s.Client("trust", "add", key, "--team", "web room")
	assert.Contains(t, r.Err, "this is a private key")
	s.Must("trust", "add", key+".pub", "--team", "web room")
	assert.Contains(t, s.Must("trust", "list"), "web room")
	s.Must("site", "trust", "larch-saddle", "--policy", "require", "--team", "web room")
	assert.Contains(t, s.Must("kit", "show", "hut-basics@0.1.0"), "Signed: by ida, a key that web room trusts")
	r = s.Client("deliver", "hut-basics@0.1.0", "larch-saddle")
	assert.Equal(t, 3, r.Code, r.Err)
	assert.Contains(t, r.Out, "signed by ida of web room")

	// Another key beside it; then a byte that changed on the way.
	s.Must("file", "keys", "new", key+"2")
	s.Must("kit", "sign", "hut-basics@0.1.0", "--key", key+"2")
	assert.Equal(t, 2, strings.Count(s.Must("kit", "show", "hut-basics@0.1.0"), "Signed: by"))
	file := filepath.Join(dir, "k.cpkit")
	s.Must("kit", "get", "hut-basics@0.1.0", "-f", file)
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	require.NoError(t, err)
	for _, f := range z.File {
		if f.Name == "media/hut-door.jpg" {
			at, err := f.DataOffset()
			require.NoError(t, err)
			b[at+1000] ^= 1
		}
	}
	require.NoError(t, os.WriteFile(file, b, 0o600))
	r = s.Client("kit", "import", file)
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Err, "media/hut-door.jpg")
	require.Equal(t, 5, s.Client("file", "verify", file).Code)
}

func TestKitsThatNeedKits(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	assert.Regexp(t, `hut-basics +1\.1\.0 +to be delivered first`,
		s.Must("kit", "resolve", "winter-notices@0.4.0", "larch-saddle"))
	r := s.Client("kit", "resolve", "hut-basics@2.0.0", "blackwater-bothy")
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Out, "hut-basics@2.0.0 needs the component x-weather-strip >=2.0 <4 (there is 1.4.0)")
	r = s.Client("deliver", "winter-notices@0.3.0", "blackwater-bothy")
	assert.Contains(t, r.Out, "It needs hut-basics@1.1.0, which fits this site: deliver that first")
	r = s.Client("deliver", "winter-notices@0.4.0", "larch-saddle")
	assert.Contains(t, r.Out, "    cparcel deliver hut-basics@1.1.0 larch-saddle\n", "the way out can be pasted")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/deliveries/3/plan")
	b.Press("Deliver hut-basics 1.1.0 first")
	b.Sees("hut-basics 1.1.0 to larch-saddle")
	var choice api.KitResolution
	s.JSON(&choice, "kit", "resolve", "winter-notices@0.4.0", "kestrel-refuge")
	assert.Equal(t, "2.0.0", choice.Kits[0].Version, "the highest: the site has the weather strip")

	// A room page is looked at with a real room in it, before it is chosen.
	for _, args := range [][]string{{"--record", "longest"}, {"--record", "no-picture", "--variant", "card"}} {
		var look struct{ Address string }
		s.JSON(
			&look,
			append(
				[]string{"kit", "show", "room-pages@1.0.0", "part/room-page", "--with", "blackwater-bothy"},
				args...)...)
		page := s.Visit(look.Address)
		assert.Equal(t, 200, page.Status)
		assert.Contains(t, string(page.Body), "<article>")
		if len(args) == 2 {
			assert.Contains(t, string(page.Body), "Five under the slates")
		} else {
			assert.Contains(t, string(page.Body), `data-variant="card"`)
		}
	}
	r = s.Client("kit", "show", "room-pages@1.0.0", "part/room-page", "--variant", "round")
	assert.Contains(t, r.Err, `no variant "round"`)

	// What somebody else's kit brought is told when it is packed again.
	s.Must("kit", "new", "again@1.0.0", "--license", "CC0-1.0")
	s.Must("kit", "add", "again@1.0.0", "section/opening-hours", "--from", "blackwater-bothy")
	assert.Contains(t, strings.Join(strings.Fields(s.Must("kit", "check", "again@1.0.0")), " "),
		"it came with the kit hut-basics@1.0.0")
	s.Must("kit", "add", "again@1.0.0", "block/avalanche-scale", "--from", "kit winter-notices@0.4.0")
	assert.Contains(t, s.Must("kit", "show", "again@1.0.0"), "stylesheet/scale")
	s.Must("kit", "new", "looks@1.0.0")
	looks := s.Must("kit", "add", "looks@1.0.0", "--styles", "--from", "blackwater-bothy")
	assert.Contains(t, looks, "tokens/slate")
	assert.NotContains(t, looks, "page/")
}

// A kit opened by any other program: its view of a page looks as the page on its site.
func TestAViewLooksAsOnItsSite(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("kit", "new", "bothy@1.0.0", "--license", "CC0-1.0")
	s.Must("kit", "add", "bothy@1.0.0", "page/home", "page/contact", "page/how-to-find-us", "part/header",
		"part/footer", "--from", "blackwater-bothy")
	s.Must("kit", "seal", "bothy@1.0.0")
	file := filepath.Join(t.TempDir(), "bothy.cpkit")
	s.Must("kit", "get", "bothy@1.0.0", "-f", file)
	in := unzip(t, file)
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	size, err := f.Seek(0, io.SeekEnd)
	require.NoError(t, err)
	k, err := kit.Open(f, size)
	require.NoError(t, err)
	require.NoError(t, k.Verify())
	b := harness.NewBrowser(t)
	for view, slug := range map[string]string{"page--home.html": "/", "page--contact.html": "/contact/",
		"page--how-to-find-us.html": "/how-to-find-us/"} {
		for width, n := range b.Differ("view of "+slug, "file://"+filepath.Join(in, "views", view),
			s.Live("blackwater-bothy")+slug, 390, 1280) {
			assert.Zero(t, n, "%s at %d", slug, width)
		}
	}
}

// The previews of a kit in the making, and of a piece whose elements can be picked.
func TestPreviewsOfAKitInTheMaking(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	s.Must("kit", "new", "look@1.0.0", "--license", "CC0-1.0")
	s.Must("kit", "add", "look@1.0.0", "section/opening-hours", "--from", "kestrel-refuge")
	var k api.Kit
	s.JSON(&k, "kit", "show", "look@1.0.0")
	page := s.Visit(k.Preview + "/_cp/alone/section/opening-hours")
	assert.Equal(t, 200, page.Status)
	assert.Contains(t, string(page.Body), "When <span")
	picking := s.Visit(k.Preview + "/_cp/pick/section/opening-hours")
	assert.Equal(t, 200, picking.Status)
	assert.Contains(t, string(picking.Body), `data-cp-at=":scope &gt; section &gt; div &gt; img"`)
	assert.Contains(t, picking.Header.Get("Content-Security-Policy"), "/_cp/engine/",
		"the engine's own script may run there")
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/_cp/pick/page/home").Status,
		"elements of a site's page can be picked as well")
	for _, at := range []string{"/_cp/pick/section/none", "/_cp/pick/media/hut-door.jpg", "/_cp/pick/nonsense"} {
		assert.NotEqual(t, 200, s.Visit(k.Preview+at).Status, at)
	}
	wrong := strings.Replace(k.Preview, "--kits", "0--kits", 1)
	assert.Equal(t, 404, s.Visit(wrong+"/_cp/alone/section/opening-hours").Status, "its address cannot be guessed")
	s.Must("kit", "fill-in", "look@1.0.0", "door", "--in", "section/opening-hours", "--at", "img", "--bind", "src")
	assert.Contains(t, string(s.Visit(k.Preview+"/_cp/pick/section/opening-hours").Body), `data-fill="src:door"`,
		"a change is seen at once")
	s.Must("kit", "seal", "look@1.0.0")
	assert.Equal(t, 404, s.Visit(k.Preview+"/_cp/alone/section/opening-hours").Status,
		"what is sealed has another address")
}

// The interface, as programs use it: wrong input is answered with a way out, and nothing
// of it is kept.
func TestTheInterfaceOfKitsInTheMaking(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("kit", "new", "net@1.0.0")
	at := "/api/v1/kits/net/1.0.0"
	picks := at + "/picks"
	for _, c := range []struct {
		method, path string
		body         any
		status       int
		says         string
	}{
		{"POST", picks, map[string]any{"picks": []any{}}, 400, "no items were named"},
		{"POST", picks, map[string]any{"picks": []any{map[string]any{"from": "kit none@1.0.0",
			"address": "page/home"}}}, 404, "does not exist"},
		{"POST", picks, map[string]any{"picks": []any{map[string]any{"from": "kit net@1.0.0",
			"address": "page/home"}}}, 409, "not sealed yet"},
		{"POST", picks, map[string]any{"picks": []any{map[string]any{"from": "kestrel-refuge", "address": "page/home",
			"element": "h1["}}}, 400, "block or a section"},
		{"POST", picks, map[string]any{"placedParts": "nowhere"}, 404, "does not exist"},
		{"PATCH", at, map[string]any{"media": map[string]any{"*": map[string]any{"how": "lighter", "width": -1}}}, 400,
			"1 to 20000"},
		{"PATCH", at, map[string]any{"marks": []any{map[string]any{"in": "media/a.jpg", "element": "p",
			"bind": "text:x"}}}, 400, "marked in markup"},
		{"PATCH", at, map[string]any{"needsKits": map[string]any{"../x": "^1"}}, 400, "needed kit"},
		{"PATCH", at, map[string]any{"terms": map[string]any{"sites": 0, "resale": false}}, 400, "0 sites"},
		{"DELETE", picks + "?address=page/none", nil, 404, "was not added"},
		{"GET", at + "/resolution?site=larch-saddle", nil, 409, "not sealed yet"},
		{"GET", at + "/pieces", nil, 409, "not sealed yet"},
		{"PUT", "/api/v1/sites/larch-saddle/trust", map[string]any{"policy": "warn", "team": "none"}, 404,
			"trusts no key"},
		{"POST", "/api/v1/trust/keys", map[string]any{"team": "room", "key": "nonsense"}, 400, "Ed25519"},
		{"DELETE", "/api/v1/trust/keys/99", nil, 404, "does not exist"},
	} {
		r := s.Call(c.method, c.path, c.body)
		assert.Equal(t, c.status, r.Status, "%s %s: %s", c.method, c.path, r.Body)
		assert.Contains(t, string(r.Body), c.says, c.path)
		assert.Contains(t, string(r.Body), `"remedy"`, c.path)
	}
	old := s.Call("GET", at, nil)
	etag := old.Header.Get("ETag")
	require.NotEmpty(t, etag)
	assert.Equal(t, 200, s.Call("PATCH", at, map[string]any{"title": "Net"}, "If-Match", etag).Status)
	assert.Equal(t, 412, s.Call("PATCH", at, map[string]any{"title": "Other"}, "If-Match", etag).Status,
		"somebody else changed it meanwhile")
	var k api.Kit
	s.Call("GET", at, nil).Into(t, &k)
	assert.Equal(t, "Net", k.Title)
	assert.Empty(t, k.Picks)
	assert.Empty(t, k.Media)
}
