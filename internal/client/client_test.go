package client

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/internal/api"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// answer is what the pretended service says to one call.
type answer struct {
	status int
	body   any
}

// pretend serves fixed answers and gives what the client asked.
func pretend(t *testing.T, answers map[string]answer) (server string, asked *[]*http.Request) {
	t.Helper()
	asked = &[]*http.Request{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		*asked = append(*asked, r)
		a, ok := answers[r.Method+" "+r.URL.Path]
		if !ok && strings.HasSuffix(r.URL.Path, "/faults") { // a kit's check asks for them, too
			a, ok = answer{200, api.FaultList{Faults: []faults.Fault{}}}, true
		}
		if !ok {
			w.WriteHeader(http.StatusTeapot)
			return
		}
		if b, ok := a.body.([]byte); ok {
			w.WriteHeader(a.status)
			w.Write(b)
			return
		}
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(a.status)
		json.NewEncoder(w).Encode(a.body)
	}))
	t.Cleanup(s.Close)
	t.Setenv("XDG_CONFIG_HOME", t.TempDir())
	t.Setenv("CPARCEL_TOKEN", "")
	t.Setenv("CPARCEL_SERVER", "")
	return s.URL, asked
}

func run(in string, args ...string) (code int, out, errOut string) {
	var o, e bytes.Buffer
	code = Run(context.Background(), args, strings.NewReader(in), &o, &e)
	return code, o.String(), e.String()
}

func TestAServerThatIsNone(t *testing.T) {
	server, _ := pretend(t, map[string]answer{"GET /api/v1/sites": {502, []byte("<html>bad gateway</html>")}})
	code, _, errOut := run("", "site", "list", "--server", server)
	assert.Equal(t, 1, code)
	assert.Contains(t, errOut, "is the address right?")
}

func TestWrongUse(t *testing.T) {
	pretend(t, nil)
	for _, args := range [][]string{{"site", "show"}, {"site", "nonsense"}, {"nonsense"}, {"kit", "seal"},
		{"deliver", "x@1.0.0"}, {"site", "list", "extra"}, {"site", "list", "-o", "yaml"},
		{"site", "list", "--no-such-flag"},
		{"deliver", "hut@1.0.0", "site", "--decide", "nonsense"},
		{"delivery", "show", "0"}, {"delivery", "undo", "-1"}, {"library", "add", "site", "nonsense"},
		{"kit", "add", "hut@1.0.0", "x"}, {"sign-in"}, {"sign-in", "--user", "ida"},
		{"sign-in", "--user", "ida", "--password-stdin"}} {
		code, _, errOut := run("", args...)
		assert.Equal(t, 2, code, "%v: %s", args, errOut)
		assert.NotEmpty(t, errOut, "%v", args)
	}
	for _, args := range [][]string{{}, {"--help"}, {"kit"}, {"kit", "seal", "--help"}, {"completion", "zsh"}} {
		code, out, _ := run("", args...)
		assert.Equal(t, 0, code, "%v", args)
		assert.NotEmpty(t, out, "%v", args)
	}
}

// Of one operation its help says what it takes, and one that lacks something is told how it is written.
func TestOneOperationIsExplained(t *testing.T) {
	pretend(t, nil)
	const written = `cparcel site edit SITE PAGE page-fold --value "/A/ /B/"`
	for _, args := range [][]string{{"site", "edit", "page-fold", "--help"},
		{"site", "edit", "hut", "/", "page-fold", "--help"}} {
		code, out, _ := run("", args...)
		assert.Equal(t, 0, code)
		assert.Contains(t, out, written)
		assert.NotContains(t, out, "styles-move")
	}
	code, _, errOut := run("", "site", "edit", "hut", "/", "page-fold")
	assert.Equal(t, 2, code)
	assert.Contains(t, errOut, "page-fold needs value, as in: "+written)
	_, out, _ := run("", "site", "edit", "--help")
	assert.Contains(t, out, "styles-move")
}

