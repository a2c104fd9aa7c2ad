package test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// option chooses the option of a select element whose words hold some.
func option(b *harness.Browser, selector, words string) {
	b.Do(chromedp.WaitVisible(selector))
	value := "[...document.querySelector(`" + selector + "`).options].find((o) => o.text.includes(`" + words +
		"`))?.value ?? ``"
	b.Until("("+value+") !== ``", "%s has no option with the words %q", selector, words)
	b.Choose(selector, harness.Eval[string](b, value))
}

// goLive puts the draft that is edited live from the page view.
func goLive(b *harness.Browser) {
	b.Saved()
	liveNow(b)
}

// drag drags with the mouse from one place to another, in CSS pixels of the window.
func drag(b *harness.Browser, x, y, toX, toY float64) {
	b.Do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, x, y),
		chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, x, y, chromedp.ButtonLeft),
		chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, (x+toX)/2, (y+toY)/2, chromedp.ButtonLeft),
		chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, toX, toY, chromedp.ButtonLeft),
		chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, toX, toY, chromedp.ButtonLeft))
}

// set writes a property of the appearance of what is chosen.
func set(b *harness.Browser, property, value string) {
	b.Do(chromedp.WaitVisible(`[data-property="` + property + `"]`))
	step := harness.Eval[string](b, `document.querySelector("[data-page-frame=shown]").src`)
	harness.Eval[bool](b, `(e => { e.value = "`+value+`"; e.dispatchEvent(new Event("input", {bubbles: true})); `+
		`e.dispatchEvent(new Event("change", {bubbles: true})); return true })`+
		`(document.querySelector('[data-property="`+property+`"] :is(input:not([type=color]), select)'))`)
	b.Until(`document.querySelector("[data-page-frame=shown]").src !== "`+step+`"`, "the page does not come again")
	b.Saved()
}

// open opens the appearance of what is chosen.
func openAppearance(b *harness.Browser) {
	b.Do(chromedp.WaitVisible("[data-appearance] summary"))
	harness.Eval[bool](b, `document.querySelector("[data-appearance]").open = true`)
}

// A picture behind a section is tinted, a column widened by its grip, a button's colour when it is pointed at
// chosen, and a band hidden on phones.
func TestAppearanceIsChosenInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("First light, last stove")

	b.PointAt("main > section:nth-of-type(2)")
	element(b, "Why people come up here")
	openAppearance(b)
	set(b, "picture", "media/ridge-dawn.jpg")
	openAppearance(b)
	set(b, "tint", "#99aacc")

	b.Click(`button[title="Phone, 390 px"]`)
	b.Press("Hide at 390 px")
	b.Sees("hidden here")
	b.Saved()
	b.Click(`button[title="Desk, 1280 px"]`)

	b.PointAt(".hero a, .hero .button")
	b.Sees("Where it leads")
	openAppearance(b)
	b.Choose("[data-when]", "pointed")
	set(b, "background", "#1c5d3a")
	accessible(t, b, "the page view with a button chosen")

	// The columns of the opening hours, by the grip between them.
	element(b, "When Kestrel Refuge is open", "Group")
	type box struct{ Left, Right, Top, H, Scale float64 }
	at := func() box {
		return harness.Edited[box](b, `(() => { const e = [...document.querySelectorAll("body *")].filter((e) => `+
			`getComputedStyle(e).display === "grid" &&
				getComputedStyle(e).gridTemplateColumns.split(" ").length > 1 && `+
			`e.innerText.includes("When Kestrel Refuge is open")).at(-1); e.scrollIntoView({block: "center"}); `+
			`const c = [...e.children], r = e.getBoundingClientRect(); `+
			`return {Left: c[0].getBoundingClientRect().right, Right: c[1].getBoundingClientRect().left, Top: r.top,
				H: r.height, Scale: 1} })()`)
	}
	before := at()
	frame := harness.Eval[box](b, `(e => { const r = e.getBoundingClientRect(); return {Left: r.left, Top: r.top,
		Scale: r.width / e.offsetWidth} })`+
		`(document.querySelector("[data-page-frame=shown]"))`)
	x := frame.Left + (before.Left+before.Right)/2*frame.Scale
	y := frame.Top + (before.Top+before.H/2)*frame.Scale
	drag(b, x, y, x+60, y)
	b.Saved()
	require.Eventually(t, func() bool { return at().Left > before.Left+20 }, 10*time.Second, 100*time.Millisecond)
	goLive(b)

	// As a visitor.
	b.Go(s.Live("kestrel-refuge") + "/")
	section := `document.querySelector("main > section:nth-of-type(2)")`
	assert.Contains(t, harness.Eval[string](b, `getComputedStyle(`+section+`).backgroundImage`), "ridge-dawn.jpg")
	assert.Equal(t, "rgb(153, 170, 204)", harness.Eval[string](b, `getComputedStyle(`+section+`).backgroundColor`))
	assert.Equal(t, "multiply", harness.Eval[string](b, `getComputedStyle(`+section+`).backgroundBlendMode`))
	button := `document.querySelector(".hero a, .hero .button")`
	was := harness.Eval[string](b, `getComputedStyle(`+button+`).backgroundColor`)
	where := harness.Eval[[]float64](b, `(r => [r.left + 8, r.top + 8])(`+button+`.getBoundingClientRect())`)
	b.Hover(where[0], where[1])
	require.Eventually(t, func() bool {
		return harness.Eval[string](b, `getComputedStyle(`+button+`).backgroundColor`) == "rgb(28, 93, 58)"
	}, 5*time.Second, 50*time.Millisecond, "pointed at it is green, not %s", was)
	b.Size(390, 800)
	assert.Equal(t, "none", harness.Eval[string](b, `getComputedStyle(`+section+`).display`))
}

