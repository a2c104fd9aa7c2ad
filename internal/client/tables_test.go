package client

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
	"compactparcel/internal/api"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func ptr[T any](v T) *T { return &v }

var day = time.Date(2026, 3, 14, 9, 26, 0, 0, time.Local)

// Every list is a table of what came, says what to do when it is empty, and is the answer
// itself, to the letter, as JSON.
func TestLists(t *testing.T) {
	a := item.MustAddress
	digest := item.DigestOf([]byte("x"))
	for name, c := range map[string]struct {
		args  []string
		path  string
		full  any
		want  []string
		empty any
		hint  string
	}{
		"sites": {
			[]string{"site", "list"}, "/api/v1/sites",
			api.SiteList{Sites: []api.Site{{Name: "larch-saddle", Title: "Larch Saddle", Pages: 7, Items: 31,
				OpenDrafts: 2,
				Revision:   12, Digest: digest, Preview: "http://larch-saddle.localhost"}}},
			[]string{"larch-saddle", "Larch Saddle", "7", "31", "2", "12", short(string(digest)), "localhost"},
			api.SiteList{Sites: []api.Site{}}, "cparcel site adopt",
		},
		"history": {
			[]string{"site", "history", "larch-saddle"}, "/api/v1/sites/larch-saddle/revisions",
			api.RevisionList{Revisions: []api.Revision{{Revision: 12, At: day, By: "ida", Act: "deliver",
				Message: "hut-basics@1.0.0 (delivery 4)", Digest: digest, Changed: 9, Delivery: ptr(int64(4))}}},
			[]string{"12", "2026-03-14 09:26", "ida", "9", "hut-basics@1.0.0 (delivery 4)"},
			api.RevisionList{Revisions: []api.Revision{}}, "Nothing has changed it yet",
		},
		"drafts": {
			[]string{"draft", "list", "larch-saddle"}, "/api/v1/sites/larch-saddle/drafts",
			api.DraftList{Drafts: []api.Draft{{Id: 4, Name: "spring", By: "ida", CreatedAt: day, LiveAt: &day},
				{Id: 5, Name: "snow", By: "olga", CreatedAt: day, LiveSays: ptr("the same was changed")}}},
			[]string{"spring", "2026-03-14 09:26", "snow", "not: the same was changed"},
			api.DraftList{Drafts: []api.Draft{}}, "No open drafts",
		},
		"surround": {
			[]string{"site", "surround", "larch-saddle", "/rooms/"}, "/api/v1/sites/larch-saddle/surround",
			api.Surround{Path: "/rooms/", Parts: []render.PartAssignment{{Role: "header", Part: a("part/top"),
				Ties: []item.Address{a("part/other")}, Why: "placed on everywhere"},
				{Role: "footer", Why: "no part"}}},
			[]string{"header", "part/top", "placed on everywhere", "a tie with part/other", "footer", "–"},
			api.Surround{Path: "/rooms/", Parts: []render.PartAssignment{}}, "Nothing surrounds it",
		},
		"outlets": {
			[]string{"site", "outlet", "list", "larch-saddle"}, "/api/v1/sites/larch-saddle/outlets",
			api.OutletList{Outlets: []api.Outlet{
				{Name: "main", Folder: "larch/main", Base: "/", Links: "rooted", Release: 5, PublishedAt: &day},
				{Name: "trial", Folder: "larch/trial", Base: "/t/", Links: "relative", Behind: true, TryAt: &day,
					Message: "the disk is full"}}},
			[]string{"larch/main", "2026-03-14 09:26", "up to date", "behind, tried again 09:26:00",
				"the disk is full"},
			api.OutletList{Outlets: []api.Outlet{}}, "cparcel site outlet add larch-saddle main",
		},
		"library": {
			[]string{"library", "list"}, "/api/v1/library",
			api.ItemList{Items: []api.Item{{Address: a("section/hours"), Meta: item.Meta{Title: "Hours"},
				Bytes: 2048}}},
			[]string{"section/hours", "Hours", "2.0 KB"},
			api.ItemList{Items: []api.Item{}}, "cparcel library add SITE ADDRESS",
		},
		"kits": {
			[]string{"kit", "list"}, "/api/v1/kits",
			api.KitList{Kits: []api.KitSummary{{Name: "hut-basics", Version: "1.0.0", State: "sealed", Items: 14,
				FileBytes: 3 << 20, License: "CC-BY-4.0", Title: "Hut basics"}, {Name: "new", Version: "0.1.0",
				State: "making"}}},
			[]string{"hut-basics", "1.0.0", "sealed", "14", "3.0 MB", "CC-BY-4.0", "Hut basics", "making", "–"},
			api.KitList{Kits: []api.KitSummary{}}, "cparcel kit new",
		},
		"kit check": {
			[]string{"kit", "check", "hut@1.0.0"}, "/api/v1/kits/hut/1.0.0",
			api.Kit{Findings: []kit.Finding{{Message: "it has no licence", Remedy: "name one"},
				{Address: a("page/home"), Line: 4, Message: "2 pictures have no text"}}},
			[]string{"note", "the kit", "it has no licence – name one", "page/home:4", "2 pictures have no text"},
			api.Kit{}, "nothing prevents sealing",
		},
		"resolution": {
			[]string{"kit", "resolve", "hut@1.0.0", "larch-saddle"}, "/api/v1/kits/hut/1.0.0/resolution",
			api.KitResolution{Fits: true, Kits: []api.ResolvedKit{{Kit: "looks", Version: "2.1.0"},
				{Kit: "icons", Version: "1.4.0", Here: true}}, Unmet: []string{"x-clock >=2"}},
			[]string{"looks", "2.1.0", "to be delivered first", "icons", "is there",
				"Optional and not met: x-clock >=2"},
			api.KitResolution{Fits: true}, "needs no other kit on larch-saddle",
		},
		"accounts": {
			[]string{"people", "list"}, "/api/v1/users",
			api.UserList{Users: []api.User{{Name: "ida", Role: "keeper", CreatedAt: day},
				{Name: "tomas", Role: "viewer",
					Disabled: true, CreatedAt: day}}},
			[]string{"ida", "keeper", "on", "2026-03-14", "tomas", "switched off"},
			api.UserList{Users: []api.User{}}, "There is no account yet",
		},
		"tokens": {
			[]string{"token", "list"}, "/api/v1/access-tokens",
			api.TokenList{Tokens: []api.Token{{Id: 7, Name: "ci", CreatedAt: day},
				{Id: 8, Name: "screen", Scope: ptr(api.Role("viewer")), CreatedAt: day, ExpiresAt: &day,
					UsedAt: &day}}},
			[]string{"7", "ci", "all", "no end", "never", "8", "screen", "viewer", "2026-03-14", "2026-03-14 09:26"},
			api.TokenList{Tokens: []api.Token{}}, "There is no access token",
		},
		"sign-ins": {
			[]string{"account", "sign-ins"}, "/api/v1/sessions",
			api.SessionList{Sessions: []api.SignedIn{{Id: "s1", Agent: "Firefox", Place: "127.0.0.1", StartedAt: day,
				SeenAt: day}}},
			[]string{"s1", "Firefox", "127.0.0.1", "2026-03-14 09:26"},
			api.SessionList{Sessions: []api.SignedIn{}}, "Nobody is signed in",
		},
		"trusted keys": {
			[]string{"trust", "list"}, "/api/v1/trust/keys",
			api.TrustKeyList{Keys: []api.TrustKey{{Id: 2, Team: "huts", Name: "ida", KeyId: "ab12", CreatedAt: day}}},
			[]string{"2", "huts", "ida", "ab12", "2026-03-14"},
			api.TrustKeyList{Keys: []api.TrustKey{}}, "cparcel trust add",
		},
		"deliveries": {
			[]string{"delivery", "list"}, "/api/v1/deliveries",
			api.DeliveryList{Deliveries: []api.DeliveryRow{{Id: 4, Kit: "hut-basics", Version: "1.0.0",
				Site: "larch-saddle", State: "staged", By: "warden", UpdatedAt: day}}},
			[]string{"4", "hut-basics@1.0.0", "larch-saddle", "staged", "warden", "2026-03-14 09:26"},
			api.DeliveryList{Deliveries: []api.DeliveryRow{}}, "cparcel deliver NAME@VERSION SITE",
		},
	} {
		t.Run(name, func(t *testing.T) {
			server, asked := pretend(t, map[string]answer{"GET " + c.path: {200, c.full}})
			args := append(c.args, "--server", server)
			code, out, errOut := run("", args...)
			require.Equal(t, 0, code, errOut)
			last := -1
			for _, want := range c.want {
				at := strings.Index(out[last+1:], want)
				require.GreaterOrEqual(t, at, 0, "%q in its order in\n%s", want, out)
				last += 1 + at
			}
			if name != "kit check" { // asks for the faults of its pages, too
				assert.Len(t, *asked, 1)
			}

			code, out, _ = run("", append(args, "-o", "json")...)
			require.Equal(t, 0, code)
			if name != "kit check" { // gives the findings alone
				whole, err := json.Marshal(c.full)
				require.NoError(t, err)
				assert.JSONEq(t, string(whole), out)
			}

			server, _ = pretend(t, map[string]answer{"GET " + c.path: {200, c.empty}})
			code, out, _ = run("", append(c.args, "--server", server)...)
			assert.Equal(t, 0, code)
			assert.Contains(t, out, c.hint)
		})
	}
}