// A kit named without its version is the newest that is of use: a sealed one where it is got or delivered, the one that
// is being made where it is changed; which, is said.
func TestAKitWithoutItsVersion(t *testing.T) {
	list := api.KitList{Kits: []api.KitSummary{
		{Name: "barns", Version: "9.0.0", State: api.KitStateSealed},
		{Name: "huts", Version: "2.0.0", State: api.KitStateMaking},
		{Name: "huts", Version: "1.1.0", State: api.KitStateSealed},
		{Name: "huts", Version: "1.0.0", State: api.KitStateSealed},
	}}
	server, _ := pretend(t, map[string]answer{"GET /api/v1/kits": {200, list}})
	for says, args := range map[string][]string{
		"huts has no version named; this is huts@1.1.0": {"kit", "get", "huts"},
		"huts has no version named; this is huts@2.0.0": {"kit", "show", "huts"},
		"there is no kit \"hats\": cparcel kit list":    {"deliver", "hats", "larch-saddle"},
		"name a kit file that is there":                 {"deliver", "hats.cpkit", "larch-saddle"},
	} {
		t.Run(says, func(t *testing.T) {
			code, _, errOut := run("", append(args, "--server", server)...)
			assert.NotEqual(t, 0, code)
			assert.Contains(t, errOut, says)
		})
	}
	_, _, errOut := run("", "kit", "seal", "huts", "--server", server)
	assert.Contains(t, errOut, "huts@2.0.0")
}

