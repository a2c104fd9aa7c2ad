package test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sealed makes and seals hut-basics with the story's two pieces.
func sealed(t *testing.T, s *harness.Service, version string) {
	t.Helper()
	kit := "hut-basics@" + version
	s.Must("kit", "new", kit, "--title", "Hut basics", "--license", "CC-BY-4.0", "--credit", "Highmoor web room")
	s.Must("kit", "add", kit, "section/opening-hours", "part/site-header", "--from", "kestrel-refuge")
	s.Must("kit", "check", kit)
	s.Must("kit", "seal", kit)
}

func digest(t *testing.T, s *harness.Service, site string) string {
	t.Helper()
	var list api.SiteList
	s.JSON(&list, "site", "list")
	for _, x := range list.Sites {
		if x.Name == site {
			return string(x.Digest)
		}
	}
	t.Fatalf("there is no site %s", site)
	return ""
}

func TestStoryInTheClient(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()

	// Sign in as a person would, without a terminal; the token is kept.
	r := s.ClientIn("highmoor-demo\n", "sign-in", "--user", "ida", "--password-stdin", "--server", s.Console)
	require.Equal(t, 0, r.Code, r.Err)
	assert.Contains(t, r.Out, "as ida (keeper)")
	r = s.ClientIn("wrong\n", "sign-in", "--user", "ida", "--password-stdin")
	assert.Equal(t, 5, r.Code)
	assert.Contains(t, r.Err, "To fix:")

	before := digest(t, s, "larch-saddle")
	saved := s.Must("library", "add", "kestrel-refuge", "section/opening-hours", "part/site-header")
	assert.Contains(t, saved, "menu/main")
	assert.Contains(t, s.Must("library", "list", "--find", "hour"), "section/opening-hours")
	assert.Contains(t, s.Must("library", "show", "part/site-header"), "cp-menu")

	sealed(t, s, "0.1.0")
	one := filepath.Join(dir, "one.cpkit")
	s.Must("kit", "get", "hut-basics@0.1.0", "-f", one)
	info, err := os.Stat(one)
	require.NoError(t, err)
	assert.Greater(t, info.Size(), int64(10_000))

	// The menu is the one clash; the hut's name the one blank.
	r = s.Client("deliver", "hut-basics@0.1.0", "larch-saddle")
	assert.Equal(t, 3, r.Code, r.Err)
	assert.Contains(t, r.Out, "--decide menu/main=both")
	assert.Contains(t, r.Out, "--fill hut-name=")
	assert.Contains(t, r.Err, "waits for 2 decisions")

	out := s.Must("delivery", "decide", "1", "--decide", "menu/main=both", "--fill", "hut-name=Larch Saddle")
	assert.Contains(t, out, "as menu/main-2")
	assert.Contains(t, out, "is staged; the live site is as it was")
	assert.Equal(t, before, digest(t, s, "larch-saddle"), "staging changes nothing live")

	var d api.Delivery
	s.JSON(&d, "delivery", "show", "1")
	draft := string(s.Visit(*d.Preview + "/").Body)
	assert.Contains(t, draft, `When <span data-fill="text:hut-name">Larch Saddle</span> is open`)
	live := string(s.Visit(s.Live("larch-saddle") + "/").Body)
	assert.Contains(t, live, "Opening hours will stand here")
	rules := s.Visit(s.Live("larch-saddle") + "/house-rules/").Body

	s.Must("delivery", "go-live", "1")
	live = string(s.Visit(s.Live("larch-saddle") + "/").Body)
	assert.Contains(t, live, "Larch Saddle</span> is open")
	assert.Contains(t, live, `aria-label="Main menu"`, "the kit's menu, in its header")
	assert.Contains(t, live, `aria-label="Pages"`, "the site's own menu, where it was")
	assert.Equal(t, string(rules), string(s.Visit(s.Live("larch-saddle")+"/house-rules/").Body),
		"a page that the plan does not name is the same to the byte")
	require.Len(t, d.Plan.Touched, 2)
	assert.Equal(t, "/", d.Plan.Touched[0].Slug)
	assert.Equal(t, "/404.html", d.Plan.Touched[1].Slug, "the header also stands on the not-found page")
	assert.NotEqual(t, before, digest(t, s, "larch-saddle"))

	s.Must("site", "publish", "larch-saddle", filepath.Join(dir, "out"))
	index, err := os.ReadFile(filepath.Join(dir, "out", "index.html"))
	require.NoError(t, err)
	assert.Equal(t, live, string(index), "what is published is what visitors of the live preview see")
	assert.FileExists(t, filepath.Join(dir, "out", "404.html"))

	assert.Contains(t, s.Must("delivery", "undo", "1"), "is undone")
	assert.Equal(t, before, digest(t, s, "larch-saddle"), "the site is as it was, digest for digest")
	assert.Contains(t, s.Must("delivery", "list"), "undone")
	assert.Contains(t, s.Must("site", "surround", "larch-saddle", "/house-rules/"), "the page leaves it out")

	assert.Contains(t, s.Must("site", "history", "larch-saddle"), "hut-basics@0.1.0 taken back")

	// The same delivery again comes in as new, since nothing of it was left.
	out = s.Must("deliver", "hut-basics@0.1.0", "larch-saddle", "--decide", "menu/main=both", "--fill",
		"hut-name=Larch", "--live")
	assert.Contains(t, out, "is live as revision 4")
	// And once more changes nothing: all is there already.
	out = s.Must("deliver", "hut-basics@0.1.0", "larch-saddle", "--fill", "hut-name=Larch")
	assert.Contains(t, out, "same")
	assert.Contains(t, out, "It touches no page.")
}

