package test

import (
	"fmt"
	"path"
	"testing"

	"compactparcel/core/plan"
	"compactparcel/demo"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The same version of a kit once more changes nothing, whatever was kept apart, left out,
// marked or given away by the first: every item is as it was delivered.
func TestTheSameVersionOnceMoreChangesNothing(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	s.Must("site", "adopt", s.Data+"/cairn-edge", "--name", "cairn-edge", "--parts", "none")
	for _, site := range []string{"cairn-edge", "blackwater-bothy"} {
		for i, of := range demo.Kits {
			name, version := path.Split(of)
			kit := path.Clean(name)
			seats := []plan.SeatOption{plan.SeatsSite, plan.SeatsKit}[i%2]
			ask := m{"kit": kit, "version": version, "site": site, "policy": "unattended", "seats": seats}
			says := fmt.Sprintf("%s %s to %s with seats %s", kit, version, site, seats)
			var d api.Delivery
			s.Call("POST", "/api/v1/deliveries", ask).Into(t, &d)
			at := fmt.Sprintf("/api/v1/deliveries/%d", d.Id)
			for range 2 {
				r := s.Call("PATCH", at, m{"decisions": allOfIt(d.Plan), "fills": samples(d.Plan)})
				require.Equal(t, 200, r.Status, "%s: %s", says, r.Body)
				r.Into(t, &d)
			}
			if len(d.Plan.Questions) > 0 || len(d.Plan.Rows) == 0 {
				continue // it needs another kit first
			}
			for _, act := range []string{"/stage", "/live"} {
				r := s.Call("POST", at+act, nil)
				require.Equal(t, 200, r.Status, "%s: %s", says, r.Body)
			}
			var again api.Delivery
			s.Call("POST", "/api/v1/deliveries", ask).Into(t, &again)
			for _, r := range again.Plan.Rows {
				switch r.Standing {
				case plan.Newer, plan.Diverged, plan.New:
					assert.Fail(t, "once more is no change", "%s: %s is %s: %s", says, r.Address, r.Standing, r.Why)
				case plan.Edited: // the bothy's keeper had edited it before; that stays
					assert.Equal(t, "blackwater-bothy", site, "%s: %s is %s", says, r.Address, r.Standing)
				default:
				}
			}
			r := s.Call("POST", at+"/undo", m{})
			require.Equal(t, 200, r.Status, "%s: %s", says, r.Body)
		}
	}
}
