package faults_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/folder"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// site reads a site in our own layout from texts.
func site(t *testing.T, files map[string]string) *closure.Small {
	t.Helper()
	fsys := fstest.MapFS{}
	for name, text := range files {
		fsys[name] = &fstest.MapFile{Data: []byte(text)}
	}
	set, report, err := folder.Read(fsys)
	require.NoError(t, err)
	require.Empty(t, report.Left)
	return closure.NewSmall(set)
}

func told(list []faults.Fault) []string {
	out := []string{}
	for _, f := range list {
		out = append(out, fmt.Sprintf("%s %s:%d ×%d %s", f.Kind, f.Address, f.Line, f.Count, f.Message))
	}
	return out
}

// page is a page without faults around its content.
func page(title, content string) string {
	return `<!doctype html><html lang="en"><head><title>` + title + `</title></head><body><main><h1>` + title +
		"</h1>\n" + content + "\n</main></body></html>"
}

var hut = map[string]string{
	"site.json": `{"format":1,"items":[{"kind":"page","key":"home","slug":"/","styles":["stylesheet/base"]},
		{"kind":"page","key":"rooms","slug":"/rooms/","styles":["stylesheet/base"]},
		{"kind":"part","key":"bar","role":"header"},
		{"kind":"part","key":"lost","role":"footer","placement":{"where":["page:/gone/"]}}]}`,
	"settings.json": `{"title":"Larch Saddle","language":"en"}`,
	"surround/bar.html": "<header>\n<nav><a href=\"/rooms/#beds\">Rooms</a> <a " +
		"href=\"/cellar/\">Cellar</a></nav></header>",
	"surround/lost.html": `<footer>x</footer>`,
	"stylesheets/base.css": `:root{--ink:#999}.soft{color:var(--ink)}.night{background:#222}.night ` +
		`.soft{color:white}`,
	"media/plan.svg":         `<svg xmlns="http://www.w3.org/2000/svg"/>`,
	"pages/home.html":        page("Home", `<p id="top2">x</p>`),
	"pages/rooms.html":       page("Rooms", `<h2 id="beds">Beds</h2>`),
	"sections/unplaced.html": `<p>x</p>`,
}

// with gives the hut with some files in the place of its own.
func with(files map[string]string) map[string]string {
	out := map[string]string{}
	for k, v := range hut {
		out[k] = v
	}
	for k, v := range files {
		out[k] = v
	}
	return out
}

