package test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type m = map[string]any

// staged opens a delivery with all answers and stages it.
func staged(t *testing.T, s *harness.Service, version string) api.Delivery {
	t.Helper()
	var d api.Delivery
	r := s.Call(
		"POST",
		"/api/v1/deliveries",
		m{
			"kit":       "hut-basics",
			"version":   version,
			"site":      "larch-saddle",
			"decisions": m{"menu/main": "both"},
			"fills":     m{"hut-name": "Larch Saddle"},
		},
	)
	require.Equal(t, 201, r.Status, string(r.Body))
	r.Into(t, &d)
	r = s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage?plan=%s", d.Id, *d.PlanDigest), nil)
	require.Equal(t, 200, r.Status, string(r.Body))
	r.Into(t, &d)
	return d
}

func fails(t *testing.T, r harness.Reply, status int, typ, says string) {
	t.Helper()
	var p api.Problem
	require.Equal(t, status, r.Status, string(r.Body))
	assert.Equal(t, "application/problem+json", r.Header.Get("Content-Type"))
	r.Into(t, &p)
	assert.Equal(t, typ, string(p.Type))
	assert.Contains(t, p.Detail, says)
	require.NotNil(t, p.Remedy)
	assert.NotEmpty(t, p.Remedy.Code)
}

func TestStoryOverTheNetwork(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var was api.Site
	s.Call("GET", "/api/v1/sites/larch-saddle", nil).Into(t, &was)

	require.Equal(
		t,
		201,
		s.Call("POST", "/api/v1/kits",
			m{"name": "hut-basics", "version": "0.1.0", "title": "Hut basics", "license": "CC-BY-4.0"}).Status,
	)
	r := s.Call(
		"POST",
		"/api/v1/kits/hut-basics/0.1.0/picks",
		m{
			"picks": []m{
				{"from": "kestrel-refuge", "address": "section/opening-hours"},
				{"from": "kestrel-refuge", "address": "part/site-header"},
			},
		},
	)
	var k api.Kit
	r.Into(t, &k)
	var held []string
	for _, i := range k.Items {
		held = append(held, i.Address.String())
	}
	assert.Equal(
		t,
		[]string{
			"section/opening-hours",
			"part/site-header",
			"stylesheet/base",
			"tokens/brand",
			"media/hut-door.jpg",
			"menu/main",
		},
		held,
		"the rules, the picture, the menu and the tokens come along",
	)
	require.Len(t, k.Weights, 1)
	assert.Less(t, k.Weights[0].Rules, k.Weights[0].WholeRules, "rules that the pieces do not use stay behind")

	// What can be edited has an ETag, and a stale one is refused.
	old := r.Header.Get("ETag")
	words := m{
		"title":   "Hut basics",
		"summary": "s",
		"changes": "",
		"terms":   m{"license": "CC-BY-4.0", "resale": false},
		"fillins": m{"hut-name": m{"name": "hut-name", "label": "Name of the hut", "type": "text", "required": true}},
	}
	require.Equal(t, 200, s.Call("PATCH", "/api/v1/kits/hut-basics/0.1.0", words, "If-Match", old).Status)
	fails(t, s.Call("PATCH", "/api/v1/kits/hut-basics/0.1.0", words, "If-Match", old), 412, "stale",
		"somebody else has changed it")
	require.Equal(t, 200, s.Call("POST", "/api/v1/kits/hut-basics/0.1.0/seal", nil).Status)

	file := s.Call("GET", "/api/v1/kits/hut-basics/0.1.0/file", nil)
	assert.Equal(t, kit.MediaType, file.Header.Get("Content-Type"))
	opened, err := kit.Open(bytes.NewReader(file.Body), int64(len(file.Body)))
	require.NoError(t, err)
	require.NoError(t, opened.Verify())
	assert.Equal(t, "Name of the hut", opened.List.Fillins[0].Label)

	r = s.Call("POST", "/api/v1/deliveries", m{"kit": "hut-basics", "version": "0.1.0", "site": "larch-saddle"})
	var d api.Delivery
	r.Into(t, &d)
	assert.Len(t, d.Plan.Questions, 2)
	fails(t, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil), 409, "waits-for-decisions",
		"2 questions are open")
	r = s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id),
		m{"decisions": m{"menu/main": "both"}, "fills": m{"hut-name": "Larch <Saddle>"}}, "If-Match",
		r.Header.Get("ETag"))
	require.Equal(t, 200, r.Status, string(r.Body))
	r.Into(t, &d)
	assert.Empty(t, d.Plan.Questions)
	fails(t, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id), nil), 409, "refused", "it is planned")
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil).Into(t, &d)
	assert.Contains(t, string(s.Visit(*d.Preview+"/").Body), "Larch &lt;Saddle&gt;")
	assert.Equal(t, 404, s.Visit("http://d1-00000000000000000000--larch-saddle.localhost:"+s.Preview+"/").Status,
		"a draft's address cannot be guessed")
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id), nil).Into(t, &d)
	assert.Equal(t, api.DeliveryStateLive, d.State)
	assert.NotEmpty(t, d.Receipt.Checklist)

	// Where an item came from is remembered.
	var it api.ItemDetail
	s.Call("GET", "/api/v1/sites/larch-saddle/item?address=menu/main-2", nil).Into(t, &it)
	assert.Equal(t, "menu/main", it.Origin.Address)

	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/undo", d.Id), nil).Into(t, &d)
	var now api.Site
	s.Call("GET", "/api/v1/sites/larch-saddle", nil).Into(t, &now)
	assert.Equal(t, was.Digest, now.Digest)
	fails(t, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/undo", d.Id), nil), 409, "refused", "it is undone")
}

