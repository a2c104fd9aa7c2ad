package test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// moving names what moves on a page, which nothing does for those who want it still.
const moving = `document.getAnimations().filter((a) => a.playState === "running" &&
	a.effect.getComputedTiming().duration > 1).map((a) => a.effect.target.className)`

// accessible holds the view that a browser shows against the axe rules of WCAG 2.2, levels A and AA. What frames
// show is a site's own.
func accessible(t *testing.T, b *harness.Browser, what string) {
	t.Helper()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	harness.Eval[bool](b, "(() => { if (!window.axe) { "+string(axe)+" } return true })()")
	found := harness.Eval[[]string](b, `axe.run(document, {iframes: false, runOnly: {type: "tag", values: `+
		`["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]}}).then((r) => r.violations.map((v) => `+
		`v.id + ": " + v.nodes.slice(0, 3).map((n) => n.target.join(" ") + " " + n.html.slice(0, 160)).join(" | ")))`)
	assert.Empty(t, found, "%s:\n%s", what, strings.Join(found, "\n"))
}

// Each view is free of violations of the axe rules, wide and narrow, and with reduced motion.
func TestViewsAreAccessibleInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/sign-in")
	b.Sees("Sign in")
	accessible(t, b, "sign-in")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("Library")
	s.Must("library", "add", "kestrel-refuge", "section/opening-hours")
	var draft struct{ Id int64 }
	s.Call("POST", "/api/v1/sites/kestrel-refuge/drafts", map[string]any{}).Into(t, &draft)
	s.Call("POST", "/api/v1/sites/kestrel-refuge/edits", map[string]any{"draft": draft.Id, "operations": []any{
		map[string]any{"op": "text", "page": "/", "element": "h1", "value": "Last light"},
		map[string]any{"op": "look-keep", "item": "setting/looks", "value": "Day"}}})
	views := [][2]string{
		{"/library", "Opening hours"},
		{"/library/section/opening-hours", "Preview"},
		{"/kits", "Hut basics"},
		{"/kits/hut-basics/2.0.0", "Download the kit"},
		{"/sites", "A new site"},
		{"/sites/kestrel-refuge", "Edit the home page"},
		{"/sites/kestrel-refuge/part/site-header", "Preview"},
		{"/sites/kestrel-refuge/edit/", "Elements of this page"},
		{fmt.Sprintf("/sites/kestrel-refuge/go-live?draft=%d", draft.Id), "What changes"},
		{"/sites/kestrel-refuge/faults", "Look again"},
		{"/sites/kestrel-refuge/proposals", "What repeats"},
		{"/sites/kestrel-refuge/publishing", "Publishing"},
		{"/deliveries", "Hut basics"},
		{"/work", "My work"},
		{"/sites/kestrel-refuge/appears/site-footer", "appears on all pages"},
		{"/sites/kestrel-refuge/looks", "Color ink"},
		{"/sites/kestrel-refuge/pictures", "Where it stands"},
		{"/sites/kestrel-refuge/records", "East path mended"},
		{"/sites/kestrel-refuge/forms", "Ask for a bunk"},
		{"/sites/kestrel-refuge/forms/booking", "A trial entry"},
		{"/sites/kestrel-refuge/history", "Moments"},
		{"/deliveries/1", "Taken back"},
		{"/deliveries/1/contents", "contents"},
		{"/deliveries/1/plan", "Item by item"},
		{"/jobs", "Jobs"},
		{"/trust", "Trusted keys"},
		{"/account", "Access tokens"},
		{"/nowhere-at-all", "Compact"},
	}
	titles := map[string]string{}
	b.Still()
	for _, v := range views {
		b.Size(1280, 800)
		b.Go(s.Console + v[0])
		if v[0] != "/deliveries/1" && v[0] != "/nowhere-at-all" {
			b.Sees(v[1])
		}
		title := harness.Eval[string](b, `document.title`)
		if other, taken := titles[title]; taken && !strings.HasPrefix(v[0], "/deliveries/1") {
			assert.Equal(t, other, v[0], "two places have the title %q", title)
		}
		titles[title] = v[0]
		for _, width := range []int64{1280, 390} {
			b.Size(width, 800)
			if width == 390 && strings.Contains(v[0], "/edit/") { // it chooses its width when it is opened
				b.Go(s.Console + v[0])
				b.Sees(v[1])
			}
			b.AtRest()
			harness.Eval[any](b, `document.querySelectorAll("details").forEach((d) => (d.open = true))`)
			b.Painted()
			if strings.HasPrefix(v[0], "/sites/kestrel-refuge/") && !strings.Contains(v[0], "/edit/") {
				assert.GreaterOrEqual(
					t,
					harness.Eval[int](b, `document.querySelectorAll("nav[aria-label='The site'] a").length`),
					9,
				)
			}
			accessible(t, b, fmt.Sprintf("%s at %d px", v[0], width))
			assert.Empty(t, harness.Eval[[]string](b, moving), v[0])
			assert.LessOrEqual(t, harness.Eval[int64](b, `document.documentElement.scrollWidth`), width, v[0])
		}
	}
}