func TestFaultsAreToldWhereTheyCanBeMended(t *testing.T) {
	base := []string{
		"link part/bar:2 ×3 it links to /cellar/, where no page is",
		"hidden part/lost:0 ×0 the part stands on no page",
		"unused media/plan.svg:0 ×0 nothing uses it",
	}
	got, err := faults.Check(site(t, hut), faults.Options{})
	require.NoError(t, err)
	assert.Equal(t, base, told(got))
	assert.Equal(t, []string{"/", "/404.html", "/rooms/"}, got[0].Pages)
	assert.True(t, got[0].Grave)
	assert.False(t, got[2].Grave)

	for content, want := range map[string]string{
		`<a href="/rooms/#cellar">Cellar</a>`: "anchor page/home:2 ×1 it links to /rooms/#cellar, and that page " +
			"has no such " +
			"anchor",
		`<a href="#">Up</a> <a href="#top">Up</a> <a href="/rooms/#:~:text=Beds">Beds</a>`: "",
		`<p id="a">x</p><p id="a">y</p>`:     `doubled-id page/home:2 ×1 the id "a" stands twice on a page`,
		`<header>x</header>`:                 "",
		`<h3>Deep</h3>`:                      "heading page/home:2 ×1 a heading of level 3 follows one of level 1",
		`<img src="/media/plan.svg">`:        "alternative page/home:2 ×1 a picture has no alternative text",
		`<img src="/media/plan.svg" alt="">`: "",
		`<img src="/media/ridge.jpg" alt="">`: "missing page/home:2 ×1 it uses media/ridge.jpg in <img src>, " +
			"which is not there",
		`<a href="/rooms/"><img src="/media/plan.svg" alt=""></a>`:     "name page/home:2 ×1 a link says nothing",
		`<a href="/rooms/"><img src="/media/plan.svg" alt="Beds"></a>`: "",
		`<button></button>`:                        "name page/home:2 ×1 a button says nothing",
		`<input name="who">`:                       "name page/home:2 ×1 a field has no label",
		`<label>Who <input name="who"></label>`:    "",
		`<label for="w">Who</label><input id="w">`: "",
		`<p>Lorem ipsum</p>`:                       `filler page/home:2 ×1 it holds filler: "Lorem ipsum"`,
		`<p>At Sample Hut</p>`: `filler page/home:2 ×1 the sample "Sample Hut" of a ` +
			`blank still stands here`,
		`<p class="soft">x</p>`: "contrast page/home:2 ×1 a " +
			"text has a contrast of 2.8 to its ground, and needs 4.5",
		`<div class="night"><p class="soft">x</p></div>`: "",
		`<div class="night"><p>x</p></div>`: "contrast page/home:2 ×1 a " +
			"text has a contrast of 1.3 to its ground, and needs 4.5",
		`<div class="night" style="background:url(/media/plan.svg)"><p>x</p></div>`: "",
		`<div class="night"><a href="/rooms/">x</a></div>`:                          "",
		`<p style="color:rgb(0 0 0 / 30%)">x</p>`: "contrast page/home:2 ×1 a text has a contrast of 2.1 to its " +
			"ground, and " +
			"needs 4.5",
		`<style>.k{color:#333}.k:hover{color:#bbb}</style><a class="k" href="/rooms/">x</a>`: "contrast " +
			"page/home:2 ×1 a text has a contrast of 1.9 to its ground when it is pointed at, and needs 4.5",
		`<style>#n a{color:#333}.k:hover{color:#bbb}</style><p id="n"><a class="k" href="/rooms/">x</a></p>`: "",
		`<style>.n:focus-within{background:#333}</style><p class="n">x</p>`: "contrast page/home:2 ×1 a text " +
			"has a contrast of 1.7 to its ground when it is focused, and needs 4.5",
		`<style>.k{color:#333}.k:active{color:#bbb}.k:visited{color:#eee}.k:hover::before{color:#eee}</style>` +
			`<a class="k" href="/rooms/">x</a>`: "contrast page/home:2 ×1 a text has a contrast of 1.9 to its " +
			"ground when it is pressed, and needs 4.5",
		`<style>.k{color:#333}.k:is(:hover,:focus){color:#bbb}</style><a class="k" href="/rooms/">x</a>`: "contrast " +
			"page/home:2 ×1 a text has a contrast of 1.9 to its ground when it is pointed at, and needs 4.5",
		`<style>.k:where(.k,:hover){color:#bbb}</style><p class="k">x</p>`: "contrast page/home:2 ×1 a text has a " +
			"contrast of 1.9 to its ground, and needs 4.5",
		`<style>p:hover{color:#999}</style><p class="soft">x</p>`: "contrast page/home:2 ×1 a text has a contrast " +
			"of 2.8 to its ground, and needs 4.5",
		`<iframe src="https://maps.example/x" title="Map"></iframe>`: "outside page/home:2 ×1 it loads from " +
			"maps.example " +
			"(frame)",
		`<a href="https://maps.example/x">Map</a>`: "",
		"</main><footer>a</footer><footer>b</footer><main hidden>": "landmark page/home:2 ×1 the page has 2 " +
			"parts that say " +
			"what the page is at its foot",
	} {
		t.Run(content, func(t *testing.T) {
			got, err := faults.Check(site(t, with(map[string]string{"pages/home.html": page("Home", content)})),
				faults.Options{Samples: []string{"Sample Hut"}})
			require.NoError(t, err)
			more := slices.DeleteFunc(told(got), func(s string) bool { return slices.Contains(base, s) })
			assert.Equal(t, want, strings.Join(more, "\n"), content)
		})
	}
}

func TestNewFaultsComeFirst(t *testing.T) {
	live, err := faults.Check(site(t, hut), faults.Options{})
	require.NoError(t, err)
	// The same faults on other lines are not new.
	draft, err := faults.Check(site(t, with(map[string]string{
		"surround/bar.html": "<header>\n\n\n<nav><a href=\"/rooms/#beds\">Rooms</a> <a " +
			"href=\"/cellar/\">Cellar</a></nav></header>",
		"pages/rooms.html": page("Rooms", `<h2 id="beds">Beds</h2><a href="/loft/">Loft</a>`),
	})), faults.Options{})
	require.NoError(t, err)
	faults.MarkNew(draft, live)
	require.NotEmpty(t, draft)
	assert.Equal(t, "link page/rooms:2 ×1 it links to /loft/, where no page is", told(draft)[0])
	assert.True(t, draft[0].New)
	for _, f := range draft[1:] {
		assert.False(t, f.New, f.Message)
	}
}

func TestAPageBehindTheHomeSettingAndForeignNames(t *testing.T) {
	files := with(map[string]string{
		"settings.json":    `{"title":"Larch Saddle","language":"en","home":"page/rooms"}`,
		"pages/rooms.html": page("Rooms", `<h2 id="beds">Beds</h2><p>Welcome to Blackwater Bothy</p>`),
	})
	got, err := faults.Check(site(t, files), faults.Options{Others: []string{"Blackwater Bothy"},
		Foreign: func(a item.Address) bool { return a.Kind == item.Page }})
	require.NoError(t, err)
	list := told(got)
	assert.Contains(t, list, "hidden page/home:0 ×1 its address is /, where the setting home shows page/rooms")
	assert.Contains(t, list, "personal page/rooms:2 ×1 “Blackwater Bothy” is what another site calls itself")
}
