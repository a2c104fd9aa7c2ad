package test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/plan"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// row finds an item's row in a delivery's plan.
func row(t *testing.T, d api.Delivery, address string) api.PlanRow {
	t.Helper()
	for _, r := range d.Plan.Rows {
		if r.Address.String() == address {
			return r
		}
	}
	require.Fail(t, "no row", address)
	return api.PlanRow{}
}

// edited changes an item of a site's live state, as a keeper would.
func edited(t *testing.T, s *harness.Service, site, address, from, to string) {
	t.Helper()
	var had struct{ Content string }
	r := s.Call("GET", "/api/v1/sites/"+site+"/item?address="+address, nil)
	r.Into(t, &had)
	require.Contains(t, had.Content, from)
	var e api.Edited
	s.Call("PUT", "/api/v1/sites/"+site+"/item?address="+address,
		m{"content": strings.Replace(had.Content, from, to, 1)}, "If-Match", r.Header.Get("ETag")).
		Into(t, &e)
	require.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/sites/%s/drafts/%d/live", site, e.Draft), nil).Status)
}

// Story 2: Blackwater Bothy had hut-basics 1.0.0 last spring and edited it since. 1.1.0
// comes, with a conflict; it is edited once more while the draft waits; then 2.0.0, which
// wants a newer component; and all of it is taken back, the edits kept.
func TestBlackwaterBothyIsBroughtUpToDate(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	const site = "blackwater-bothy"
	live := func(slug string) string { return string(s.Visit(s.Live(site) + slug).Body) }
	var d api.Delivery
	r := s.Client("deliver", "hut-basics@1.1.0", site)
	assert.Equal(t, 3, r.Code)
	assert.Contains(t, r.Out,
		"part/not-found: changed here and in the kit since version 1.0.0, and blending leaves 1 conflict")
	assert.Contains(t, r.Out, "“The mist does that.”")
	s.JSON(&d, "delivery", "show", "2")
	assert.Equal(t, plan.NewerVersion, d.Plan.VersionIs)
	blend := row(t, d, "section/opening-hours")
	assert.Equal(t, "blend", string(blend.Decision), "changed in different places: nobody is asked")
	assert.Empty(t, blend.Conflicts)
	lost := row(t, d, "part/not-found")
	require.Len(t, lost.Conflicts, 1)
	assert.Equal(t, "It happens to the best.", lost.Conflicts[0].Base)
	require.Len(t, d.Plan.Questions, 2, "what was filled in, renamed and seated last spring is not asked again")
	for _, f := range d.Plan.Fills {
		assert.Equal(t, f.Given, f.Before, f.Name)
	}

	// The sides, as texts and as they look, before anything is staged.
	var sides api.ItemComparison
	s.Call("GET", fmt.Sprintf("/api/v1/deliveries/%d/comparison/section/opening-hours", d.Id), nil).Into(t, &sides)
	assert.Contains(t, *sides.Base, "every day, warden at home")
	assert.Contains(t, *sides.Site, "every day, when the boat goes")
	assert.Contains(t, *sides.Kit, "Friday to Monday morning")
	assert.Contains(t, *sides.Kit, "Blackwater Bothy", "blanks are filled in")
	assert.Contains(t, *sides.Becomes, "when the boat goes")
	assert.Contains(t, *sides.Becomes, "Friday to Monday morning")
	alone := "/_cp/alone/section/opening-hours"
	assert.Contains(t, string(s.Visit(d.BasePreview+alone).Body), "warden at home")
	assert.Contains(t, string(s.Visit(d.PlannedPreview+alone).Body), "Friday to Monday morning")
	assert.Equal(t, 404, s.Visit(strings.Replace(d.PlannedPreview, "//p", "//p9", 1)+"/").Status,
		"an address that was guessed")

	key := "conflict:part/not-found:" + lost.Conflicts[0].Key
	fails(
		t,
		s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id),
			m{"decisions": m{"conflict:part/not-found:000000000000": "kit"}}),
		422,
		"decision-does-not-fit",
		"nothing of this name to decide",
	)
	s.Must("delivery", "decide", "2", "--decide", "page/home=both", "--decide", key+"=site")
	s.JSON(&d, "delivery", "show", "2")
	require.Equal(t, api.DeliveryStateStaged, d.State)
	assert.NotContains(t, live("/home/"), "hero")

	// While the draft waits the keeper edits the hours; going live blends that in.
	edited(t, s, site, "section/opening-hours", "key at the valley desk", "key at the boathouse")
	s.JSON(&d, "delivery", "go-live", "2")
	assert.Equal(t, []string{"section/opening-hours"}, addresses(d.Receipt.Meanwhile))
	for _, words := range []string{"when the boat goes", "Friday to Monday morning", "key at the boathouse"} {
		assert.Contains(t, live("/home/"), words)
	}
	assert.Contains(t, live("/no/such/page/"), "The mist does that.")
	assert.Contains(t, live("/no/such/page/"), "valley-map", "what the conflict is not about came in")

	// 2.0.0 needs a newer weather strip than the site has. The library gets one.
	s.Must("library", "add", "kestrel-refuge", "component/x-weather-strip")
	r = s.Client("deliver", "hut-basics@2.0.0", site)
	assert.Equal(t, 3, r.Code)
	assert.Contains(t, r.Out, "--decide need:x-weather-strip=raise")
	s.JSON(&d, "delivery", "show", "3")
	bar := row(t, d, "part/top-bar")
	assert.Equal(t, "part/site-header", bar.Becomes.String(), "renamed in the kit, and found by what it was")
	assert.Equal(t, "newer", string(bar.Standing))
	fails(
		t,
		s.Call("PATCH", "/api/v1/deliveries/3",
			m{"decisions": m{"need:x-weather-strip": "leave", "page/home": "take"}}),
		422,
		"decision-does-not-fit",
		"what needs x-weather-strip >=2.0 <4 was decided to stay out",
	)
	s.Must("delivery", "decide", "3", "--decide", "need:x-weather-strip=raise", "--decide", "page/home=keep", "--live")
	var component struct{ Item api.Item }
	s.Call("GET", "/api/v1/sites/"+site+"/item?address=component/x-weather-strip", nil).Into(t, &component)
	assert.Equal(t, "2.3.0", component.Item.Meta.Version)

	// Taken back: one item by itself, then all, out of what was edited since.
	s.JSON(&d, "delivery", "undo", "3", "--item", "component/x-weather-strip")
	assert.Equal(t, api.DeliveryStateLive, d.State)
	assert.Equal(t, []string{"component/x-weather-strip"}, addresses(d.Receipt.Undone))
	assert.Equal(t, 2, s.Client("delivery", "undo", "3", "--item", "page/rooms").Code, "the delivery did not write it")
	s.JSON(&d, "delivery", "undo", "3")
	edited(t, s, site, "section/opening-hours", "the chimney is swept", "the sweep is here")
	r = s.Client("delivery", "undo", "2")
	assert.Equal(t, 4, r.Code)
	assert.Contains(t, r.Err, "section/opening-hours has been edited since then")
	s.JSON(&d, "delivery", "undo", "2", "--blend")
	assert.Equal(t, api.DeliveryStateUndone, d.State)
	var hours struct{ Content string }
	s.Call("GET", "/api/v1/sites/"+site+"/item?address=section/opening-hours", nil).Into(t, &hours)
	for _, words := range []string{"when the boat goes", "key at the boathouse", "the sweep is here",
		"Friday to Sunday"} {
		assert.Contains(t, hours.Content, words)
	}
}

