package test

import (
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A piece of the library is used on a page in one step, which takes it back whole; when its source has
// changed, the newer one is blended with what was changed here.
func TestAPieceIsUsedInOneStep(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("library", "add", "kestrel-refuge", "section/latest-notices")
	use := []string{"site", "use", "section/latest-notices", "larch-saddle", "--page", "/", "--after", "main h1"}
	assert.Contains(t, s.Must(append(use, "--dry-run")...), "section/latest-notices")
	assert.NotContains(t, s.Must("draft", "list", "larch-saddle"), "spring")
	got := s.Must(append(use, "--draft", "spring")...)
	assert.Contains(t, got, "Step 1 of draft 1")
	text := func(address string) string {
		var d api.ItemDetail
		s.Call("GET", "/api/v1/sites/larch-saddle/item?draft=1&address="+address, nil).Into(t, &d)
		return *d.Content
	}
	assert.Contains(t, text("page/home"), `</h1>`)
	assert.Contains(t, text("page/home"), `<cp-section name="latest-notices"></cp-section>`)
	assert.Contains(t, s.Must("site", "sources", "larch-saddle", "--draft", "spring"), "library")

	// One step takes all of it back, and does it again.
	s.Must("draft", "undo", "larch-saddle", "spring")
	assert.Contains(t, s.Must("draft", "show", "larch-saddle", "spring"), "It changes nothing")
	assert.NotContains(t, s.Must("site", "sources", "larch-saddle", "--draft", "spring"), "library")
	s.Must("draft", "redo", "larch-saddle", "spring")
	s.Must("site", "go-live", "larch-saddle", "spring")
	assert.Contains(t, s.Must("site", "sources", "larch-saddle"), "same")

	// Where it comes from it is there already, with its sheet: nothing comes but the page's own change.
	home := s.Must("site", "use", "section/latest-notices", "kestrel-refuge", "--page", "page/contact", "--dry-run")
	assert.Contains(t, home, "1 item: page/contact")
	assert.NotContains(t, home, "both sides")

	// Here a word is changed, at the source another.
	var d api.ItemDetail
	s.Call("GET", "/api/v1/sites/larch-saddle/item?address=section/latest-notices", nil).Into(t, &d)
	require.Contains(t, *d.Content, "Latest from the hut")
	here := filepath.Join(t.TempDir(), "here.html")
	require.NoError(t, os.WriteFile(here, []byte(strings.Replace(*d.Content, "Latest from the hut", "News", 1)),
		0o644))
	s.Must("site", "put", "larch-saddle", "section/latest-notices", here, "--draft", "words")
	s.Must("site", "go-live", "larch-saddle", "words")
	var lib api.ItemDetail
	s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address=section/latest-notices", nil).Into(t, &lib)
	there := filepath.Join(t.TempDir(), "there.html")
	require.NoError(t, os.WriteFile(there,
		[]byte(strings.Replace(*lib.Content, "</section>", "<p>More</p>\n</section>",
			1)), 0o644))
	s.Must("site", "put", "kestrel-refuge", "section/latest-notices", there, "--draft", "more")
	s.Must("site", "go-live", "kestrel-refuge", "more")
	s.Must("library", "add", "kestrel-refuge", "section/latest-notices")
	list := s.Must("site", "sources", "larch-saddle")
	assert.Contains(t, list, "changed")
	assert.Contains(t, list, "cparcel site use section/latest-notices larch-saddle")
	s.Must("site", "use", "section/latest-notices", "larch-saddle", "--draft", "newer", "--decide",
		"section/latest-notices=blend")
	s.Must("site", "go-live", "larch-saddle", "newer")
	s.Call("GET", "/api/v1/sites/larch-saddle/item?address=section/latest-notices", nil).Into(t, &d)
	assert.Contains(t, *d.Content, "News")
	assert.Contains(t, *d.Content, "<p>More</p>")
	assert.NotContains(t, s.Must("site", "sources", "larch-saddle"), "changed")
}

// Pieces of kits and elements of other sites' pages; what cannot be is refused, and nothing is written.
func TestPiecesComeFromKitsAndSites(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("site", "use", "ridge-walk@1.0.0:page/ridge-walk", "larch-saddle", "--page", "/ridge/", "--title",
		"The ridge",
		"--fill", "last-hut=Cairn Edge", "--draft", "spring")
	page := s.Must("site", "show", "larch-saddle", "--draft", "spring")
	assert.Contains(t, page, "/ridge/")
	s.Must("site", "use", "blackwater-bothy:page/home", "larch-saddle", "--element", "main > p", "--as",
		"section/words", "--page", "/", "--inside", "main", "--draft", "spring")
	var d api.ItemDetail
	s.Call("GET", "/api/v1/sites/larch-saddle/item?draft="+draftOf(t, s, "larch-saddle")+"&address=page/home",
		nil).Into(t, &d)
	assert.Contains(t, *d.Content, `<cp-section name="words">`)

	c := s.Client("site", "use", "hut-basics@2.0.0:section/opening-hours", "larch-saddle", "--page", "/")
	assert.Equal(t, 3, c.Code)
	assert.Contains(t, c.Err, "fill:hut-name")
	assert.Equal(t, 1, strings.Count(s.Must("draft", "list", "larch-saddle"), "ida"), "no draft was made for it")
	for _, bad := range []struct{ why, piece, page, after string }{
		{"has no section/gone", "section/gone", "/", "h1"},
		{"names no element", "ridge-walk@1.0.0:page/ridge-walk", "", ""},
		{"no page is at", "blackwater-bothy:section/where-it-stands", "/gone/", "h1"},
		{"it does not exist", "nowhere:section/x", "/", "h1"},
	} {
		args := []string{"site", "use", bad.piece, "larch-saddle"}
		if bad.page != "" {
			args = append(args, "--page", bad.page, "--after", bad.after)
		}
		c := s.Client(args...)
		assert.NotZero(t, c.Code, bad.piece)
		t.Log(c.Err)
	}
	as(t, s, "warden").Call("POST", "/api/v1/sites/larch-saddle/uses", m{"piece": "section/x"})
	assert.Equal(t, 403, as(t, s, "visitor").Call("POST", "/api/v1/sites/larch-saddle/uses",
		m{"piece": "section/x"}).Status)
}

// draftOf gives the number of the one open draft of a site.
func draftOf(t *testing.T, s *harness.Service, site string) string {
	t.Helper()
	var list api.DraftList
	s.Call("GET", "/api/v1/sites/"+site+"/drafts", nil).Into(t, &list)
	require.Len(t, list.Drafts, 1)
	return strconv.FormatInt(list.Drafts[0].Id, 10)
}

// A site is made of a kit, with what the kit needs, in one act: or there is none.
func TestASiteIsMadeOfAKit(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	c := s.Client("site", "new", "larch-hollow", "--title", "Larch Hollow", "--kit", "hut-basics@1.1.0")
	assert.Equal(t, 3, c.Code)
	assert.Contains(t, c.Err, "fill:phone")
	assert.NotContains(t, s.Must("site", "list"), "larch-hollow", "it is whole or not there")
	s.Must("site", "new", "larch-hollow", "--title", "Larch Hollow", "--kit", "hut-basics@1.1.0", "--fill",
		"hut-name=Larch Hollow", "--fill", "phone=01 200 300", "--fill", "valley=the Larch Valley")
	check := s.Client("site", "check", "larch-hollow").Out
	assert.NotContains(t, check, "where no page is")
	assert.Contains(t, check, "nobody is told", "the kit's form reaches nobody yet")
	home := string(s.Visit(s.Live("larch-hollow") + "/").Body)
	assert.Contains(t, home, ">the Larch Valley</span>")
	assert.Contains(t, home, "<header")
	s.Must("site", "new", "alder-hollow", "--title", "Alder Hollow", "--kit", "dusk@1.0.0")
	assert.Contains(t, string(s.Visit(s.Live("alder-hollow")+"/").Body), "<h1>Alder Hollow</h1>",
		"where the kit brings no home page one is made")
	var view api.ItemList
	s.Call("GET", "/api/v1/sites/larch-hollow/items", nil).Into(t, &view)
	assert.Contains(t, s.Must("delivery", "list"), "larch-hollow")
	at := item.MustAddress("setting/language")
	found := false
	for _, x := range view.Items {
		found = found || x.Address == at
	}
	assert.True(t, found)
}

// The next one of a series: a copy of its own, with blanks that are asked for anew; the earlier one stays.
func TestTheNextOneOfASeries(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("deliver", "hut-month@1.0.0", "kestrel-refuge", "--fill", "month=May", "--fill", "title=The snow goes",
		"--live")
	asked := s.Client("deliver", "hut-month@1.0.0", "kestrel-refuge", "--next")
	assert.Equal(t, 3, asked.Code, "last month's words do not count as given")
	assert.Contains(t, asked.Out, `the last time it was "May"`)
	s.Must("deliver", "hut-month@1.0.0", "kestrel-refuge", "--next", "--fill", "month=June", "--fill",
		"title=The larches",
		"--page", "page/hut-month=June at the hut@/months/june/", "--live")
	assert.Contains(t, string(s.Visit(s.Live("kestrel-refuge")+"/months/this-month/").Body), "The snow goes")
	june := string(s.Visit(s.Live("kestrel-refuge") + "/months/june/").Body)
	assert.Contains(t, june, "The larches")
	assert.NotContains(t, june, "The snow goes")

	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/kits/hut-month/1.0.0")
	b.Press("Use on a site")
	b.Choose("#site", "kestrel-refuge")
	b.Click(`[role=dialog] input[type=checkbox]`)
	b.Press("Make the plan")
	b.Type("#fill-month", "July")
	b.Type("#fill-title", "Dry weeks")
	b.Press("Fill in")
	b.Press("On to the preview")
	b.Press("Stage the draft")
	b.Sees("Work on it as it looks")
	draft := draftOf(t, s, "kestrel-refuge")
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "page/hut-month-3", "--draft", draft), "Dry weeks")
	assert.Contains(t, s.Must("site", "show", "kestrel-refuge", "page/hut-month-2", "--draft", draft), "The larches")
}

