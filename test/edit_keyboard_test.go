package test

import (
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// focus gives the focus to an element of the console, as Tab does in the end.
func tabTo(t *testing.T, b *harness.Browser, selector string) {
	t.Helper()
	for range 120 {
		if harness.Eval[bool](b, `document.activeElement?.matches(`+"`"+selector+"`"+`) ?? false`) {
			return
		}
		b.Do(chromedp.KeyEvent(kb.Tab))
	}
	t.Fatalf("Tab does not lead to %s", selector)
}

// alt presses a key with Alt held.
func alt(b *harness.Browser, key string) {
	b.Do(chromedp.KeyEvent(key, chromedp.KeyModifiers(chromedp.ModifierAlt)))
}

// The same by keyboard alone: words are written, an element is moved and removed and brought back, a page is made
// and a menu entry added, and it goes live.
func TestStoryByKeyboardInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge")
	b.Sees("Edit the home page")
	tabTo(t, b, "[data-open-to-edit]")
	b.Do(chromedp.KeyEvent(kb.Enter))
	b.Shows("First light, last stove")

	// From the list of elements to the words on the page.
	tabTo(t, b, "[role=treeitem]")
	down(b, "Heading First light")
	b.Do(chromedp.KeyEvent(kb.Enter))
	waitTyping(t, b)
	b.Do(chromedp.KeyEvent(kb.End))
	b.Insert(" for all")
	b.Saved()
	b.Do(chromedp.KeyEvent(kb.Escape))
	b.Shows("First light, last stove for all")

	// Moved, removed, and brought back.
	tabTo(t, b, "[role=treeitem]")
	down(b, "Entry Three ways up")
	alt(b, kb.ArrowUp)
	b.Saved()
	first := `document.querySelector(".cards > li").innerText.includes("Three ways up")`
	eventually(t, b, first, "moved up")
	down(b, "Entry Soup at all hours")
	b.Do(chromedp.KeyEvent(kb.Delete))
	eventually(t, b, `!document.body.innerText.includes("Soup at all hours")`, "removed")
	b.Saved()
	tabTo(t, b, `button[title^="Undo"]`)
	b.Do(chromedp.KeyEvent(kb.Enter))
	b.Shows("Soup at all hours")

	// An entry of the menu.
	tabTo(t, b, "[role=treeitem]")
	down(b, "Menu Main menu")
	b.Sees("Entries of")
	tabTo(t, b, "[data-menu-target]")
	b.Do(chromedp.KeyEvent("G")) // to Getting here
	tabTo(t, b, "[data-menu-add]")
	b.Do(chromedp.KeyEvent(kb.Enter))
	eventually(t, b, `document.querySelectorAll(".cp-menu-list a").length === 5`, "the entry is there")
	b.Saved()
	accessible(t, b, "the page view with a menu chosen")

	tabTo(t, b, `a[href*="/go-live"]`)
	b.Do(chromedp.KeyEvent(kb.Enter))
	b.Sees("What changes")
	tabTo(t, b, "main section button.btn")
	b.Do(chromedp.KeyEvent(kb.Enter))
	b.Do(chromedp.WaitVisible("[data-confirm]"))
	tabTo(t, b, "[data-confirm]")
	b.Do(chromedp.KeyEvent(kb.Enter))
	b.Sees("It is live")
	live := string(s.Visit(s.Live("kestrel-refuge") + "/").Body)
	assert.Contains(t, live, "First light, last stove for all")
	assert.Contains(t, live, "Soup at all hours")
	assert.Less(t, indexOf(live, "Three ways up"), indexOf(live, "Bunks and blankets"))
}

// down goes through the list of elements until one whose words hold some has the focus.
func down(b *harness.Browser, words string) {
	b.AtRest()
	b.Do(chromedp.KeyEvent(kb.Home))
	for range 80 {
		b.Painted()
		if harness.Eval[bool](b, `(document.activeElement?.textContent ?? "").replace(/\s+/g,
			" ").includes("`+words+`")`) {
			return
		}
		b.Do(chromedp.KeyEvent(kb.ArrowDown))
	}
	b.Fail("no element of the list has the words %q", words)
}

func waitTyping(t *testing.T, b *harness.Browser) {
	t.Helper()
	eventually(t, b, `!!document.querySelector("[contenteditable]")`, "it can be typed in")
}

// eventually waits until an expression holds in the page that is edited.
func eventually(t *testing.T, b *harness.Browser, expression, what string) {
	t.Helper()
	assert.Eventually(t, func() bool { return harness.Edited[bool](b, expression) }, 15*time.Second,
		60*time.Millisecond,
		what)
}

func indexOf(s, words string) int { return strings.Index(s, words) }
