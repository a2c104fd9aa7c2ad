package test

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A stranger's page, with scripts that rewrite it and reach for the console, lines that end in CR LF, tags that
// overlap and elements that are never closed: it is edited as its sources say, and nothing of it runs meanwhile.
func TestStrangersPageIsEditedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "adopt", "fixtures/lodge", "--name", "lodge", "--parts", "none")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/lodge/edit/")
	b.Shows("Beds & boots")
	b.Sees("Scripts of this page rest while you edit")
	assert.Equal(t, "What time is it?", harness.Edited[string](b, `document.getElementById("clock").textContent`))
	assert.NotContains(t, harness.Edited[string](b, `document.body.innerText`), "Rewritten by a script")
	assert.NotEqual(t, "taken", harness.Eval[string](b, `document.body.innerText`))
	b.Shows("The loft") // slides lie side by side
	b.Shows("The sauna")
	assert.Equal(t, "1", harness.Edited[string](b, `getComputedStyle(document.querySelector(".fade")).opacity`))

	// Entities stay entities, and line ends what they are.
	b.PointAt("h1")
	harness.Edited[bool](b, `(e => { const n = e.firstChild, at = n.data.indexOf("lodge");
		getSelection().setBaseAndExtent(n, at, n, at + 5); return true })(document.querySelector("h1"))`)
	b.Insert("refuge & <more> 🏔")
	b.Saved()
	b.Do(chromedp.KeyEvent(kb.Escape))
	b.Shows("refuge & <more> 🏔")
	source := func() string {
		var got struct{ Content string }
		list := s.Call("GET", "/api/v1/sites/lodge/drafts", nil)
		var drafts struct{ Drafts []struct{ ID int64 } }
		list.Into(t, &drafts)
		s.Call("GET", "/api/v1/sites/lodge/item?address=page/home&draft="+itoa(drafts.Drafts[0].ID), nil).Into(t, &got)
		return got.Content
	}
	assert.Contains(t, source(), "Beds &amp; boots&nbsp;&mdash; a refuge &amp; &lt;more&gt; 🏔</h1>\r\n")

	// Words across a line end, beside tags that overlap.
	b.PointAt(".lead")
	harness.Edited[bool](b, `(e => { const n = e.firstChild, at = n.data.indexOf("all year");
		getSelection().setBaseAndExtent(n, at, n, at + 8); return true })(document.querySelector(".lead"))`)
	b.Insert("every day")
	b.Saved()
	b.Do(chromedp.KeyEvent(kb.Escape))
	assert.Contains(t, source(), "Open every day,\r\n  even in <b>deep <i>snow</b> and</i> fog.")

	// From an office program.
	b.PointAt("#clock")
	b.Do(chromedp.KeyEvent(kb.End))
	harness.Edited[bool](b, `(e => { const d = new DataTransfer(); d.setData("text/html",
		"<html><head><style>p{mso-x:1}</style></head>`+
		`<body><p class=MsoNormal style='color:red'>Bring <b>boots</b><o:p></o:p></p>`+
		`<script>alert(1)</`+`script></body></html>"); `+
		`d.setData("text/plain", "Bring boots"); e.dispatchEvent(new ClipboardEvent("paste", {clipboardData: d,
			bubbles: true, cancelable: true})); return true })`+
		`(document.querySelector("#clock"))`)
	b.Shows("Bring boots")
	b.Saved()
	text := source()
	assert.Contains(t, text, "Bring <b>boots</b>")
	for _, left := range []string{"Mso", "mso", "alert(1)", "color:red"} {
		assert.NotContains(t, text, left)
	}

	// An input method: what is composed comes when it is done.
	b.PointAt(".fade")
	harness.Edited[bool](b, `(e => { e.dispatchEvent(new CompositionEvent("compositionstart", {bubbles: true}));
		e.firstChild.data = "ふ"; `+
		`e.dispatchEvent(new InputEvent("input", {bubbles: true, isComposing: true}));
			return true })(document.querySelector("[contenteditable]"))`)
	time.Sleep(600 * time.Millisecond)
	assert.NotContains(t, source(), "ふ")
	harness.Edited[bool](b, `(e => { e.firstChild.data = "冬山"; e.dispatchEvent(new CompositionEvent("compositionend",
		{bubbles: true})); return true })`+
		`(document.querySelector("[contenteditable]"))`)
	b.Saved()
	assert.Contains(t, source(), `<p class="fade">冬山</p>`)

	// What is never closed keeps its place, and says why.
	b.Do(chromedp.KeyEvent(kb.Escape))
	b.PointAt("words:Hall, 8 beds")
	b.Sees("Entry “Hall, 8 beds”")
	b.Do(chromedp.WaitVisible(`[data-chosen] [title^="Remove"]:disabled`))
	goLive(b)
	live := string(s.Visit(s.Live("lodge") + "/").Body)
	assert.Equal(t, 1, strings.Count(live, "冬山"))
	assert.Contains(t, live, "lodge.js", "for visitors its scripts are what they were")
}