// element chooses an element in the list beside the page, by its words and what it is.
func element(b *harness.Browser, words string, kind ...string) {
	with := words
	if len(kind) > 0 {
		with = kind[0] + " " + words
	}
	quoted, _ := json.Marshal(with)
	find := `[...document.querySelectorAll("[data-element]")].find((e) => e.textContent.replace(/\s+/g,
		" ").includes(` +
		string(quoted) + `))`
	for range 100 {
		if harness.Eval[bool](b, `!!`+find) {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	harness.Eval[bool](b, find+`.click(), true`)
	b.Do(chromedp.WaitVisible("[data-chosen]"))
}

// A site of one page: its sections become entries of the menu, and no jump ends below the bar that stays on top.
func TestOnePageSiteInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var had struct{ Content string }
	sheet := s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address=stylesheet/base", nil)
	sheet.Into(t, &had)
	css := strings.ReplaceAll(had.Content, "scroll-margin-top", "x-scroll-margin-top") +
		"\nheader.site-header { position: fixed !important; top: 0; left: 0; right: 0; z-index: 5 }\n"
	var put struct{ Draft int64 }
	s.Call("PUT", "/api/v1/sites/kestrel-refuge/item?address=stylesheet/base", map[string]any{"content": css},
		"If-Match", sheet.Header.Get("ETag")).Into(t, &put)
	require.NotZero(t, put.Draft)
	s.Call("POST", fmt.Sprintf("/api/v1/sites/kestrel-refuge/drafts/%d/live", put.Draft), nil)
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("First light, last stove")
	sections := []string{"Why people come up here", "When Kestrel Refuge is open"}
	for _, words := range sections {
		b.PointAt(".cp-menu-list a")
		option(b, "[data-menu-target]", words)
		b.Click("[data-menu-add]")
		b.Do(chromedp.WaitVisible(`[data-menu] input[value="` + words + `"]`))
		time.Sleep(time.Second) // the jump is measured, and mended
		b.Saved()
	}
	goLive(b)

	for _, words := range sections {
		b.Go(s.Live("kestrel-refuge") + "/")
		b.Do(chromedp.WaitVisible(`.cp-menu-list a`))
		harness.Eval[bool](b, `[...document.querySelectorAll(".cp-menu-list a")].find((a) => a.textContent === "`+words+
			`").click(), true`)
		b.Painted()
		assert.NotEmpty(t, harness.Eval[string](b, `location.hash`), words)
		top := harness.Eval[float64](b, `document.querySelector(location.hash).getBoundingClientRect().top`)
		bar := harness.Eval[float64](b, `document.querySelector(".site-header").getBoundingClientRect().bottom`)
		assert.GreaterOrEqual(t, top, bar-1, "%s lies below the bar", words)
		assert.Less(t, top, bar+200, "%s is in sight", words)
	}
}

// A shared section is edited on one page only, and stays what it is on the other.
func TestSharedSectionIsEditedOnlyHereInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("When Kestrel Refuge is open")
	element(b, "Opening hours", "Section")
	b.Sees("on 2 pages: a change shows on all of them")
	b.Press("Only on this page")
	b.Saved()
	b.Sees("this page’s own")
	b.Write("words:every day, warden at home", "every day but Sunday")
	goLive(b)
	here := string(s.Visit(s.Live("kestrel-refuge") + "/").Body)
	assert.Contains(t, here, "every day but Sunday")
	other := string(s.Visit(s.Live("kestrel-refuge") + "/getting-here/").Body)
	assert.Contains(t, other, "every day, warden at home")
	assert.NotContains(t, other, "every day but Sunday")
}