func TestTheSameItemsGiveTheSameFile(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	sealed(t, s, "0.1.0")
	a, b := filepath.Join(dir, "a.cpkit"), filepath.Join(dir, "b.cpkit")
	s.Must("kit", "get", "hut-basics@0.1.0", "-f", a)

	other := harness.Start(t, "--demo=sites") // another machine, another day
	sealed(t, other, "0.1.0")
	other.Must("kit", "get", "hut-basics@0.1.0", "-f", b)
	x, err := os.ReadFile(a)
	require.NoError(t, err)
	y, err := os.ReadFile(b)
	require.NoError(t, err)
	assert.Equal(t, x, y, "the same items, made twice, are the same file byte for byte")

	// The very same kit can come in again; a rebuilt one cannot.
	assert.Contains(t, other.Must("kit", "import", a), "on the shelf")
}

func TestWrongUseOfTheClient(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	dir := t.TempDir()
	before := digest(t, s, "larch-saddle")
	bad := filepath.Join(dir, "bad.cpkit")
	require.NoError(t, os.WriteFile(bad, []byte("no zip at all"), 0o644))
	require.NoError(t, os.Mkdir(filepath.Join(dir, "empty"), 0o755))
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"site", "adopt", filepath.Join(dir, "nowhere"), "--name", "x"}, 1, "cannot be read"},
		{[]string{"site", "adopt", filepath.Join(dir, "empty"), "--name", "x"}, 2, "no files"},
		{[]string{"site", "adopt", dir}, 2, "--name"},
		{[]string{"site", "adopt", dir, "--name", "larch-saddle"}, 1, "already"},
		{[]string{"site", "show", "nowhere"}, 1, "does not exist"},
		{[]string{"site", "show", "larch-saddle", "page/nowhere"}, 1, "no such item"},
		{[]string{"site", "show", "larch-saddle", "nonsense"}, 2, "not an address"},
		{[]string{"kit", "import", bad}, 5, "not a kit"},
		{[]string{"kit", "show", "hats"}, 2, "there is no kit"},
		{[]string{"kit", "add", "hut-basics@0.1.0", "menu/main", "--from", "kestrel-refuge"}, 5, "sealed"},
		{[]string{"kit", "new", "hut-basics@one"}, 2, "Semantic Versioning"},
		{[]string{"deliver", "hut-basics@0.1.0", "nowhere"}, 1, "does not exist"},
		{[]string{"deliver", "hut-basics@0.1.0", "larch-saddle", "--decide", "menu/none=both"}, 2,
			"nothing of this name to decide"},
		{[]string{"deliver", "hut-basics@0.1.0", "larch-saddle", "--decide", "menu/main=blend"}, 2, "is not possible"},
		{[]string{"deliver", "hut-basics@0.1.0", "larch-saddle", "--decide", "menu/main=map:page/home"}, 2,
			"map needs another menu"},
		{[]string{"deliver", "hut-basics@0.1.0", "larch-saddle", "--fill", "no-blank=x"}, 2,
			"no fill-in of this name"},
		{[]string{"delivery", "go-live", "99"}, 1, "does not exist"},
		{[]string{"delivery", "go-live", "x"}, 2, "not the number"},
		{[]string{"nonsense"}, 2, "there is no command"},
		{[]string{"library", "list", "--serch", "x"}, 2, "cparcel library list --help"},
		{[]string{"site", "use", "hut-basics@0.1.0:section/gone", "larch-saddle", "--page", "/"}, 1,
			"cparcel kit show hut-basics@0.1.0"},
		{[]string{"kit", "show", "hut-basics@9.9.9"}, 1, "cparcel kit list"},
		{[]string{"site", "publish", "larch-saddle", dir}, 5, "not published here"},
		{[]string{"site", "list", "--server", "http://127.0.0.1:9"}, 1, "is the service running"},
		{[]string{"site", "list", "--token", "wrong"}, 5, "unknown here"},
	} {
		r := s.Client(c.args...)
		assert.Equal(t, c.code, r.Code, "cparcel %s\n%s%s", strings.Join(c.args, " "), r.Out, r.Err)
		assert.Contains(t, r.Err, c.says, strings.Join(c.args, " "))
	}
	assert.Equal(t, before, digest(t, s, "larch-saddle"), "nothing was changed")
	assert.Contains(t, s.Must("completion", "bash"), "cparcel")
}