// veiled is a page whose styles stand between it and the pointer: a veil until its script has run, a link stretched
// over its card, what is drawn before every last element of the root, and a root that is moved and made smaller.
const veiled = `<!doctype html><html><head><title>Scree Hut</title><style>
html{position:relative;margin-top:60px;zoom:.9}
.veil{position:fixed;inset:0;background:#fff;z-index:99999}
.haze{position:fixed;inset:0;background:rgba(200,210,220,.3);z-index:9}
html::after{content:"";position:fixed;inset:0;z-index:5}
body ~ div::before{content:"Press here";position:fixed;inset:0;pointer-events:auto}
.card{position:relative} .card a::after{content:"";position:absolute;inset:0}
</style></head><body><div class="veil"><i>Loading</i></div><div class="haze"></div>
<main><h1>Scree Hut</h1><p>Beds for twelve.</p>
<div class="card"><h2>Summer</h2><p>Open daily.</p><a href="/summer/">More</a></div></main>
<script src="veil.js"></script></body></html>`

// What is pointed at is what is seen, whatever the page's styles lay over it.
func TestWhatStandsBeforeAPageLetsThePointerThroughInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte(veiled), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "veil.js"), []byte(`document.querySelector(".veil").remove()`),
		0o644))
	s.Must("site", "adopt", dir, "--name", "scree", "--parts", "none")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/scree/edit/")
	b.Sees("What covers the whole page is put aside until you choose it")
	assert.Equal(t, "none", harness.Edited[string](b, `getComputedStyle(document.querySelector(".veil")).display`))
	assert.Equal(t, "block none", harness.Edited[string](b,
		`(s => s.display + " " + s.pointerEvents)(getComputedStyle(document.querySelector(".haze")))`))
	assert.Equal(t, "none",
		harness.Edited[string](b, `getComputedStyle(document.documentElement.lastElementChild, "::before").content`))
	b.PointAt("words:Beds for twelve.")
	b.Sees("Text “Beds for twelve.”")
	b.Write("h2", "Winter")
	b.Sees("Heading “Summer”")
	b.Saved()
	b.Click(`//li[@role="treeitem"][contains(., "Loading")]`)
	b.Sees("Group “Loading”")
	require.Eventually(t, func() bool {
		return harness.Edited[string](b, `getComputedStyle(document.querySelector(".veil")).display`) == "block"
	}, 20*time.Second, 50*time.Millisecond, "what is chosen is seen")
}

// A picture that is none and one that is too heavy are refused, and the page stays as it was.
func TestPicturesAreReplacedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("First light")
	drop := func(name, kind string, size int) {
		b.PointAt("main img")
		b.Do(chromedp.WaitVisible(`[aria-label="Pictures of the site"]`))
		harness.Eval[bool](b, `(i => { const d = new DataTransfer();
			d.items.add(new File([new Uint8Array(`+itoa(int64(size))+
			`).fill(65)], "`+name+`", {type: "`+kind+`"})); i.files = d.files; i.dispatchEvent(new Event("change",
				{bubbles: true})); return true })`+
			`(document.querySelector("[data-chosen] input[type=file]"))`)
	}
	was := harness.Edited[string](b, `document.querySelector("main img").getAttribute("src")`)
	drop("notes.txt", "text/plain", 40)
	b.Sees("is no picture that browsers show")
	drop("huge.jpg", "image/jpeg", 40<<20)
	b.Sees("more than 25 MB")
	drop("no-picture.jpg", "image/jpeg", 400)
	b.Sees("no-picture.jpg is no picture that browsers show")
	assert.Equal(t, was, harness.Edited[string](b, `document.querySelector("main img").getAttribute("src")`))

	b.PointAt("main img")
	b.Click(`[data-media="media/stove-smoke.jpg"]`)
	b.Saved()
	b.Type(`[id^="alt-"]`, "Smoke over the roof")
	b.Do(chromedp.KeyEvent(kb.Tab))
	b.Saved()
	goLive(b)
	live := string(s.Visit(s.Live("kestrel-refuge") + "/").Body)
	assert.Contains(t, live, `alt="Smoke over the roof"`)
}

func itoa(n int64) string { return strconv.FormatInt(n, 10) }
