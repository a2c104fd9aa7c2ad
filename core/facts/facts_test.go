package facts

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const page = `<!doctype html><html><head><title>T &amp; t</title><style>.a{background:url("/media/x y.png")} ` +
	`#top{animation:rise 1s}</style>
<meta property="og:image" content="/media/og.jpg"></head><body class="a  b">
<a href="/contact/?q=1#map">c</a><a href='#top'>t</a><a href=https://example.org/>e</a><a href="notes.html">rel</a>
<img src=/media/r.jpg srcset="/media/r.jpg 1x, /media/r@2.jpg 2x" data-fill="src:hero; alt:hero-alt">
<label for="n">N</label><input id=n aria-describedby="top n"><p ` +
	`style="background:url(&quot;/media/p.png&quot;);color:var(--ink)">x</p>
<cp-menu name="main"></cp-menu><cp-section ` +
	`name='hours'></cp-section><cp-title></cp-title><x-weather-strip></x-weather-strip>
<h1 data-fill="text:hut-name">Sample Hut</h1><script>document.querySelector(".a").id = 'top'</script></body></html>`

func TestEveryReferenceIsFoundAtItsPlace(t *testing.T) {
	f := Extract(item.Page, "", []byte(page))
	got := map[string]string{}
	for _, r := range f.Refs {
		got[string(r.Space)+" "+r.Name] = string(r.At.Of([]byte(page)))
	}
	for want, raw := range map[string]string{
		"address /media/x y.png": "/media/x y.png", "address /media/og.jpg": "/media/og.jpg",
		"address /contact/": "/contact/", "id top": "top", "external https://example.org/": "https://example.org/",
		"loose notes.html": "notes.html", "address /media/r@2.jpg": "/media/r@2.jpg",
		"address /media/p.png": "/media/p.png", "property --ink": "--ink", "animation rise": "rise",
		"menu main": "main", "section hours": "hours", "setting title": "",
		"component x-weather-strip": "x-weather-strip", "fill hut-name": "hut-name", "fill hero-alt": "hero-alt",
		"class b": "b",
	} {
		t.Run(want, func(t *testing.T) {
			at, ok := got[want]
			assert.True(t, ok, want)
			assert.Equal(t, raw, at, want)
		})
	}
	assert.Equal(t, "T & t", f.Title)
	assert.Equal(t, []string{"an inline script"}, f.Scripts)
	assert.True(t, f.IsMentioned("top"))
	assert.Equal(t, 1, f.NoAlt)
	assert.Equal(t, FillPlace{Name: "hut-name", Target: "text", Sample: "Sample Hut", Line: 7}, f.Fills[2])
}

func TestPlacesThatAreEasilyOverlooked(t *testing.T) {
	src := []byte(
		`<meta http-equiv="Refresh" content="5; URL='/new/#here'"><a name="old" ping="/a /b" href="#old">x</a>
<img usemap="#plan" src="/media/p.png"><map name=plan><area href="/bunks/"></map><button popovertarget=tip ` +
			`form=f list=l>b</button>
<svg><rect fill="url(#dawn)" clip-path="url('#cut')"/><use href="/media/icons.svg#bed"/></svg><video ` +
			`poster=/media/v.jpg><source src="/media/v.mp4"></video>
<div style="background-image:image-set('/media/s.png' 1x, url(/media/l.png) 2x);cursor:url(/media/c.cur),auto"></div>
<script>const r = a / 2 / "/media/not-a-regex.js".length, q = /["']/.test(x); load("/media/late.jpg", ` +
			"`#${id} .open`" + `)</script>`,
	)
	f := Extract(item.Section, "", src)
	got := map[string]bool{}
	for _, r := range f.Refs {
		got[string(r.Space)+" "+r.Name] = true
		if r.Space != Setting {
			assert.NotEmpty(t, r.At.Of(src), r.Name)
		}
	}
	for _, want := range []string{"address /new/", "id old", "address /a", "address /b", "id plan", "address /bunks/",
		"id tip", "id f", "id l", "id dawn", "id cut", "address /media/icons.svg",
		"address /media/v.jpg", "address /media/v.mp4", "address /media/s.png", "address /media/l.png",
		"address /media/c.cur", "mention /media/late.jpg", "mention /media/not-a-regex.js"} {
		assert.True(t, got[want], want)
	}
	out, err := Rewrite(item.Section, "", src,
		Renames{{ID, "dawn"}: "dusk", {ID, "plan"}: "floor", {Address, "/new/"}: "/newer/"})
	require.NoError(t, err)
	assert.Contains(t, string(out), `fill="url(#dusk)"`)
	assert.Contains(t, string(out), `usemap="#floor" src="/media/p.png"><map name=floor>`)
	assert.Contains(t, string(out), `URL='/newer/#here'`)
	_, err = Rewrite(item.Section, "", src, Renames{{Address, "/media/late.jpg"}: "/media/other.jpg"})
	assert.ErrorContains(t, err, "a script mentions")
}