func addresses[A fmt.Stringer](list []A) []string {
	var out []string
	for _, a := range list {
		out = append(out, a.String())
	}
	return out
}

// What was edited meanwhile in the very place that the delivery changes is asked about
// when it goes live; and only some items are delivered, a page under a name of its own.
func TestAnEditMeanwhileIsAskedAbout(t *testing.T) {
	s := harness.Start(t, "--demo")
	const site = "blackwater-bothy"
	var d api.Delivery
	s.Must("deliver", "hut-basics@1.1.0", site, "--only", "section/opening-hours", "--only", "page/home", "--decide",
		"page/home=both", "--page", "page/home=The bothy now@/now/")
	s.JSON(&d, "delivery", "show", "2")
	assert.Equal(t, "keep", string(row(t, d, "part/not-found").Decision), "it was not chosen")
	assert.NotEmpty(t, row(t, d, "stylesheet/hut").Needed)
	edited(t, s, site, "section/opening-hours", "Friday to Sunday", "Saturdays")
	r := s.Client("delivery", "go-live", "2")
	require.Equal(t, 3, r.Code, r.Err)
	assert.Contains(t, r.Err, "it was edited after the delivery was staged")
	key := r.Err[strings.Index(r.Err, "conflict:"):]
	key = key[:strings.IndexByte(key, ' ')]
	assert.Equal(t, 2, s.Client("delivery", "go-live", "2", "--decide", "conflict:part/x:0=kit").Code)
	s.JSON(&d, "delivery", "go-live", "2", "--decide", key+"=site")
	page := string(s.Visit(s.Live(site) + "/now/").Body)
	assert.Contains(t, page, "Saturdays")
	assert.Contains(t, page, "<title>The bothy now")

	// Tokens of another kit, tried on and taken one by one.
	assert.Equal(t, 3, s.Client("deliver", "dusk@1.0.0", site, "--decide", "tokens/brand=both").Code)
	s.JSON(&d, "delivery", "show", "3")
	var ink api.TokenRow
	for _, x := range d.Plan.Tokens {
		if x.Property == "--color-ink" {
			ink = x
		}
	}
	assert.Equal(t, [2]string{"#1f2a33", "#e9e4f2"}, [2]string{ink.Site, ink.Kit})
	assert.Greater(t, ink.Distance, 0.5)
	assert.NotEmpty(t, d.Plan.Contrasts)
	assert.Contains(t, string(s.Visit(d.PlannedPreview+"/?try=--color-ink").Body),
		":root{--color-ink:#e9e4f2!important;}")
	assert.NotContains(t, string(s.Visit(d.PlannedPreview+"/").Body), "!important;}")
	s.Must("delivery", "decide", "3", "--decide", "token:--color-ink=take", "--decide", "class:site-footer=mark",
		"--live")
	var tokens struct{ Content string }
	s.Call("GET", "/api/v1/sites/"+site+"/item?address=tokens/slate", nil).Into(t, &tokens)
	assert.Contains(t, tokens.Content, `"$value": "#e9e4f2"`)
	assert.Contains(t, tokens.Content, `"$value": "#eef1f2"`, "the others stay")

	// All that was said is a file for the next site.
	file := filepath.Join(t.TempDir(), "answers.yaml")
	s.Must("delivery", "show", "3", "--answers-template", file)
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	for _, line := range []string{"token:--color-ink: take", "class:site-footer: mark",
		"seats: ask"} {
		assert.Contains(t, strings.ReplaceAll(string(text), "'", ""), line)
	}
}

