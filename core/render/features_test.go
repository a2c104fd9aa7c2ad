package render

import (
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestOverlaysOpenByTheirTriggers(t *testing.T) {
	s := site(map[string]string{
		"page/home":  `<p>x</p><button data-opens="ask">Ask</button>`,
		"page/quiet": "<p>q</p>",
		"page/plain": "<p>p</p>",
		"part/ask":   "<p>Ask us</p>",
		"part/snow":  "<p>Snow</p>",
		"part/odd":   "<p>odd</p>",
	}, map[string]item.Meta{
		"page/home": {
			Slug: "/",
		},
		"page/quiet": {Slug: "/quiet/", Without: []item.Role{item.Overlay}},
		"page/plain": {Slug: "/plain/"},
		"part/ask":   {Role: item.Overlay, Title: `Ask "us"`},
		"part/snow": {
			Role:      item.Overlay,
			Trigger:   &item.Trigger{On: item.OnDelay, Value: 5, Repeat: item.RepeatNever},
			Placement: &item.Placement{Where: []string{"home"}},
		},
		"part/odd": {
			Role:      item.Overlay,
			Trigger:   &item.Trigger{On: "moonrise"},
			Placement: &item.Placement{Where: []string{"page:/plain/"}},
		},
	})
	home, out := shown(t, s, "/")
	assert.Contains(
		t,
		home,
		`<dialog class="cp-overlay" aria-label="Ask &quot;us&quot;" data-cp-name="ask" data-cp-trigger="click" `+
			`data-cp-value="0">`,
	)
	assert.Contains(t, home, `data-cp-name="snow" data-cp-trigger="delay" data-cp-value="5" data-cp-repeat="never">`)
	assert.Regexp(t, `<script type="module" src="/_cp/engine/[0-9a-f]{12}/overlay.js">`, home)
	var whys []string
	for _, st := range out.Around {
		if st.Role == item.Overlay {
			whys = append(whys, st.Why)
		}
	}
	assert.Contains(t, strings.Join(whys, "\n"), "after 5 seconds, once per visitor")
	assert.Contains(t, strings.Join(whys, "\n"), "when a button or link with data-opens is pressed")
	quiet, out := shown(t, s, "/quiet/")
	assert.NotContains(t, quiet, "<dialog")
	assert.NotContains(t, quiet, "overlay.js")
	assert.NotEmpty(t, out.Body)
	_, out = shown(t, s, "/plain/")
	assert.Contains(t, out.Around[len(out.Around)-1].Why, "moonrise is not known")
}

func TestMenusInRowsFoldedAndOfAnchors(t *testing.T) {
	s := site(map[string]string{
		"page/home": `<cp-menu name="main" show="row" label="Top"></cp-menu><cp-menu name="main" ` +
			`show="folded"></cp-menu><cp-menu anchors=""></cp-menu><cp-menu anchors="/way/"></cp-menu><cp-menu ` +
			`anchors="/none/"></cp-menu><cp-menu name="none"></cp-menu><section id="stove"><div><h2>The ` +
			`stove</h2></div></section><h3 id="log" data-menu-label="Hut log">x</h3><p id="plain">no heading</p>`,
		"page/way":      `<cp-section name="climb"></cp-section>`,
		"section/climb": `<section id="climb"><h2>The climb &amp; back</h2></section>`,
		"menu/main": `{"title":"Main","entries":[{"label":"Home","to":"/"},{"label":"Way","to":"/way/",` +
			`"entries":[{"label":"Climb","to":"/way/#climb"}]}]}`,
	}, map[string]item.Meta{"page/home": {Slug: "/"}, "page/way": {Slug: "/way/"}})
	home, out := shown(t, s, "/")
	menus := strings.Split(home, "<nav ")[1:]
	require.Len(t, menus, 5, "a menu that is not there is nothing")
	assert.Contains(t, menus[0],
		`aria-label="Top"><ul class="cp-menu-list"><li><a href="/" aria-current="page">Home</a></li>`)
	assert.Contains(t, menus[1], `<details class="cp-menu-fold"><summary>Menu</summary><ul`)
	assert.Contains(t, menus[2], `aria-label="On this page"`)
	assert.Contains(t, menus[2], `<li><a href="#stove">The stove</a></li><li><a href="#log">Hut log</a></li>`)
	assert.NotContains(t, menus[2], "plain")
	assert.Contains(t, menus[3], `<a href="/way/#climb">The climb &amp; back</a>`, "through a linked section")
	assert.NotContains(t, menus[4], "<li>")
	assert.Contains(t, out.Reached, item.MustAddress("section/climb"))
}

func TestListingsHavePagesAndCategories(t *testing.T) {
	files := map[string]string{
		"page/home": `<cp-records type="notice" sort="rank" order="rising" limit="2"><b ` +
			`data-field="text:title">t</b></cp-records>`,
		"part/list": `<main><cp-records limit="2"><article><img data-field="src:picture; alt:title" ` +
			`src="/media/sample.png" alt="Sample"><h2 data-field="text:title">t</h2><p ` +
			`data-field="text:teaser">sample</p></article><cp-empty><p>No ` +
			`notices</p></cp-empty></cp-records><cp-pages label="More notices"></cp-pages></main>`,
		"part/rooms": `<main><cp-records><b data-field="text:title">t</b><cp-empty>No rooms ` +
			`yet</cp-empty></cp-records><cp-pages></cp-pages></main>`,
		"part/notice":      `<cp-content></cp-content>`,
		"media/snow.png":   "png",
		"media/sample.png": "png",
		"record/notice/a": `<p data-value="text:category">Snow</p><i data-value="text:rank">9</i><img ` +
			`data-value="src:picture" src="/media/snow.png">`,
		"record/notice/b": `<p data-value="text:category">Snow</p><i data-value="text:rank">10</i>`,
		"record/notice/c": `<p data-value="text:category">Hut log</p><i data-value="text:rank">2</i>`,
	}
	s := site(files, map[string]item.Meta{
		"page/home": {Slug: "/"},
		"part/list": {
			Role:      item.Listing,
			Placement: &item.Placement{Where: []string{"listing:notice"}},
		},
		"part/rooms":  {Role: item.Listing, Placement: &item.Placement{Where: []string{"listing:room"}}},
		"part/notice": {Role: item.RecordRole, Placement: &item.Placement{Where: []string{"records:notice"}}},
		"record/notice/a": {
			Type:  "notice",
			Title: "Avalanche",
		},
		"record/notice/b": {Type: "notice", Title: "Bridge"},
		"record/notice/c": {Type: "notice", Title: "Cocoa"},
	})
	home, _ := shown(t, s, "/")
	assert.Regexp(t, `(?s)Cocoa.*Avalanche`, home, "2 before 9: as numbers")
	assert.NotContains(t, home, "Bridge", "10 comes last of all")
	var made []string
	all, err := New(s).GeneratedPages()
	require.NoError(t, err)
	for _, m := range all {
		if !strings.HasPrefix(m.Slug, "/notice/a") && !strings.HasPrefix(m.Slug, "/notice/b/") &&
			m.Slug != "/notice/c/" {
			made = append(made, m.Slug)
		}
	}
	assert.Equal(
		t,
		[]string{
			"/notice/",
			"/notice/page-2/",
			"/notice/category/hut-log/",
			"/notice/category/snow/",
			"/room/",
			"/404.html",
		},
		made,
	)
	first, out := shown(t, s, "/notice/")
	assert.Equal(t, 200, out.Status)
	assert.Equal(t, 2, strings.Count(first, "<article>"))
	assert.Contains(
		t,
		first,
		`<nav class="cp-pages" aria-label="More notices"><ul><li><a href="/notice/" `+
			`aria-current="page">1</a></li><li><a href="/notice/page-2/">2</a></li></ul></nav>`,
	)
	second, _ := shown(t, s, "/notice/page-2/")
	assert.Equal(t, 1, strings.Count(second, "<article>"))
	snow, _ := shown(t, s, "/notice/category/snow/")
	assert.Contains(t, snow, "Avalanche")
	assert.Contains(t, snow, "Bridge")
	assert.NotContains(t, snow, "Cocoa")
	assert.NotContains(t, snow, "cp-pages", "one page needs no way to others")
	assert.Equal(t, 1, strings.Count(snow, "<img"), "a record without a picture shows none, and no sample")
	assert.NotContains(t, snow, "sample")
	rooms, _ := shown(t, s, "/room/")
	assert.Contains(t, rooms, "No rooms yet")
	_, out = shown(t, s, "/notice/page-3/")
	assert.Equal(t, 404, out.Status)
}

func TestWidthTitleAndHeadOfAPage(t *testing.T) {
	s := site(map[string]string{
		"page/a": "<p>a</p>",
		"page/b": `<!doctype html><html lang="de"><head><title>Own</title><link rel="icon" ` +
			`href="/media/own.png"></head><body data-width="narrow"><h1>Has one</h1></body></html>`,
		"setting/language": `"en"`,
		"setting/icon":     `"/media/icon.png"`,
		"setting/title":    `"Hut"`,
		"media/icon.png":   "x",
		"media/own.png":    "y",
		"setting/robots":   `"noindex"`,
	}, map[string]item.Meta{"page/a": {Slug: "/a/", Title: "A & B", TitleShown: true, Width: item.WidthEdge},
		"page/b": {Slug: "/b/", Title: "B", TitleShown: true, Width: item.WidthEdge}})
	a, _ := shown(t, s, "/a/")
	for _, want := range []string{`<html lang="en">`, `<body data-width="edge">`,
		`<h1 class="cp-page-title">A &amp; B</h1>`, `<title>A &amp; B · Hut</title>`,
		`<meta name="robots" content="noindex">`} {
		assert.Contains(t, a, want)
	}
	assert.Regexp(t, `<link rel="icon" href="/_cp/[0-9a-f]{12}/icon.png">`, a)
	b, _ := shown(t, s, "/b/")
	for _, want := range []string{`<html lang="de">`, `data-width="narrow"`, "<title>Own</title>"} {
		assert.Contains(t, b, want, "what the page says itself stays")
	}
	assert.NotContains(t, b, "cp-page-title")
	assert.Equal(t, 1, strings.Count(b, `rel="icon"`))
}

func TestTheLogoHasASizeAtEachWidth(t *testing.T) {
	s := site(
		map[string]string{
			"page/home":      `<cp-logo></cp-logo><cp-logo></cp-logo>`,
			"media/logo.svg": "<svg></svg>",
			"setting/logo":   `{"media":"/media/logo.svg","alt":"Hut","width":{"1280":220,"390":120,"x":9,"768":0}}`,
		},
		map[string]item.Meta{"page/home": {Slug: "/"}},
	)
	out, _ := shown(t, s, "/")
	assert.Contains(t, out, `width="220"`)
	assert.Equal(
		t,
		1,
		strings.Count(out,
			"img.cp-logo{width:120px!important;height:auto!important}"+
				"@media(min-width:1280px){img.cp-logo{width:220px!important;height:auto!important}}"),
		"once, though it is shown twice",
	)
}

func TestTheCurrentPageIsMarkedInPartsAndSections(t *testing.T) {
	s := site(map[string]string{
		"page/a": "<p>a</p>",
		"page/b": "<p>b</p>",
		"part/top": `<nav><a href="/walks/" class="x" data-current="class:active; ` +
			`aria-current:page">Walks</a><li data-current-within="class:open"><a href="/walks/">W</a></li></nav>`,
	}, map[string]item.Meta{"page/a": {Slug: "/walks/"}, "page/b": {Slug: "/walks/tarn/"},
		"part/top": {Role: item.Header}})
	a, _ := shown(t, s, "/walks/")
	assert.Contains(t, a, `<a aria-current="page" href="/walks/" class="x active"`)
	b, _ := shown(t, s, "/walks/tarn/")
	assert.NotContains(t, b, "active\"")
	assert.Contains(t, b, `<li class="open"`)
}

func TestFormsWithHiddenLabelsHintsAndChoices(t *testing.T) {
	s := site(map[string]string{
		"page/home": `<cp-form name="book"></cp-form>`,
		"form/book": `{"title":"Book & go","labels":"hidden","order":["who","call","pick","days","note","n",` +
			`"no"],"schema":{"required":["who","days"],"properties":{
			"who":{"type":"string","title":"Who","minLength":2,"pattern":"[A-Z].*","description":"As on your ` +
			`<pass>","default":"Ida \"M\""},
			"call":{"type":"string","format":"tel","readOnly":true},
			"pick":{"title":"Bunk","default":"b","oneOf":[{"const":"a","title":"Upper & warm"},{"const":"b"}]},
			"days":{"type":"array","title":"Days","items":{"enum":["Sat","Sun"]}},
			"note":{"type":"string","maxLength":500,"title":"Note","default":"<hi>"},
			"n":{"type":"number","title":"N","multipleOf":0.5,"default":2},"no":{"type":"boolean","default":true,` +
			`"title":"No"}}}}`,
	}, map[string]item.Meta{"page/home": {Slug: "/"}})
	out, _ := shown(t, s, "/")
	for _, want := range []string{
		`aria-label="Book &amp; go"`, `<span class="cp-unseen">Who</span><input type="text" name="who" required ` +
			`aria-describedby="cp-hint-book-who" minlength="2" placeholder="Who" pattern="[A-Z].*" value="Ida ` +
			`&quot;M&quot;">`,
		`<small class="cp-hint" id="cp-hint-book-who">As on your &lt;pass&gt;</small>`,
		`<input type="tel" name="call" readonly placeholder="call">`,
		`<option value="">Bunk</option><option value="a">Upper &amp; warm</option><option selected>b</option>`,
		`<fieldset class="cp-field"><legend class="cp-unseen">Days</legend><label><input type="checkbox" ` +
			`name="days" value="Sat"><span>Sat</span></label>`,
		`placeholder="Note">&lt;hi&gt;</textarea>`,
		`<input type="number" name="n" placeholder="N" step="0.5" value="2">`,
		`<input type="checkbox" name="no" checked>`, ".cp-unseen{",
	} {
		assert.Contains(t, out, want)
	}
}

func TestAFileCannotStandInForTheEngine(t *testing.T) {
	s := site(
		map[string]string{"page/home": "<p>x</p>", "media/x.js": "evil()", "media/y.txt": "y"},
		map[string]item.Meta{
			"page/home":   {Slug: "/"},
			"media/x.js":  {Kept: []string{"/_cp/engine/x/overlay.js", "/x.js"}},
			"media/y.txt": {Kept: []string{"/humans.txt"}},
		},
	)
	r := New(s)
	_, ok, _ := r.AssetAt("/_cp/engine/x/overlay.js")
	assert.False(t, ok)
	_, ok, _ = r.AssetAt("/x.js")
	assert.True(t, ok)
	x, ok, _ := r.AssetAt("/humans.txt")
	require.True(t, ok)
	b, err := contentOf(r, x)
	require.NoError(t, err)
	assert.Equal(t, "y", string(b))
	assert.Equal(
		t,
		map[string]item.Address{
			"/x.js":       item.MustAddress("media/x.js"),
			"/humans.txt": item.MustAddress("media/y.txt"),
		},
		r.Kept(),
	)
}