func TestFilesWhoseReferencesAreRead(t *testing.T) {
	src := []byte(
		`{"name":"Hut","start_url":"../","icons":[{"src":"i/a.png","sizes":"1x1"}],"shortcuts":[{"name":"B",` +
			`"url":"/bunks/","icons":[{"src":"/media/b.png"}]}]}`,
	)
	f := Extract(item.Media, ReadsAs("application/manifest+json"), src)
	assert.Equal(t, []string{"../", "i/a.png"}, f.Names(Loose))
	assert.Equal(t, []string{"/bunks/", "/media/b.png"}, f.Names(Address))
	assert.NotEmpty(t, Extract(item.Media, ReadsAs("application/manifest+json"), []byte("{")).Broken)
	js := Extract(item.Media, ReadsAs("text/javascript"), []byte(`document.body.classList.toggle("menu-open")`))
	assert.True(t, js.IsMentioned("menu-open"))
	assert.Empty(t, Extract(item.Media, ReadsAs("image/png"), []byte(`"menu-open"`)).Mentions)
}

func TestJSONPlaces(t *testing.T) {
	src := []byte(
		`{"title":"Main","entries":[{"label":"Héllo","to":"/a/"},{"label":"x","to":"/b/#c",` +
			`"entries":[{"to":"/a/"}]}]}`,
	)
	f := Extract(item.Menu, "", src)
	assert.Len(t, f.Uses(Address), 3)
	out, err := Rewrite(item.Menu, "", src, Renames{{Address, "/a/"}: "/way/"})
	require.NoError(t, err)
	assert.Equal(
		t,
		`{"title":"Main","entries":[{"label":"Héllo","to":"/way/"},{"label":"x","to":"/b/#c","entries":[{"to":"/`+
			`way/"}]}]}`,
		string(out),
	)
	assert.NotEmpty(t, Extract(item.Form, "", []byte("{")).Broken)
}

func TestARenameIsTotalOrAnError(t *testing.T) {
	_, err := Rewrite(item.Page, "", []byte(page), Renames{{Class, "a"}: "z"})
	assert.ErrorContains(t, err, "a script mentions")
	_, err = Rewrite(item.Page, "", []byte(page), Renames{{Component, "x-weather-strip"}: "x-other"})
	assert.ErrorContains(t, err, "cannot be renamed")
}

// Renaming at random and back gives the same bytes, and in between no old name
// is left and nothing but the names has moved.
func TestRenameAndBack(t *testing.T) {
	sheet := `@layer base; .a-b:not(.c) > #d{background:url(/media/e.png);--f:var(--g)} @keyframes h{to{top:0}} ` +
		`.a-b{animation:h 1s} @font-face{font-family:"I J";src:url("/media/i.woff")}`
	docs := []struct {
		kind item.Kind
		text string
	}{{item.Stylesheet, sheet}, {item.Section,
		`<div class='a-b c' id="d" style="--f:1;background:url(/media/e.png)"><cp-menu name=main></cp-menu><a ` +
			`href="/x/#d">y</a><a href="#d">z</a></div>`}}
	rapid.Check(t, func(t *rapid.T) {
		doc := docs[rapid.IntRange(0, len(docs)-1).Draw(t, "doc")]
		forth, back := Renames{}, Renames{}
		for i, r := range Extract(doc.kind, "", []byte(doc.text)).Refs {
			if r.write == fixed || !rapid.Bool().Draw(t, "rename") {
				continue
			}
			name := rapid.StringMatching(`[a-z][a-z0-9é_-]{0,8}`).Draw(t, "name") + fmt.Sprint(i)
			if r.Space == Address {
				name = "/" + name
			}
			if r.Space == Property {
				name = "--" + name
			}
			if _, done := forth[Name{r.Space, r.Name}]; !done {
				forth[Name{r.Space, r.Name}] = name
				back[Name{r.Space, name}] = r.Name
			}
		}
		mid, err := Rewrite(doc.kind, "", []byte(doc.text), forth)
		require.NoError(t, err)
		for _, r := range Extract(doc.kind, "", mid).Refs {
			_, old := forth[Name{r.Space, r.Name}]
			assert.False(t, old, "%s %s is still there in %s", r.Space, r.Name, mid)
		}
		again, err := Rewrite(doc.kind, "", mid, back)
		require.NoError(t, err)
		assert.Equal(t, doc.text, string(again))
	})
}