// The entries of a kit's menu come into the site's one by one.
func TestAMenuIsJoined(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("deliver", "hut-basics@1.1.0", "larch-saddle", "--decide", "menu/main=join", "--fill",
		"hut-name=Larch Saddle",
		"--fill", "phone=01 200 300", "--fill", "valley=the Larch Valley", "--policy", "unattended", "--seats", "site",
		"--live")
	var d api.ItemDetail
	s.Call("GET", "/api/v1/sites/larch-saddle/item?address=menu/main", nil).Into(t, &d)
	assert.Contains(t, *d.Content, "/house-rules/", "its own stay")
	assert.Contains(t, *d.Content, "/contact/", "those that it had not come")
	assert.Equal(t, 1, strings.Count(*d.Content, `"to": "/"`))
}

// A staged delivery is planned again, with other answers and on a site that has changed: what a keeper did in
// its draft stays on top.
func TestAStagedDeliveryIsPlannedAgain(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("deliver", "hut-basics@1.1.0", "larch-saddle", "--decide", "menu/main=join", "--fill", "hut-name=Larch",
		"--fill", "phone=01 200 300", "--fill", "valley=the Larch Valley", "--policy", "unattended", "--seats", "site")
	draft := draftOf(t, s, "larch-saddle")
	var list api.DeliveryList
	s.Call("GET", "/api/v1/deliveries", nil).Into(t, &list)
	id := strconv.FormatInt(list.Deliveries[0].Id, 10)
	s.Must("site", "edit", "larch-saddle", "/contact/", "text", "main h1", "--value", "Find us", "--draft", draft)
	s.Must("site", "edit", "larch-saddle", "setting/strapline", "set", "--value", "Open from May", "--draft", "live")
	s.Must("site", "go-live", "larch-saddle", "live")
	s.Must("delivery", "decide", id, "--fill", "hut-name=Larch at the saddle")
	text := func(address string) string {
		var d api.ItemDetail
		s.Call("GET", "/api/v1/sites/larch-saddle/item?draft="+draft+"&address="+address, nil).Into(t, &d)
		return *d.Content
	}
	assert.Contains(t, text("page/contact"), "Find us</h1>", "what the keeper did")
	assert.Contains(t, text("section/opening-hours"), "Larch at the saddle", "what was decided anew")
	assert.Contains(t, text("setting/strapline"), "Open from May", "what went live meanwhile")
	assert.Contains(t, s.Must("draft", "steps", "larch-saddle", draft), "planned again")

	// Where both changed the same, a person decides.
	s.Must("site", "edit", "larch-saddle", "/", "text", ".hours h2 span", "--value", "The saddle", "--draft", draft)
	c := s.Client("delivery", "decide", id, "--fill", "hut-name=Larch Saddle hut")
	assert.Equal(t, 3, c.Code, c.Err)
	assert.Contains(t, c.Err, "draft:")
	assert.Contains(t, text("section/opening-hours"), "The saddle", "nothing was changed")
	key := regexp.MustCompile(`draft:\S+`).FindString(c.Err)
	s.Must("delivery", "decide", id, "--fill", "hut-name=Larch Saddle hut", "--decide", key+"=site")
	assert.Contains(t, text("section/opening-hours"), "The saddle")
	s.Must("delivery", "decide", id, "--fill", "phone=01 200 301")
	assert.Equal(t, 2, s.Client("delivery", "decide", id, "--decide", "draft:page/nowhere=kit").Code)
	assert.Contains(t, text("section/opening-hours"), "The saddle", "planned a third time")
	s.Must("delivery", "go-live", id)
	assert.Contains(t, string(s.Visit(s.Live("larch-saddle")+"/contact/").Body), "Find us</h1>")
	s.Must("delivery", "undo", id, "--blend")
}

