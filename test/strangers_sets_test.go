package test

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A whole page of one site, delivered to another that uses the same framework, asks one thing:
// its address is taken. Brought in beside, it looks as at home, and no other page changes. A set
// of parts asks for its places, in one question.
func TestStrangersPagesAndPartsAskOnce(t *testing.T) { meetWhole(t, strangers(t)) }

// The same with sites from public packages, in the long tests.
func TestPublicPagesAndPartsAskOnce(t *testing.T) {
	meetWhole(t, publicSites(t))
}

func meetWhole(t *testing.T, list []stranger) {
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	b.Size(1280, 800)
	sets := map[string]bool{} // sites on which parts were found
	for _, x := range list {
		s.Must("site", "adopt", x.folder, "--name", x.name, "--parts", "none")
		packed(t, s, "page-of-"+x.name, x.name, "page/home")
		s.Must("site", "adopt", x.folder, "--name", parted(x), "--parts", "auto")
		var parts api.ItemList
		s.Call("GET", "/api/v1/sites/"+parted(x)+"/items", nil).Into(t, &parts)
		for _, p := range parts.Items {
			sets[x.name] = sets[x.name] || p.Address.Kind == "part" && p.Meta.Placement != nil
		}
		if sets[x.name] {
			packed(t, s, "parts-of-"+x.name, parted(x), "--placed-parts")
		}
	}
	for _, from := range list {
		for _, to := range list {
			if from.name == to.name {
				continue
			}
			pageMeets(t, s, b, from.name, to.name)
			if sets[from.name] {
				var d api.Delivery
				s.Call("POST", "/api/v1/deliveries",
					m{"kit": "parts-of-" + from.name, "version": "1.0.0", "site": parted(to)}).Into(t, &d)
				assert.LessOrEqual(t, len(but(d.Plan.Questions, "fill")), 2, "parts of %s to %s", from.name, to.name)
			}
		}
	}
}

// parted is the name of a site whose repeated elements were made into parts.
func parted(x stranger) string { return x.name + "-in-parts" }

func packed(t *testing.T, s *harness.Service, kit, site, what string) {
	t.Helper()
	kit += "@1.0.0"
	s.Must("kit", "new", kit, "--title", "Of "+site, "--license", "CC0-1.0")
	s.Must("kit", "add", kit, what, "--from", site)
	s.Must("kit", "seal", kit)
}

// but are the questions of other kinds than one.
func but(list []api.Question, kind api.QuestionKind) []api.Question {
	var out []api.Question
	for _, q := range list {
		if q.Kind != kind {
			out = append(out, q)
		}
	}
	return out
}

func pageMeets(t *testing.T, s *harness.Service, b *harness.Browser, from, to string) {
	pair := from + " to " + to
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries", m{"kit": "page-of-" + from, "version": "1.0.0", "site": to}).Into(t, &d)
	require.Len(t, d.Plan.Questions, 1, pair)
	require.Equal(t, "page/home", d.Plan.Questions[0].Key, pair)
	s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id),
		m{"decisions": m{"page/home": "both"}}).Into(t, &d)
	require.Empty(t, d.Plan.Questions, pair)
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil).Into(t, &d)
	require.NotNil(t, d.Draft, pair)
	slug := ""
	for _, p := range d.Plan.Touched {
		if p.Slug != "/" {
			slug = p.Slug
		}
	}
	var kit api.Kit
	s.Call("GET", "/api/v1/kits/page-of-"+from+"/1.0.0", nil).Into(t, &kit)
	home, here := looks(b, kit.Preview+"/", "body"), looks(b, *d.Preview+slug, "body")
	require.NotEmpty(t, home, pair)
	require.Len(t, here, len(home), "%s: the same elements", pair)
	for j := range home {
		for p, v := range home[j] {
			if strings.HasPrefix(p, "margin-") && here[j]["edge"] == home[j]["edge"] {
				continue // Chromium gives automatic margins as 0 or as used, from one load to the next
			}
			if (!follows[p] || p == "edge") && here[j][p] != v {
				assert.Fail(t, "a page looks otherwise", "%s: %s of <%s> (%d) is %s, at home %s", pair, p,
					here[j]["of"], j,
					here[j][p], v)
			}
		}
	}
	for width, pixels := range b.Differ("page-"+from+"-"+to, s.Live(to)+"/", *d.Preview+"/", 1280) {
		assert.Zero(t, pixels, "%s: / at %d", pair, width)
	}
	require.Equal(t, 204, s.Call("DELETE", fmt.Sprintf("/api/v1/sites/%s/drafts/%d", to, *d.Draft), nil).Status)
}