// Every standing of the glossary, on the demo's own data, in the network, the client and
// the console.
func TestEveryStandingIsSeen(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	const site = "blackwater-bothy"
	s.Must("deliver", "hut-basics@1.1.0", site, "--decide", "page/home=both", "--decide", "part/not-found=blend:site",
		"--live")
	edited(t, s, site, "section/opening-hours", "the chimney is swept", "the sweep is here")
	// The keeper throws one of what came away.
	r := s.Call("GET", "/api/v1/sites/"+site+"/item?address=part/search-results", nil)
	var e api.Edited
	s.Call("DELETE", "/api/v1/sites/"+site+"/item?address=part/search-results", nil, "If-Match", r.Header.Get("ETag")).
		Into(t, &e)
	require.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/sites/%s/drafts/%d/live", site, e.Draft), nil).Status)
	seen := map[string]string{}
	for _, kit := range []string{"hut-basics@1.0.0", "hut-basics@1.1.0", "hut-basics@2.0.0", "ridge-walk@1.0.0",
		"dusk@1.0.0"} {
		name, version, _ := strings.Cut(kit, "@")
		var d api.Delivery
		s.Call("POST", "/api/v1/deliveries", m{"kit": name, "version": version, "site": site}).Into(t, &d)
		out := s.Must("delivery", "show", fmt.Sprint(d.Id))
		for _, r := range d.Plan.Rows {
			assert.Contains(t, out, r.Address.String())
			if word := string(r.Standing); seen[word] == "" {
				assert.Regexp(t, r.Address.String()+` +`+word, out)
				seen[word] = fmt.Sprint(d.Id)
			}
		}
	}
	var words struct {
		Standings []struct{ Standing, Description string }
	}
	s.Call("GET", "/api/v1/vocabulary", nil).Into(t, &words)
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/deliveries")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees(site)
	for _, w := range words.Standings {
		require.NotEmpty(t, seen[w.Standing], "no item of the demo is %s", w.Standing)
		b.Go(s.Console + "/deliveries/" + seen[w.Standing] + "/plan")
		b.Sees(w.Description)
	}
}