func TestPreviewsAreVisitorsViews(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	r := s.Visit(s.Live("kestrel-refuge") + "/")
	assert.Equal(t, 200, r.Status)
	assert.Contains(t, r.Header.Get("Content-Security-Policy"), "script-src 'self'",
		"scripts are approved for this site")
	assert.Contains(t, s.Visit(s.Live("larch-saddle")+"/").Header.Get("Content-Security-Policy"),
		"script-src larch-saddle.localhost:"+s.Preview+"/_cp/engine/;", "only the engine's own")
	lost := s.Visit(s.Live("kestrel-refuge") + "/nowhere/")
	assert.Equal(t, 404, lost.Status)
	assert.Contains(t, string(lost.Body), "Lost in the fog")
	assert.Equal(t, 404, s.Visit("http://nobody.localhost:"+s.Preview+"/").Status)
	assert.Contains(t, string(s.Visit(s.Live("kestrel-refuge")+"/search/?q=bridge").Body), "Getting here")
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/room/attic/").Status)
	assert.Equal(t, 302, s.Visit(s.Live("kestrel-refuge")+"/contact").Status)
	// Every asset that a page names is there, for good.
	for _, part := range strings.Split(string(r.Body), `"/_cp/`)[1:] {
		path, _, _ := strings.Cut(part, `"`)
		a := s.Visit(s.Live("kestrel-refuge") + "/_cp/" + path)
		assert.Equal(t, 200, a.Status, path)
		assert.Contains(t, a.Header.Get("Cache-Control"), "immutable")
	}
}

func TestRightsAndSignIn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	fails(t, s.Call("GET", "/api/v1/sites", nil, "Authorization", ""), 401, "not-signed-in", "nobody is signed in")
	fails(t, s.Call("POST", "/api/v1/session", m{"name": "nobody", "password": "x"}), 401, "not-signed-in",
		"wrong name or password")

	// A session by cookie, as the console has it.
	r := s.Call("POST", "/api/v1/session", m{"name": "visitor", "password": "highmoor-demo"}, "Authorization", "")
	require.Equal(t, 200, r.Status)
	cookie := r.Header.Get("Set-Cookie")
	assert.Contains(t, cookie, "HttpOnly")
	assert.Contains(t, cookie, "SameSite=Strict")
	value, _, _ := strings.Cut(cookie, ";")
	as := []string{"Authorization", "", "Cookie", value}
	assert.Equal(t, 200, s.Call("GET", "/api/v1/sites", nil, as...).Status)
	fails(t, s.Call("POST", "/api/v1/kits", m{"name": "x", "version": "1.0.0"}, as...), 403, "forbidden",
		"visitor has the role viewer")
	fails(t, s.Call("POST", "/api/v1/deliveries/1/live", nil, as...), 403, "forbidden", "needs the role keeper")
	fails(t, s.Call("GET", "/api/v1/users", nil, as...), 403, "forbidden", "needs the role admin")
	cross := s.Call("POST", "/api/v1/kits", m{"name": "x", "version": "1.0.0"},
		append(as, "Origin", "http://elsewhere.example", "Sec-Fetch-Site", "cross-site")...)
	fails(t, cross, 403, "forbidden", "from another site")
	assert.Equal(t, 204, s.Call("DELETE", "/api/v1/session", nil, as...).Status)
	assert.Equal(t, 401, s.Call("GET", "/api/v1/sites", nil, as...).Status, "the session has ended")

	// Attempts are limited.
	last := 0
	for range 12 {
		last = s.Call("POST", "/api/v1/session", m{"name": "ida", "password": "guess"}).Status
	}
	assert.Equal(t, http.StatusTooManyRequests, last)
}

