package test

import (
	"fmt"
	"path"
	"slices"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/plan"
	"compactparcel/demo"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every page of a site, before and after every kit of the demo, has at most one banner and one
// contentinfo: whether its parts stand around it or it has landmarks of its own, and whichever
// side the seats are given to.
func TestAPageHasOneBannerAndOneContentinfo(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("site", "adopt", s.Data+"/cairn-edge", "--name", "cairn-edge", "--parts", "none")
	for _, site := range []string{"cairn-edge", "blackwater-bothy"} {
		oneOfEach(t, s, site, s.Live(site), "as it is")
		for _, of := range demo.Kits {
			name, version := path.Split(of)
			for _, seats := range []plan.SeatOption{plan.SeatsSite, plan.SeatsKit} {
				of := path.Clean(name) + " " + version + " with seats " + string(seats)
				var d api.Delivery
				s.Call("POST", "/api/v1/deliveries", m{"kit": path.Clean(name), "version": version, "site": site,
					"policy": "unattended", "seats": seats}).Into(t, &d)
				at := fmt.Sprintf("/api/v1/deliveries/%d", d.Id)
				for range 2 { // what comes by a decision may have blanks of its own
					r := s.Call("PATCH", at, m{"decisions": allOfIt(d.Plan), "fills": samples(d.Plan)})
					require.Equal(t, 200, r.Status, "%s to %s: %s", of, site, r.Body)
					r.Into(t, &d)
				}
				r := s.Call("POST", at+"/stage", nil)
				require.Equal(t, 200, r.Status, "%s to %s: %s", of, site, r.Body)
				r.Into(t, &d)
				oneOfEach(t, s, site, *d.Preview, of, fmt.Sprintf("?draft=%d", *d.Draft))
				require.Equal(t, 204, s.Call("DELETE", fmt.Sprintf("/api/v1/sites/%s/drafts/%d", site, *d.Draft),
					nil).Status)
			}
		}
	}
}

// allOfIt brings every page, beside what is there.
func allOfIt(p *plan.Plan) m {
	out := m{}
	for _, r := range p.Rows {
		i := slices.IndexFunc(r.Choices,
			func(c plan.Choice) bool { return c.Decision == plan.Both || c.Decision == plan.Again })
		if i >= 0 && r.Address.Kind == item.Page && r.Decision != plan.Take {
			out[r.Address.String()] = r.Choices[i].Decision
		}
	}
	return out
}

func samples(p *plan.Plan) m {
	out := m{}
	for _, f := range p.Fills {
		if !f.Given && f.Required {
			out[f.Name] = f.Sample
		}
	}
	return out
}

func oneOfEach(t *testing.T, s *harness.Service, site, preview, when string, draft ...string) {
	t.Helper()
	query := ""
	if len(draft) > 0 {
		query = draft[0]
	}
	var list api.ItemList
	s.Call("GET", "/api/v1/sites/"+site+"/items"+query, nil).Into(t, &list)
	seen := 0
	for _, i := range list.Items {
		if i.Address.Kind != item.Page {
			continue
		}
		r := s.Visit(preview + i.Meta.Slug)
		require.Equal(t, 200, r.Status, "%s: %s", when, i.Meta.Slug)
		tree := markup.Parse(r.Body, "")
		assert.LessOrEqual(t, len(tree.Banners()), 1, "%s: banners of %s%s", when, site, i.Meta.Slug)
		assert.LessOrEqual(t, len(tree.Contentinfos()), 1, "%s: contentinfos of %s%s", when, site, i.Meta.Slug)
		seen++
	}
	assert.Positive(t, seen)
}