func TestWhatElseTheClientDoes(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	s.Must("kit", "new", "hut-basics@0.1.0")
	s.Must("kit", "add", "hut-basics@0.1.0", "section/opening-hours", "menu/main", "--from", "kestrel-refuge")
	assert.NotContains(t, s.Must("kit", "exclude", "hut-basics@0.1.0", "menu/main"), "menu/main")
	out := s.Must("kit", "fill-in", "hut-basics@0.1.0", "hut-name", "--label", "Name of the hut", "--type", "choice",
		"--choices", "Larch,Birch", "--optional")
	assert.Contains(t, out, "Fill-in hut-name (choice): Name of the hut")
	assert.Equal(t, 2, s.Client("kit", "fill-in", "hut-basics@0.1.0", "none").Code)
	assert.Equal(t, 2, s.Client("kit", "fill-in", "hut-basics@0.1.0", "hut-name", "--type", "smell").Code)
	s.Must("kit", "seal", "hut-basics@0.1.0")
	assert.Contains(t, s.Must("kit", "show", "hut-basics@0.1.0", "section/opening-hours"), "data-fill")
	r := s.Client("deliver", "hut-basics@0.1.0", "larch-saddle", "--fill", "hut-name=Oak")
	assert.Equal(t, 2, r.Code)
	assert.Contains(t, r.Err, "not one of Larch, Birch")
	assert.Contains(t, s.Must("deliver", "hut-basics@0.1.0", "larch-saddle"), "is staged",
		"an optional blank may stay open")
	assert.Contains(t, s.Must("site", "show", "larch-saddle"), "Draft 1")
	s.Must("site", "discard", "larch-saddle", "1")
	assert.Contains(t, s.Must("delivery", "list"), "planned", "its delivery can be staged again")
	assert.Equal(t, 5, s.Client("site", "discard", "larch-saddle", "1").Code)

	// An edit from a file goes into a draft, and live.
	file := filepath.Join(t.TempDir(), "note.html")
	require.NoError(t, os.WriteFile(file, []byte("<!doctype html><html><body>A new page</body></html>"), 0o644))
	assert.Contains(t, s.Must("site", "put", "larch-saddle", "page/note", file, "--path", "/note/"), "draft 2")
	assert.Equal(t, 404, s.Visit(s.Live("larch-saddle")+"/note/").Status)
	s.Must("site", "go-live", "larch-saddle", "2")
	assert.Equal(t, 200, s.Visit(s.Live("larch-saddle")+"/note/").Status)

	r = s.Client("people", "list")
	assert.Equal(t, 5, r.Code, "ida is no admin")
	r = s.ClientIn("highmoor-demo\n", "sign-in", "--user", "warden", "--password-stdin", "--server", s.Console)
	require.Equal(t, 0, r.Code, r.Err)
	s.Token = ""
	r = s.ClientIn("a long password\n", "people", "add", "berta", "--role", "librarian")
	assert.Equal(t, 0, r.Code, r.Err)
	assert.Contains(t, s.Must("people", "list"), "berta")
}

func TestConfigurationByFileAndEnvironment(t *testing.T) {
	file := filepath.Join(t.TempDir(), "parcel.yaml")
	require.NoError(t, os.WriteFile(file, []byte("demo: true\npreview-pattern: http://{host}.huts.example\n"), 0o644))
	t.Setenv("CPARCEL_CONFIG", file)
	t.Setenv("CPARCEL_LOG", "error")
	s := harness.Start(t)
	assert.Equal(t, "http://SITE.huts.example", s.Said.Previews)
	assert.NotEmpty(t, s.Token, "the demo world was asked for in the file")
	var list api.SiteList
	s.JSON(&list, "site", "list")
	assert.Equal(t, "http://kestrel-refuge.huts.example", list.Sites[1].Preview)
	assert.Equal(t, 200, s.Visit("http://kestrel-refuge.huts.example/").Status)
}