func TestFirstStartMakesTheFirstAdmin(t *testing.T) {
	s := harness.Start(t)
	_, link, ok := strings.Cut(s.Said.SetUp, "/set-up#")
	require.True(t, ok, s.Said)
	fails(t, s.Call("POST", "/api/v1/setup", m{"link": "wrong", "name": "warden", "password": "long enough 1"}), 403,
		"forbidden", "this link was used")
	fails(t, s.Call("POST", "/api/v1/setup", m{"link": link, "name": "warden", "password": "short"}), 400, "bad-input",
		"at least 10")
	require.Equal(t, 204,
		s.Call("POST", "/api/v1/setup", m{"link": link, "name": "warden", "password": "long enough 1"}).Status)
	fails(t, s.Call("POST", "/api/v1/setup", m{"link": link, "name": "second", "password": "long enough 1"}), 403,
		"forbidden", "this link was used")
	assert.Equal(t, 200, s.Call("POST", "/api/v1/session", m{"name": "warden", "password": "long enough 1"}).Status)
	assert.Equal(t, 200, s.Call("GET", "/metrics", nil).Status)
	assert.Equal(t, 200, s.Call("GET", "/healthz", nil).Status)
}

func TestStrangersFilesAreCheckedBeforeBelieved(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	good := s.Call("GET", "/api/v1/kits/hut-basics/0.1.0/file", nil).Body
	repack := func(change func(name string, body []byte) (string, []byte), extra ...string) []byte {
		z, err := zip.NewReader(bytes.NewReader(good), int64(len(good)))
		require.NoError(t, err)
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		for _, f := range z.File {
			var b bytes.Buffer
			r, err := f.Open()
			require.NoError(t, err)
			_, err = b.ReadFrom(r)
			require.NoError(t, err)
			name, body := change(f.Name, b.Bytes())
			if name == "" {
				continue
			}
			x, err := w.Create(name)
			require.NoError(t, err)
			x.Write(body)
		}
		for _, e := range extra {
			x, err := w.Create(e)
			require.NoError(t, err)
			x.Write([]byte("x"))
		}
		require.NoError(t, w.Close())
		return out.Bytes()
	}
	same := func(n string, b []byte) (string, []byte) { return n, b }
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"missing": {repack(func(n string, b []byte) (string, []byte) {
			return map[bool]string{true: "", false: n}[n == "menus/main.json"], b
		}), "menus/main.json: the packing list names it, and it is missing"},
		"changed": {repack(func(n string, b []byte) (string, []byte) {
			return n, bytes.Replace(b, []byte("Sample"), []byte("Simple"), 1)
		}), "sections/opening-hours.html"},
		"unnamed":   {repack(same, "extra.html"), "extra.html: the packing list does not name it"},
		"traversal": {repack(same, "../out.html"), "leaves its folder"},
		"twice":     {repack(same, "Menus/Main.json"), "same as"},
		"no zip":    {[]byte("PK nonsense"), "this is not a kit"},
		"cut off":   {good[:len(good)/2], "cannot be read as a ZIP"},
		"newer": {repack(func(n string, b []byte) (string, []byte) {
			return n, bytes.Replace(b, []byte(`"format":1`), []byte(`"format":9`), 1)
		}), "newer format"},
	} {
		t.Run(
			name,
			func(t *testing.T) { fails(t, s.Call("POST", "/api/v1/kit-files", c.file), 409, "refused", c.says) },
		)
	}
	rebuilt := repack(func(n string, b []byte) (string, []byte) {
		return n, bytes.Replace(b, []byte("Hut basics"), []byte("Hut Basics"), 1)
	})
	fails(t, s.Call("POST", "/api/v1/kit-files", rebuilt), 409, "refused", "rebuilt")
	var kits api.KitList
	s.Call("GET", "/api/v1/kits", nil).Into(t, &kits)
	assert.Len(t, kits.Kits, 1, "nothing of all this was kept")
	renamed := repack(func(n string, b []byte) (string, []byte) {
		return n, bytes.Replace(b, []byte(`"kit":"hut-basics"`), []byte(`"kit":"other"`), 1)
	})
	assert.Equal(t, 201, s.Call("POST", "/api/v1/kit-files", renamed).Status, "an honest kit of another name comes in")
	listless := repack(func(n string, b []byte) (string, []byte) {
		return map[bool]string{true: "", false: n}[n == "packing-list.json"], b
	})
	var in api.Intake
	r := s.Call("POST", "/api/v1/kit-files?as=again@1.0.0", listless)
	assert.Equal(t, 201, r.Status)
	r.Into(t, &in)
	assert.Equal(t, "making", string(in.Kits[0].State),
		"without its list it is no kit; its pieces are known all the same")
	var held []string
	for _, i := range in.Kits[0].Items {
		held = append(held, i.Address.String())
	}
	assert.Contains(t, held, "section/opening-hours")
}