// What an answer cannot be used for ends with its own exit code.
func TestRefusalsEndWithTheirOwnCode(t *testing.T) {
	server, _ := pretend(t, map[string]answer{
		"GET /api/v1/kits/hut/1.0.0": {200, api.Kit{Findings: []kit.Finding{
			{Stops: true, Address: item.MustAddress("page/home"), Line: 3, Message: "a blank would run"}}}},
		"GET /api/v1/kits/hut/1.0.0/resolution": {200, api.KitResolution{Chain: []string{"hut needs looks ^2"}}},
	})
	code, out, errOut := run("", "kit", "check", "hut@1.0.0", "--server", server)
	assert.Equal(t, Refused, code)
	assert.Contains(t, out, "page/home:3")
	assert.Contains(t, errOut, "1 finding")
	code, out, errOut = run("", "kit", "resolve", "hut@1.0.0", "tarn", "--server", server)
	assert.Equal(t, Refused, code)
	assert.Contains(t, out, "hut needs looks ^2")
	assert.NotEmpty(t, errOut)
}

func TestASiteAndAnItemAreShown(t *testing.T) {
	a := item.MustAddress
	detail := api.ItemDetail{
		Item:    api.Item{Address: a("page/home"), Meta: item.Meta{Title: "Home"}, Bytes: 100},
		UsedBy:  []api.Address{a("menu/main")},
		Content: ptr("<h1>Larch Saddle</h1>\n"),
		Origin:  &api.OriginNote{Kit: "hut-basics", Version: "1.0.0", Address: "page/home", Delivery: 4},
	}
	server, asked := pretend(t, map[string]answer{
		"GET /api/v1/sites/larch-saddle": {200, api.Site{Name: "larch-saddle"}},
		"GET /api/v1/sites/larch-saddle/items": {
			200,
			api.ItemList{Revision: 12, Home: &detail.Item.Address, Items: []api.Item{detail.Item,
				{Address: a("part/top"), Meta: item.Meta{Role: "header",
					Placement: &item.Placement{Where: []string{"everywhere"}}}}}},
		},
		"GET /api/v1/sites/larch-saddle/drafts": {200,
			api.DraftList{Drafts: []api.Draft{{Id: 3, Name: "edits", By: "ida"}}}},
		"GET /api/v1/sites/larch-saddle/item": {200, detail},
	})
	code, out, errOut := run("", "site", "show", "larch-saddle", "--server", server)
	require.Equal(t, 0, code, errOut)
	for _, want := range []string{"larch-saddle, revision 12", "page/home", "the home page", "part/top",
		"Draft 3 “edits” by ida"} {
		assert.Contains(t, out, want)
	}
	code, _, _ = run("", "site", "show", "larch-saddle", "--draft", "3", "--server", server)
	require.Equal(t, 0, code)
	found := false
	for _, r := range *asked {
		found = found || r.URL.Path == "/api/v1/sites/larch-saddle/items" && r.URL.Query().Get("draft") == "3"
	}
	assert.True(t, found, "the draft's items were asked for")
	code, out, errOut = run("", "site", "show", "larch-saddle", "page/home", "--server", server)
	require.Equal(t, 0, code, errOut)
	for _, want := range []string{"page/home “Home” in larch-saddle",
		"It came from hut-basics@1.0.0, page/home (delivery 4)",
		"It uses nothing", "Used by menu/main", "<h1>Larch Saddle</h1>"} {
		assert.Contains(t, out, want)
	}
}

// Trust is read before it is changed, so that one option leaves the other as it was.
func TestASitesTrustIsShownAndSet(t *testing.T) {
	for _, c := range []struct {
		now  api.SiteTrust
		args []string
		want string
	}{
		{api.SiteTrust{Policy: "ignore"}, nil, "accepts kits whether they are signed or not"},
		{api.SiteTrust{Policy: "warn"}, nil, "warns of kits that are not signed by any trusted key"},
		{api.SiteTrust{Policy: "require", Team: "huts"}, nil,
			"accepts only kits that are signed by a key that huts trusts"},
		{api.SiteTrust{Policy: "require", Team: "huts"}, []string{"--team", ""}, ""},
	} {
		server, asked := pretend(t, map[string]answer{"GET /api/v1/sites/tarn/trust": {200, c.now},
			"PUT /api/v1/sites/tarn/trust": {200, api.SiteTrust{Policy: c.now.Policy}}})
		code, out, errOut := run("", append([]string{"site", "trust", "tarn", "--server", server}, c.args...)...)
		require.Equal(t, 0, code, errOut)
		assert.Contains(t, out, c.want)
		if c.args != nil {
			require.Len(t, *asked, 2)
			assert.Contains(t, out, "any trusted key")
		}
	}
}
