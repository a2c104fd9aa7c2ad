package test

import (
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A site is made empty, without a fault, or as a copy of another, which looks as it does, knows where
// its items came from, and keeps what is the other's alone away.
func TestASiteIsMade(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	assert.Contains(t, s.Must("site", "new", "alder-hut", "--title", "Alder Hut"), "alder-hut")
	assert.Contains(t, s.Must("site", "check", "alder-hut"), "Clean")
	page := string(s.Visit(s.Live("alder-hut") + "/").Body)
	assert.Contains(t, page, "<h1>Alder Hut</h1>")
	assert.Equal(t, 1, strings.Count(page, "<header"))
	s.Must("site", "edit", "alder-hut", "menu/main", "entry-add", "--label", "Write", "--value",
		"mailto:alder@highmoor.example")
	b := harness.NewBrowser(t)
	b.Size(390, 800)
	b.Go(s.Live("alder-hut") + "/")
	assert.LessOrEqual(t, harness.Eval[int](b, "document.documentElement.scrollWidth"), 390)

	s.Must("site", "new", "birch-hut", "--copy", "blackwater-bothy")
	for _, at := range []string{"/", "/contact/", "/404.html"} {
		assert.Equal(t, s.Visit(s.Live("blackwater-bothy")+at).Status, s.Visit(s.Live("birch-hut")+at).Status, at)
	}
	from, to := s.Visit(s.Live("blackwater-bothy")+"/"), s.Visit(s.Live("birch-hut")+"/")
	assert.Equal(t, string(from.Body), strings.ReplaceAll(string(to.Body), "birch-hut", "Blackwater Bothy"))
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries", m{"kit": "hut-basics", "version": "1.1.0", "site": "birch-hut"}).Into(t, &d)
	known := 0
	for _, r := range d.Plan.Rows {
		if r.Standing != "new" && r.Standing != "taken" {
			known++
		}
	}
	assert.Greater(t, known, 5, "what hut-basics 1.0.0 brought to the other is known here")
	assert.Contains(t, s.Client("site", "new", "birch-hut").Err, "already a site")
	assert.Contains(t, s.Client("site", "new", "Birch Hut").Err, "cannot be a site's name")
	require.Equal(t, 404, s.Call("POST", "/api/v1/sites", m{"name": "cedar-hut", "copyOf": "nowhere"}).Status)
	assert.Equal(t, 403, as(t, s, "tomas").Call("POST", "/api/v1/sites", m{"name": "cedar-hut"}).Status)
}