// Two people write on one page at once: both keep what they wrote, and where both wrote the same words, the second
// is asked.
func TestTwoPeopleOnOnePageInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	var draft struct{ ID int64 }
	s.Call("POST", "/api/v1/sites/kestrel-refuge/drafts", map[string]any{"name": "together"}).Into(t, &draft)
	page := fmt.Sprintf("%s/sites/kestrel-refuge/edit/?draft=%d", s.Console, draft.ID)
	ida, bren := signedIn(t, s, "ida"), signedIn(t, s, "warden")
	ida.Go(page)
	bren.Go(page)
	ida.Shows("First light, last stove")
	bren.Shows("First light, last stove")

	ida.PointAt("h1")
	bren.Write("words:Forty bunks under the Kestrel ridge", "Twelve bunks by the stream.")
	bren.Saved()
	time.Sleep(1500 * time.Millisecond) // what bren wrote comes by, and does not replace what ida types
	ida.Insert("!!")
	ida.Saved()
	ida.Do(chromedp.KeyEvent(kb.Escape))
	ida.Shows("Twelve bunks by the stream.")
	bren.Do(chromedp.KeyEvent(kb.Escape))
	bren.Shows("!!")

	// The same words, at once.
	ida.PointAt("words:Why people come up here")
	bren.PointAt("words:Why people come up here")
	for _, b := range []*harness.Browser{ida, bren} {
		harness.Edited[bool](b, `(getSelection().selectAllChildren(document.querySelector("[contenteditable]")), true)`)
	}
	ida.Insert("Why ida comes")
	ida.Saved()
	bren.Insert("Why bren comes")
	bren.Sees("Somebody else changed the same meanwhile")
	bren.Sees("Why bren comes")
	bren.Press("Write mine")
	bren.Do(chromedp.KeyEvent(kb.Escape))
	ida.Do(chromedp.KeyEvent(kb.Escape))
	ida.Shows("Why bren comes")
	ida.Shows("Twelve bunks by the stream.")
	goLive(ida)
	assert.Contains(t, string(s.Visit(s.Live("kestrel-refuge")+"/").Body), "Why bren comes")
}

// What is typed while the connection is broken is kept in the browser and sent when it is back.
func TestConnectionBreaksWhileTypingInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("First light, last stove")
	b.Write("h1", "Before the storm")
	b.Saved()
	b.Offline(true)
	b.Insert(" and after it")
	b.Sees("Not connected: kept here, and sent again")
	assert.Contains(t, harness.Eval[string](b, `JSON.stringify(localStorage)`), "and after it")
	b.Offline(false)
	b.Saved()
	assert.NotContains(t, harness.Eval[string](b, `JSON.stringify(localStorage)`), "and after it")

	// The browser goes away in the middle, and another visit sends what it kept.
	b.Offline(true)
	b.Insert("!")
	b.Sees("Not connected")
	kept := harness.Eval[string](b, `JSON.stringify(Object.entries(localStorage))`)
	require.Contains(t, kept, "after it")
	b.Leave()
	b.Offline(false)
	b.Go(s.Console + "/sites/kestrel-refuge")
	b.Click("[data-open-to-edit]") // all of the site is known here by now
	b.Shows("Before the storm and after it!")
	goLive(b)
	assert.Contains(t, string(s.Visit(s.Live("kestrel-refuge")+"/").Body), "Before the storm and after it!</h1>")
	assert.Equal(t, 1, strings.Count(string(s.Visit(s.Live("kestrel-refuge")+"/").Body), "after it!"))
}