func TestWhereServerAndTokenComeFrom(t *testing.T) {
	list := answer{200, api.SiteList{Sites: []api.Site{}}}
	server, asked := pretend(t, map[string]answer{
		"GET /api/v1/sites":          list,
		"POST /api/v1/session":       {200, api.Session{Name: "ida", Role: "keeper"}},
		"POST /api/v1/access-tokens": {201, api.NewToken{Id: 1, Name: "x", Token: "cpt_saved"}},
		"DELETE /api/v1/session":     {204, []byte{}},
	})
	sent := func() string { return (*asked)[len(*asked)-1].Header.Get("Authorization") }

	code, out, _ := run("a password\n", "sign-in", "--user", "ida", "--password-stdin", "--server", server)
	require.Equal(t, 0, code)
	assert.Contains(t, out, "as ida (keeper)")
	dir, err := os.UserConfigDir()
	require.NoError(t, err)
	info, err := os.Stat(filepath.Join(dir, "compact-parcel", "sign-in.json"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "nobody else reads it")

	code, out, _ = run("", "site", "list")
	require.Equal(t, 0, code)
	assert.Contains(t, out, "There is no site yet", "an empty list says what to do first")
	assert.Equal(t, "Bearer cpt_saved", sent(), "from the saved sign-in")
	t.Setenv("CPARCEL_TOKEN", "cpt_env")
	run("", "site", "list")
	assert.Equal(t, "Bearer cpt_env", sent(), "the environment wins over the saved")
	run("", "site", "list", "--token", "cpt_flag")
	assert.Equal(t, "Bearer cpt_flag", sent(), "a flag wins over all")

	other, otherAsked := pretend(t, map[string]answer{"GET /api/v1/sites": list})
	run("", "site", "list", "--server", other)
	assert.Empty(t, (*otherAsked)[0].Header.Get("Authorization"), "a saved token is never sent to another server")
}

func delivery() api.Delivery {
	digest := item.DigestOf([]byte("plan"))
	a := item.MustAddress
	return api.Delivery{
		Id:          4,
		Kit:         "hut-basics",
		Version:     "1.0.0",
		Site:        "larch-saddle",
		State:       "planned",
		PlanDigest:  &digest,
		LivePreview: "http://larch-saddle.localhost",
		Decisions:   map[string]string{},
		Fills:       map[string]string{},
		Plan: &plan.Plan{
			Kit:     "hut-basics",
			Version: "1.0.0",
			Terms:   kit.Terms{License: "CC-BY-4.0"},
			Rows: []plan.Row{
				{Address: a("menu/main"), Standing: plan.Taken, Why: "another", Choices: []plan.Choice{}},
				{
					Address:  a("part/top"),
					Standing: plan.New,
					Decision: plan.Take,
					Becomes:  a("part/top"),
					Why:      "new",
					Choices:  []plan.Choice{},
				},
			},
			Questions: []plan.Question{
				{
					Key:     "menu/main",
					Kind:    "item",
					Message: "The menu is taken.",
					Choices: []plan.Choice{
						{Decision: plan.Both, Effect: "beside"},
						{Decision: plan.Map, Effect: "another"},
					},
				},
				{Key: "fill:hut-name", Kind: "fill", Message: "A name is needed.", Choices: []plan.Choice{}},
			},
			Touched: []plan.TouchedPage{
				{Page: a("page/home"), Slug: "/", Ways: []string{"part/top", "menu/main"}},
			},
			Groups: []plan.NameGroup{{Key: "group:card", Classes: 2, Properties: 1}},
			Seats:  []plan.Seat{{Role: "header", Target: "everywhere", Site: a("part/own"), Kit: a("part/top")}},
			Needs: []plan.NeedRow{
				{What: "x-clock >=2", State: "too old", Message: "1.4"},
			},
			Fills:  []plan.FillRow{{Fillin: kit.Fillin{Name: "hut-name"}}},
			Tokens: []plan.TokenRow{{Property: "--ink", Site: "#000", Kit: "#111", Distance: 0.1}},
			Links: []plan.LinkRow{
				{From: a("menu/main"), Slug: "/gone/", Line: 3, State: "broken", Message: "no page is there"},
			},
			Scripts: []string{"component/x-clock: the component's script"},
			Notes:   []string{"asked again"},
		},
	}
}

func TestAPlanIsReadQuestionsFirst(t *testing.T) {
	server, _ := pretend(t, map[string]answer{"POST /api/v1/deliveries": {201, delivery()}})
	code, out, errOut := run("", "deliver", "hut-basics@1.0.0", "larch-saddle", "--server", server)
	assert.Equal(t, 3, code)
	last := -1
	for _, want := range []string{"Delivery 4: hut-basics@1.0.0 to larch-saddle", "Terms: CC-BY-4.0",
		"? The menu is taken.", "--decide menu/main=both   beside", "--decide menu/main=map:menu/NAME",
		"? A name is needed.", "--fill hut-name=…", "menu/main  taken", "part/top   new",
		"Touches /, through part/top and 1 more",
		`2 classes and 1 custom property on both sides, such as "card": open`,
		"Place of the header on everywhere", "Need x-clock >=2 is too old",
		"Token --ink: the site has #000, the kit #111 (distance 0.100)",
		"Link menu/main, line 3: /gone/ is broken: no page", "Code component/x-clock", "Note: asked again"} {
		t.Run(want, func(t *testing.T) {
			at := strings.Index(out, want)
			assert.Greater(t, at, last, "%q, in its order, in:\n%s", want, out)
			last = at
		})
	}
	assert.Contains(t, errOut, "cparcel delivery decide 4 --decide menu/main=both --fill 'hut-name=…'")
	code, out, _ = run("", "deliver", "hut-basics@1.0.0", "larch-saddle", "--server", server, "-o", "json")
	assert.Equal(t, 3, code)
	var again api.Delivery
	require.NoError(t, json.Unmarshal([]byte(out), &again))
	assert.Len(t, again.Plan.Questions, 2)
}

// A page is named as its address is written, more shortly, or as the item that it is.
func TestAPageIsNamedAsPeopleNameIt(t *testing.T) {
	a := item.MustAddress
	page := func(key, slug string) api.Item {
		return api.Item{Address: a("page/" + key), Meta: item.Meta{Slug: slug}}
	}
	home := a("page/front")
	server, asked := pretend(t, map[string]answer{
		"GET /api/v1/sites/larch-saddle/items": {200, api.ItemList{Home: &home, Items: []api.Item{
			page("front", "/front/"), page("write", "/contact/"), page("map", "/map.html"),
			{Address: a("part/lost"), Meta: item.Meta{Role: item.NotFound}},
			{Address: a("part/top"), Meta: item.Meta{Role: item.Header}}, {Address: a("menu/main")}}}},
		"GET /api/v1/sites/larch-saddle/outline": {200, api.PageOutline{}},
	})
	for said, want := range map[string]string{"/contact/": "/contact/", "/contact": "/contact/", "contact": "/contact/",
		"page/write": "/contact/", "write": "/contact/", "/contact/index.html": "/contact/", "page/front": "/",
		"index.html": "/", "map": "/map.html", "/map.html": "/map.html", "room/attic": "/room/attic/",
		"part/lost": "/404.html", "not-found": "/404.html", "search": "/search/"} {
		t.Run(said, func(t *testing.T) {
			*asked = nil
			code, _, errOut := run("", "site", "outline", "larch-saddle", said, "--server", server)
			require.Equal(t, 0, code, errOut)
			last := (*asked)[len(*asked)-1]
			assert.Equal(t, want, last.URL.Query().Get("path"), said)
			assert.Equal(t, said == "/contact/" || said == "/map.html", len(*asked) == 1, "%s asks for no list", said)
		})
	}
	code, _, errOut := run("", "site", "outline", "larch-saddle", "part/top", "--server", server)
	assert.Equal(t, 2, code)
	assert.Contains(t, errOut, "part/top is no page: it stands on pages")
}

func TestADeliveryGoesAsFarAsItCan(t *testing.T) {
	d := delivery()
	d.Plan.Questions = []plan.Question{}
	staged, live := d, d
	preview, number, rev := "http://d1.localhost", int64(1), int64(9)
	staged.State, staged.Preview, staged.Draft = "staged", &preview, &number
	live.State, live.LiveRevision, live.Receipt = "live", &rev, &api.Receipt{
		Renames:   []plan.NameChange{{From: item.MustAddress("menu/main"), To: item.MustAddress("menu/main-2")}},
		Checklist: []string{"look at the logo"},
	}
	server, asked := pretend(
		t,
		map[string]answer{
			"POST /api/v1/deliveries":         {201, d},
			"POST /api/v1/deliveries/4/stage": {200, staged},
			"POST /api/v1/deliveries/4/live":  {200, live},
			"GET /api/v1/deliveries/4":        {200, live},
		},
	)
	code, out, _ := run("", "deliver", "hut-basics@1.0.0", "larch-saddle", "--server", server)
	assert.Equal(t, 0, code)
	assert.Contains(t, out, "the live site is as it was")
	assert.Equal(t, string(*d.PlanDigest), (*asked)[1].URL.Query().Get("plan"), "staged is the plan that was shown")
	code, out, _ = run("", "deliver", "hut-basics@1.0.0", "larch-saddle", "--live", "--server", server)
	assert.Equal(t, 0, code)
	for _, want := range []string{"is live as revision 9", "menu/main came in as menu/main-2",
		"to do look at the logo"} {
		assert.Contains(t, out, want)
	}
	code, out, _ = run("", "delivery", "show", "4", "--server", server)
	assert.Equal(t, 0, code)
	assert.Contains(t, out, "is live as revision 9")
}

func TestOneItemOfADeliveryIsTakenBack(t *testing.T) {
	d, rev := delivery(), int64(9)
	taken, edited := item.MustAddress("part/lost"), item.MustAddress("page/home")
	d.State, d.LiveRevision = "live", &rev
	d.Receipt = &api.Receipt{Undone: []item.Address{taken}, Checklist: []string{"look at the logo"}}
	server, _ := pretend(t, map[string]answer{"POST /api/v1/deliveries/4/undo": {200, d}})
	code, out, errOut := run("", "delivery", "undo", "4", "--item", "part/lost", "--item", "page/home", "--keep-edited",
		"--server", server)
	require.Equal(t, 0, code, errOut)
	assert.Contains(t, out, "part/lost is as it was before delivery 4.")
	assert.Contains(t, out, edited.String()+" stays as it is")
	assert.NotContains(t, out, "look at the logo", "what is to do for the rest was told when it went live")
}

func TestACommandLookedForInAnotherPlaceIsFound(t *testing.T) {
	code, _, errOut := run("", "draft", "go-live", "larch-saddle", "3")
	assert.Equal(t, 2, code)
	assert.Contains(t, errOut, "cparcel site go-live SITE DRAFT")
	_, _, errOut = run("", "draft", "faults", "larch-saddle", "--all")
	assert.Contains(t, errOut, `there is no command "cparcel draft faults"`, "not its flag is wrong")
	_, _, errOut = run("", "publish")
	assert.Contains(t, errOut, "cparcel site publish SITE")
	_, _, errOut = run("", "list")
	assert.Contains(t, errOut, "cparcel --help", "too many have that name")
}

func TestPublishingNeverOverwrites(t *testing.T) {
	server, _ := pretend(
		t,
		map[string]answer{
			"GET /api/v1/sites/x":            {200, api.Site{Name: "x"}},
			"POST /api/v1/sites/x/published": {200, []byte("no zip")},
		},
	)
	dir := t.TempDir()
	full := filepath.Join(dir, "full")
	require.NoError(t, os.MkdirAll(full, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(full, "mine.html"), []byte("mine"), 0o644))
	code, _, errOut := run("", "site", "publish", "x", full, "--server", server)
	assert.Equal(t, 5, code)
	assert.Contains(t, errOut, "nothing in it is overwritten")
	fresh := filepath.Join(dir, "fresh")
	code, _, _ = run("", "site", "publish", "x", fresh, "--server", server)
	assert.Equal(t, 1, code)
	assert.NoDirExists(t, fresh, "nothing half done is left")
}

func TestADownloadedKitIsChecked(t *testing.T) {
	server, _ := pretend(t, map[string]answer{"GET /api/v1/kits/hut/1.0.0/file": {200, []byte("PK but no kit")}})
	file := filepath.Join(t.TempDir(), "hut.cpkit")
	code, _, errOut := run("", "kit", "get", "hut@1.0.0", "-f", file, "--server", server)
	assert.Equal(t, 1, code)
	assert.Contains(t, errOut, "what arrived is not this kit")
	assert.NoFileExists(t, file)
	assert.NoFileExists(t, file+".part")
}

func TestWeights(t *testing.T) {
	for n, want := range map[int64]string{0: "0 B", 1023: "1023 B", 1024: "1.0 KB", 1 << 20: "1.0 MB",
		3<<20 + 1<<19: "3.5 MB"} {
		assert.Equal(t, want, weight(n))
	}
}
