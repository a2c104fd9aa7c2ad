package test

import (
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// Who may only look sees what stands on a page and what it is, and nothing that changes it: no field, no
// key, no typing.
func TestAViewerLooksAtAPageInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "visitor")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Sees("Click on anything to see what it is")
	b.AtRest()
	b.PointAt("main h1")
	b.Sees("Changing it takes a keeper")
	assert.False(t, harness.Edited[bool](b, `!!document.querySelector("[contenteditable]")`), "nothing is typed in")
	assert.Empty(t, harness.Eval[[]string](b, `[...document.querySelectorAll(
		".chosen-panel fieldset :is(button, input, select, textarea)")]
		.filter((e) => !e.matches(":disabled")).map((e) => e.outerHTML.slice(0, 80))`))
	// By keyboard they go from one element to the next, and up to what is around it.
	into := `(document.querySelector("[data-page-frame=shown]").focus(), true)`
	harness.Eval[bool](b, into)
	b.Do(chromedp.KeyEvent(kb.ArrowDown))
	b.Until(`document.querySelector("[data-chosen] h2").textContent.includes("Forty bunks")`, "it is not the next one")
	b.Do(chromedp.KeyEvent(kb.ArrowUp))
	b.Until(`document.querySelector("[data-chosen] h2").textContent.includes("Heading")`, "it is not the one before")
	b.Click("[data-chosen] nav button:last-of-type")
	b.Until(`document.querySelector("[data-chosen] h2").textContent.includes("Group")`, "it is not what is around")
	b.PointAt("main h1")
	harness.Eval[bool](b, into)
	assert.Empty(t, harness.Eval[[]string](b, `[...document.querySelectorAll("[data-around] :is(button, select)")]
		.map((e) => e.textContent).filter((w) => /leave out|width|everywhere/.test(w))`))
	was := s.Must("draft", "list", "kestrel-refuge")
	for _, key := range []string{kb.Delete, kb.Backspace, kb.Enter, "x"} {
		b.Do(chromedp.KeyEvent(key))
	}
	b.AtRest()
	b.Shows("First light, last stove")
	assert.Equal(t, was, s.Must("draft", "list", "kestrel-refuge"), "no draft was made")
}
