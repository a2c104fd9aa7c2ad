package test

import (
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// A page with an address of its own becomes the home page; wherever pages are shown or chosen it is known as that.
func TestAPageOfAnotherAddressIsTheHomePageInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/larch-saddle")
	b.Click(`[data-page="/house-rules/"] button[aria-label^="What can be done"]`)
	b.Press("Make this the home page…")
	b.Click(`[data-page="/house-rules/"] form button:not([type=button])`)
	b.Sees("/house-rules/ · the home page")
	b.Sees("/former-home/")
	b.Click(`[data-page="/house-rules/"] button[aria-label^="What can be done"]`)
	b.Sees("Make a copy")
	assert.False(t, harness.Eval[bool](b, `document.body.innerText.includes("Make this the home page")`))
	b.Do(chromedp.KeyEvent("\u001b"))

	// What the site says of itself is said on the same page, and is what lists call it once it is live.
	b.Type("#site-title", "Larch Hollow")
	b.Do(chromedp.KeyEvent("\t"))
	b.Sees("Set setting/title")

	b.Click("[data-open-to-edit]")
	b.Shows("House rules")
	b.Do(chromedp.WaitVisible("[data-page-properties]"))
	assert.Equal(t, "House rules", harness.Eval[string](b,
		`document.querySelector("select[aria-label=Page]").selectedOptions[0].text.trim()`))

	b.Go(s.Console + "/sites/larch-saddle/looks")
	b.Do(chromedp.WaitVisible("#look-page"))
	b.Sees("House rules")
	assert.Equal(t, "House rules",
		harness.Eval[string](b, `document.querySelector("#look-page").selectedOptions[0].text.trim()`))
	s.Must("site", "go-live", "larch-saddle", draftOf(t, s, "larch-saddle"))
	assert.Contains(t, s.Must("site", "list"), "Larch Hollow")
}