// A section that the page waits for fills its place, wherever it was pointed at, also at what stands there until it
// comes; what only other pages of its kit need is not asked for; and a piece that is refused leaves no draft.
func TestASectionThatThePageWaitsFor(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	use := []string{"site", "use", "hut-basics@2.0.0:section/opening-hours", "larch-saddle", "--page", "/"}
	before := s.Must("draft", "list", "larch-saddle")
	for _, at := range [][]string{
		{"--inside", "main"}, {"--after", "main > div:nth-of-type(2) p"}, {"--after", "main"},
	} {
		r := s.Client(append(use, at...)...)
		assert.Equal(t, 3, r.Code)
		assert.Contains(t, r.Err, "fill:hut-name")
		assert.NotContains(t, r.Err, "x-weather-strip")
		assert.Equal(t, before, s.Must("draft", "list", "larch-saddle"), "what is refused leaves no draft")
		got := s.Must(append(append(use, at...), "--fill", "hut-name=Larch Saddle", "--draft", "hours")...)
		assert.Contains(t, got, "fills the place")
		outline := s.Must("site", "outline", "larch-saddle", "/", "--draft", "hours")
		assert.NotContains(t, outline, "will stand here")
		s.Must("site", "discard", "larch-saddle", "hours")
	}
	// Elsewhere it is put where it was pointed at, though what is around that changes when it comes.
	got := s.Must("site", "use", "hut-basics@2.0.0:section/opening-hours", "larch-saddle", "--page", "/house-rules/",
		"--after", "main h1", "--fill", "hut-name=Larch Saddle", "--draft", "rules")
	assert.Contains(t, got, "Used section/opening-hours")
	assert.NotContains(t, got, "fills the place")
	assert.Contains(
		t,
		s.Must("site", "outline", "larch-saddle", "/house-rules/", "--draft", "rules"),
		"section/opening-hours",
	)
}