func FuzzRewrite(f *testing.F) {
	f.Add([]byte(page), true)
	f.Add([]byte(".a{b:url(c)}"), false)
	f.Fuzz(func(t *testing.T, src []byte, html bool) {
		start := time.Now()
		defer func() {
			if took := time.Since(start); took > 10*time.Second {
				t.Fatalf("%d bytes took %s", len(src), took)
			}
		}()
		kind := item.Stylesheet
		if html {
			kind = item.Page
		}
		var edits []span.Edit
		for _, r := range Extract(kind, "", src).Refs {
			edits = append(edits, span.Edit{Span: r.At, New: r.At.Of(src)})
		}
		out, err := span.Apply(src, edits) // every place put in its own place
		if err != nil || string(out) != string(src) {
			t.Fatal("nothing was to change")
		}
	})
}

// Rewriting addresses gives the facts that reading the new document would give.
func TestRewrittenFactsAreThoseOfTheNewText(t *testing.T) {
	files, err := filepath.Glob("../../test/fixtures/sites/*/*.html")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	more, err := filepath.Glob("../../test/fixtures/sites/*/*/*.css")
	require.NoError(t, err)
	for _, p := range append(files, more...) {
		src, err := os.ReadFile(p)
		require.NoError(t, err)
		kind := item.Page
		if strings.HasSuffix(p, ".css") {
			kind = item.Stylesheet
		}
		f := Extract(kind, "", src)
		out, g, err := f.Rewritten(kind, "", src, func(r Ref) (string, bool) {
			return "/some where/(new)/" + strings.Trim(r.Name, "./"), r.Space == Loose || r.Space == Address
		})
		require.NoError(t, err)
		assert.Equal(t, Extract(kind, "", out), g, p)
		quick, err := Relink(kind, "", src, func(r Ref) (string, bool) {
			return "/some where/(new)/" + strings.Trim(r.Name, "./"), r.Space == Loose || r.Space == Address
		})
		require.NoError(t, err)
		assert.Equal(t, string(out), string(quick), p)
	}
}

func TestHeadScriptsByName(t *testing.T) {
	src := []byte(
		`<!doctype html><html><head><script src="/media/a.js"></script><script>x = 1</script><script ` +
			`type=module>y()</script><script type="application/ld+json">{}</script></head></html>`,
	)
	var names []string
	for _, n := range markup.Parse(src, "").ByTag("script") {
		if Runs(n) {
			names = append(names, HeadScriptName(n, src))
		}
	}
	require.Len(t, names, 3, "data is no script")
	assert.Equal(t, "/media/a.js", names[0])
	assert.Regexp(t, `^inline:[0-9a-f]{12}$`, names[1])
	assert.NotEqual(t, names[1], names[2])
	assert.Equal(
		t,
		map[string]bool{"/media/a.js": true},
		PortableHeadScripts(
			[]byte(`[{"script":"/media/a.js","portable":true},{"script":"/media/b.js","portable":false}]`),
		),
	)
	assert.Empty(t, PortableHeadScripts([]byte(`{"not":"a list"}`)), "what is no list allows nothing")
}

// The normalized digest alone is that of all facts.
func TestTheNormalizedDigestAlone(t *testing.T) {
	for kind, text := range map[item.Kind]string{
		item.Page: "<!doctype html><title>x</title><p  class=a>x", item.Section: "<p>x</p>\n",
		item.Stylesheet: "a{ b : c }",
		item.Tokens:     `{"a": {"$value": 1}}`, item.Menu: `{"title":"x", "entries":[]}`, item.Component: "x( 1 )",
		item.Media: "GIF89a", item.Setting: `"x"`,
	} {
		assert.Equal(t, Extract(kind, "", []byte(text)).NormalizedDigest, NormalizedDigestOf(kind, "", []byte(text)),
			kind)
	}
}
