package test

import (
	"fmt"
	"path"
	"testing"

	"compactparcel/demo"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// By picture: whatever is chosen about classes that both sides define, no page outside the
// plan's list changes by a pixel. make test takes three kits, make soak all.
func TestPagesOutsideThePlanDoNotChange(t *testing.T) {
	s := harness.Start(t, "--demo")
	const site = "blackwater-bothy"
	shots := harness.NewBrowser(t)
	kits := []string{"hut-basics/1.1.0", "winter-notices/0.4.0", "dusk/1.0.0"}
	if soaking() {
		kits = demo.Kits
	}
	seen := 0
	for _, of := range kits {
		for _, choice := range []string{"share", "rename", "mark"} {
			name, version := path.Split(of)
			kit := path.Clean(name)
			var d api.Delivery
			s.Call("POST", "/api/v1/deliveries", m{"kit": kit, "version": version, "site": site, "policy": "unattended"}).Into(t, &d)
			decisions := m{}
			for _, c := range d.Plan.Clashes {
				decisions["class:"+c.Class] = choice
			}
			for _, r := range d.Plan.Rows { // all of it comes, beside what is there
				if r.Standing == "taken" && r.Kit != nil {
					decisions[r.Address.String()] = "both"
				}
			}
			fills := m{}
			for _, f := range d.Plan.Fills {
				if !f.Given && f.Required {
					fills[f.Name] = f.Sample
				}
			}
			s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id), m{"decisions": decisions, "fills": fills}).Into(t, &d)
			decisions = m{}
			for _, c := range d.Plan.Clashes { // those of what comes beside
				decisions["class:"+c.Class] = choice
			}
			s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id), m{"decisions": decisions}).Into(t, &d)
			for _, c := range d.Plan.Clashes {
				assert.Equal(t, choice, c.Decision, c.Class)
			}
			r := s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil)
			require.Equal(t, 200, r.Status, "%s %s: %s", of, choice, r.Body)
			r.Into(t, &d)
			touched := map[string]bool{}
			for _, x := range d.Plan.Touched {
				touched[x.Slug] = true
			}
			for _, slug := range []string{"/", "/rooms/", "/contact/", "/how-to-find-us/", "/contact-2/", "/room/loft/"} {
				if touched[slug] {
					continue
				}
				for width, pixels := range shots.Differ(fmt.Sprintf("%s-%s-%d", kit, choice, seen), s.Live(site)+slug, *d.Preview+slug, 1280) {
					assert.Zero(t, pixels, "%s with %s: %s at %d", of, choice, slug, width)
				}
				seen++
			}
			require.Equal(t, 204, s.Call("DELETE", fmt.Sprintf("/api/v1/sites/%s/drafts/%d", site, *d.Draft), nil).Status)
		}
	}
	assert.Greater(t, seen, 3*len(kits), "pages that the kits do not touch")
}

// A page that uses only its kit's styles looks on the site as in the kit's own view.
func TestADeliveredPageLooksAsInItsKit(t *testing.T) {
	s := harness.Start(t, "--demo")
	shots := harness.NewBrowser(t)
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries", m{"kit": "ridge-walk", "version": "1.0.0", "site": "blackwater-bothy", "fills": m{"last-hut": "the last hut"}, "decisions": m{}}).Into(t, &d)
	var kit api.Kit
	s.Call("GET", "/api/v1/kits/ridge-walk/1.0.0", nil).Into(t, &kit)
	for width, pixels := range shots.Differ("ridge-walk", kit.Preview+"/ridge-walk/", d.PlannedPreview+"/ridge-walk/", 390, 1280) {
		assert.Zero(t, pixels, "at %d", width)
	}
}
