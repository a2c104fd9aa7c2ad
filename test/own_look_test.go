package test

import (
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// waitGone waits until nothing is at a selector any more.
func waitGone(selector string) chromedp.Action[chromedp.Void] {
	return chromedp.WaitNotPresent(selector)
}

// A piece of a kit keeps the look that it comes with, as a look of the site; whole pages wear the site's.
func TestAPieceKeepsTheLookItComesWith(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	use := []string{"site", "use", "hut-basics@1.0.0:section/opening-hours", "blackwater-bothy", "--page", "/",
		"--inside", "main", "--draft", "look"}
	var dry api.PieceUsed
	s.Call("POST", "/api/v1/sites/blackwater-bothy/uses", map[string]any{"from": "kit hut-basics@1.0.0",
		"piece": "section/opening-hours", "page": "/", "ownLook": true, "dry": true}).Into(t, &dry)
	require.NotNil(t, dry.OwnLook)
	assert.Equal(t, "as in hut-basics", *dry.OwnLook)
	got := s.Must(append(use, "--own-look")...)
	assert.Contains(t, got, "wears the look “as in hut-basics”")
	assert.Contains(t, s.Must("site", "looks", "blackwater-bothy", "--draft", "look"), "as in hut-basics")
	assert.Regexp(t, `stylesheet/appearance +new`, s.Must("draft", "show", "blackwater-bothy", "look"))
	assert.Contains(t, s.Must("site", "edit", "blackwater-bothy", "/", "own-look", ".hours", "--value", "",
		"--draft", "look"), "wears the site's look again")
	assert.Contains(t, s.Must("site", "edit", "blackwater-bothy", "part/footer", "part-look", "--value",
		"as in hut-basics", "--draft", "look"), "part/footer wears")
	s.Must("draft", "undo", "blackwater-bothy", "look")
	s.Must("draft", "undo", "blackwater-bothy", "look")
	s.Must("draft", "undo", "blackwater-bothy", "look") // all of the use is one step
	assert.Contains(t, s.Must("draft", "show", "blackwater-bothy", "look"), "It changes nothing")
	assert.NotContains(t, s.Must(use...), "wears the look", "it wears the site's unless it is asked")
}

// On a page one press changes between a piece's own look and the site's; more rarely wanted ways are at the same
// place.
func TestAPieceChangesItsLookInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("site", "use", "hut-basics@1.0.0:section/opening-hours", "blackwater-bothy", "--page", "/", "--inside",
		"main", "--own-look", "--draft", "look")
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites/blackwater-bothy/edit/")
	b.Shows("When Blackwater Bothy is open")
	element(b, "Opening hours", "Section")
	b.Do(chromedp.WaitVisible(`[data-own-look] [aria-pressed="true"]`))
	own := harness.Eval[string](b, `document.querySelector('[data-own-look] [aria-pressed="true"]').textContent.trim()`)
	assert.Equal(t, "as in hut-basics", own)
	b.Press("This site’s")
	b.Sees("wears the site's look again")
	b.Saved()
	b.Press("as in hut-basics")
	b.Sees("wears the look “as in hut-basics”")
	b.Saved()
	b.Click(`[data-more-ways] summary`)
	b.Choose(`[data-wrap]`, "aside")
	b.Press("Put it in")
	b.Saved()
	goLive(b)
	home := string(s.Visit(s.Live("blackwater-bothy") + "/").Body)
	assert.Regexp(t, `(?s)<aside>.*When <?.*Blackwater`, home)
	assert.Contains(t, home, "own-1")
}