func TestTwoGoLivesOfOneItem(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	edit := func(text string) int64 {
		var it api.ItemDetail
		r := s.Call("GET", "/api/v1/sites/larch-saddle/item?address=page/home", nil)
		r.Into(t, &it)
		var e api.Edited
		s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=page/home",
			m{"content": strings.Replace(*it.Content, "<h1>", "<h1>"+text, 1)},
			"If-Match", r.Header.Get("ETag")).
			Into(t, &e)
		return e.Draft
	}
	one, two := edit("One: "), edit("Two: ")
	var wg sync.WaitGroup
	replies := make([]harness.Reply, 2)
	for i, d := range []int64{one, two} {
		wg.Add(1)
		go func() {
			defer wg.Done()
			replies[i] = s.Call("POST", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d/live", d), nil)
		}()
	}
	wg.Wait()
	lost := replies[0]
	if lost.Status == 200 {
		lost = replies[1]
	}
	assert.ElementsMatch(t, []int{200, 412}, []int{replies[0].Status, replies[1].Status},
		"one goes live, the other is told")
	fails(t, lost, 412, "stale", "the live site changed the same since: page/home")

	// A draft that touches something else goes live past it.
	r := s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=block/new", m{"content": "<p>new</p>"})
	var e api.Edited
	r.Into(t, &e)
	assert.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d/live", e.Draft), nil).Status)
	fails(t, s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=page/home", m{"content": "x"}), 409, "exists",
		"already exists")
	fails(t, s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=menu/new", m{"content": "{"}), 400, "bad-input",
		"JSON")
}

// atOnce sends the same request several times at the same moment.
func atOnce(s *harness.Service, n int, method, path string, body any) map[int]int {
	var wg sync.WaitGroup
	var mu sync.Mutex
	got := map[int]int{}
	for range n {
		wg.Add(1)
		go func() {
			defer wg.Done()
			r := s.Call(method, path, body)
			mu.Lock()
			got[r.Status]++
			mu.Unlock()
		}()
	}
	wg.Wait()
	return got
}

func TestManyAtOnceDoItOnce(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	before := digest(t, s, "larch-saddle")
	got := atOnce(s, 5, "POST", "/api/v1/kits", m{"name": "hut-basics", "version": "0.1.0", "license": "CC-BY-4.0"})
	assert.Equal(t, map[int]int{201: 1, 409: 4}, got, "one begins the kit")
	got = atOnce(
		s,
		5,
		"POST",
		"/api/v1/kits/hut-basics/0.1.0/picks",
		m{
			"picks": []m{
				{"from": "kestrel-refuge", "address": "section/opening-hours"},
				{"from": "kestrel-refuge", "address": "part/site-header"},
			},
		},
	)
	assert.Equal(t, map[int]int{200: 5}, got)
	got = atOnce(s, 5, "POST", "/api/v1/kits/hut-basics/0.1.0/seal", nil)
	assert.Equal(t, map[int]int{200: 1, 409: 4}, got, "one seals it")
	file := s.Call("GET", "/api/v1/kits/hut-basics/0.1.0/file", nil).Body
	assert.Equal(t, map[int]int{201: 5}, atOnce(s, 5, "POST", "/api/v1/kit-files", file),
		"the very same file may come in as often as one likes")

	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries",
		m{"kit": "hut-basics", "version": "0.1.0", "site": "larch-saddle", "decisions": m{"menu/main": "both"},
			"fills": m{"hut-name": "Larch"}}).
		Into(t, &d)
	path := fmt.Sprintf("/api/v1/deliveries/%d", d.Id)
	got = atOnce(s, 5, "POST", path+"/stage", nil)
	assert.NotZero(t, got[200])
	assert.Equal(t, 5, got[200]+got[412], "one stages it; the others find it staged, or are told to look again")
	var drafts api.DraftList
	s.Call("GET", "/api/v1/sites/larch-saddle/drafts", nil).Into(t, &drafts)
	assert.Len(t, drafts.Drafts, 1, "one draft, and no scraps")
	got = atOnce(s, 5, "POST", path+"/live", nil)
	assert.Equal(t, 1, got[200], "one goes live: %v", got)
	got = atOnce(s, 5, "POST", path+"/undo", nil)
	assert.Equal(t, 1, got[200], "one takes it back: %v", got)
	assert.Equal(t, before, digest(t, s, "larch-saddle"))
	var history api.RevisionList
	s.Call("GET", "/api/v1/sites/larch-saddle/revisions", nil).Into(t, &history)
	assert.Len(t, history.Revisions, 3)
	fails(t, s.Call("PATCH", "/api/v1/sites", nil), 404, "not-found", "does not take this method")
}