// A single piece of a kit changes nothing of a page but itself: its sheet comes cut to it. What the site has of the kit
// goes on wearing what it wears when another piece comes, and the whole kit brings the sheet whole.
func TestASinglePieceOfAKitChangesNothingElse(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	sheet := func(draft string) string {
		args := []string{"site", "show", "larch-saddle", "stylesheet/base"}
		if draft != "" {
			args = append(args, "--draft", draft)
		}
		return s.Must(args...)
	}
	s.Must("site", "use", "hut-basics@2.0.0:section/opening-hours", "larch-saddle", "--page", "/",
		"--fill", "hut-name=Larch Saddle", "--draft", "hours")
	first := sheet("hours")
	assert.Contains(t, first, ".hours-table")
	for _, not := range []string{"\nbody {", "\nh1, h2, h3 {", ".site-header", ".site-footer"} {
		assert.NotContains(t, first, not)
	}
	b := harness.NewBrowser(t)
	var d struct{ Preview string }
	s.Call("GET", "/api/v1/sites/larch-saddle/drafts/"+draftOf(t, s, "larch-saddle"), nil).Into(t, &struct {
		Draft *struct{ Preview string }
	}{&d})
	style := func(url, of string) string {
		b.Go(url)
		return harness.Eval[string](b, `((s) => [s.fontFamily, s.color, s.backgroundColor].join())(`+
			`getComputedStyle(document.querySelector("`+of+`")))`)
	}
	for _, of := range []string{"body", "h1", "main p"} {
		assert.Equal(t, style(s.Live("larch-saddle")+"/", of), style(d.Preview+"/", of), of)
	}
	s.Must("site", "use", "hut-basics@2.0.0:part/site-footer", "larch-saddle", "--fill", "phone=01 000 111",
		"--draft", "hours")
	second := sheet("hours")
	assert.Contains(t, second, ".hours-table", "what came first keeps its rules")
	assert.Contains(t, second, ".site-footer")
	assert.NotContains(t, second, ".site-header")
	s.Must("site", "go-live", "larch-saddle", "hours")

	plan := s.Client("deliver", "hut-basics@2.0.0", "larch-saddle", "--fill", "hut-name=Larch Saddle").Out
	assert.Regexp(t, `stylesheet/base\s+newer`, plan, "the whole sheet is what is newer, and nobody edited it here")
}
