package test

import (
	"testing"

	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// signedIn gives a browser in which somebody is signed in at the console.
func signedIn(t *testing.T, s *harness.Service, name string) *harness.Browser {
	t.Helper()
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/sign-in")
	b.Type("#name", name)
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("Library")
	return b
}

// Words are written where they stand, and nothing is live before somebody says so.
func TestWordsAreWrittenOnThePageInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	before := digest(t, s, "kestrel-refuge")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/kestrel-refuge/edit/")
	b.Shows("First light, last stove")

	b.Write("h1", "Late light — 🌄 שלום")
	b.Saved()
	assert.Equal(t, before, digest(t, s, "kestrel-refuge"))
	b.Do(chromedp.KeyEvent(kb.Escape))
	b.Shows("Late light — 🌄 שלום")
	b.Sees("Saved in your draft")

	b.Press("Undo")
	b.Shows("First light, last stove")
	b.Press("Redo")
	b.Shows("Late light")
}