func TestAStaleDeliveryPlansAgain(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	d := staged(t, s, "0.1.0")
	// Meanwhile somebody makes a header of their own.
	var e api.Edited
	s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=part/site-header",
		m{"content": "<header>mine</header>", "meta": m{"role": "header"}}).
		Into(t, &e)
	require.Equal(t, 200,
		s.Call("POST", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d/live", e.Draft), nil).Status)
	fails(t, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id), nil), 412, "stale",
		"part/site-header has been added since")
	assert.Equal(t, 4, s.Client("delivery", "go-live", fmt.Sprint(d.Id)).Code)

	// To fix: discard the draft, plan again; what was decided is kept.
	require.Equal(t, 204, s.Call("DELETE", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d", *d.Draft), nil).Status)
	r := s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/plan", d.Id), nil)
	r.Into(t, &d)
	require.Len(t, d.Plan.Questions, 1, "the kit's comes in beside, and two headers want the same seat")
	assert.Equal(t, "seat:header:everywhere", d.Plan.Questions[0].Key)
	s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id), m{"decisions": m{"seat:header:everywhere": "kit"}}).
		Into(t, &d)
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil).Into(t, &d)
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id), nil).Into(t, &d)
	require.Equal(t, api.DeliveryStateLive, d.State)
	live := string(s.Visit(s.Live("larch-saddle") + "/").Body)
	assert.Contains(t, live, "site-header")
	assert.NotContains(t, live, "mine")

	// An edit of what was delivered stops the undo, and says so.
	r = s.Call("GET", "/api/v1/sites/larch-saddle/item?address=section/opening-hours", nil)
	s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=section/opening-hours",
		m{"content": "<section class=hours>ours now</section>"}, "If-Match", r.Header.Get("ETag")).
		Into(t, &e)
	require.Equal(t, 200,
		s.Call("POST", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d/live", e.Draft), nil).Status)
	fails(t, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/undo", d.Id), nil), 412, "stale",
		"section/opening-hours has been edited since then")
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/undo", d.Id), m{"keepEdited": true}).Into(t, &d)
	assert.Equal(t, api.DeliveryStateUndone, d.State)
	live = string(s.Visit(s.Live("larch-saddle") + "/").Body)
	assert.Contains(t, live, "ours now")
	assert.Contains(t, live, "mine", "the site's own header is back in its seat")
}

// The interface's enumerations are those that the core declares.
func TestEnumerationsAreTheCores(t *testing.T) {
	doc := harness.Interface(t)
	enum := func(name string) []string {
		var out []string
		for _, v := range doc.Components.Schemas[name].Value.Enum {
			out = append(out, v.(string))
		}
		return out
	}
	var kinds, standings, roles []string
	for _, k := range item.Kinds {
		kinds = append(kinds, string(k.Kind))
	}
	for _, s := range plan.Standings {
		standings = append(standings, string(s.Standing))
	}
	for _, r := range desk.Roles {
		roles = append(roles, string(r))
	}
	assert.Equal(t, kinds, enum("Kind"))
	assert.Equal(t, standings, enum("Standing"))
	assert.Equal(t, roles, enum("Role"))
}

// The open formats' schemas are served.
func TestSchemasAreServed(t *testing.T) {
	s := harness.Start(t)
	get := func(name string) (*http.Response, []byte) {
		t.Helper()
		r, err := http.Get(s.Console + "/schema/" + name)
		require.NoError(t, err)
		defer r.Body.Close()
		b, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		return r, b
	}
	for _, name := range []string{"packing-list", "seal", "trust-list"} {
		r, b := get(name + ".schema.json")
		assert.Equal(t, 200, r.StatusCode, name)
		assert.Equal(t, "application/schema+json", r.Header.Get("Content-Type"))
		var doc map[string]any
		require.NoError(t, json.Unmarshal(b, &doc))
		assert.Equal(t, "https://json-schema.org/draft/2020-12/schema", doc["$schema"])
	}
	for _, name := range []string{"none.schema.json", "schema.go", "..%2fopenapi.yaml"} {
		r, _ := get(name)
		assert.Equal(t, 404, r.StatusCode, name)
	}
}
