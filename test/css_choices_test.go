package test

import (
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"
	"testing"

	"compactparcel/core/css"
	"compactparcel/core/plan"
	"compactparcel/demo"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// By picture: whatever is chosen about classes that both sides define, no page outside the
// plan's list changes by a pixel. make test takes three kits, make soak all.
func TestPagesOutsideThePlanDoNotChange(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	const site = "blackwater-bothy"
	shots := harness.NewBrowser(t)
	kits := []string{"hut-basics/1.1.0", "winter-notices/0.4.0", "dusk/1.0.0"}
	if soaking() {
		kits = demo.Kits
	}
	seen := 0
	for _, of := range kits {
		for _, choice := range []plan.Decision{plan.Share, plan.Apart, plan.Mark} {
			name, version := path.Split(of)
			kit := path.Clean(name)
			var d api.Delivery
			s.Call("POST", "/api/v1/deliveries",
				m{"kit": kit, "version": version, "site": site, "policy": "unattended"}).
				Into(t, &d)
			decisions := m{}
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
			at := fmt.Sprintf("/api/v1/deliveries/%d", d.Id)
			s.Call("PATCH", at, m{"decisions": decisions, "fills": fills}).Into(t, &d)
			decisions = m{}
			for _, g := range d.Plan.Groups { // those of what comes beside
				if slices.ContainsFunc(g.Choices, func(c plan.Choice) bool { return c.Decision == choice }) {
					decisions[g.Key] = choice
				}
			}
			s.Call("PATCH", at, m{"decisions": decisions}).Into(t, &d)
			for _, g := range d.Plan.Groups {
				if _, ok := decisions[g.Key]; ok {
					assert.Equal(t, choice, g.Decision, g.Key)
				}
			}
			r := s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil)
			require.Equal(t, 200, r.Status, "%s %s: %s", of, choice, r.Body)
			r.Into(t, &d)
			touched := map[string]bool{}
			for _, x := range d.Plan.Touched {
				touched[x.Slug] = true
			}
			for _, slug := range []string{"/", "/rooms/", "/contact/", "/how-to-find-us/", "/contact-2/",
				"/room/loft/"} {
				if touched[slug] {
					continue
				}
				for width, pixels := range shots.Differ(fmt.Sprintf("%s-%s-%d", kit, choice, seen), s.Live(site)+slug,
					*d.Preview+slug, 1280) {
					assert.Zero(t, pixels, "%s with %s: %s at %d", of, choice, slug, width)
				}
				seen++
			}
			require.Equal(t, 204,
				s.Call("DELETE", fmt.Sprintf("/api/v1/sites/%s/drafts/%d", site, *d.Draft), nil).Status)
		}
	}
	assert.Greater(t, seen, 3*len(kits), "pages that the kits do not touch")
}

// A page that uses only its kit's styles looks on the site as in the kit's own view.
func TestADeliveredPageLooksAsInItsKit(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	shots := harness.NewBrowser(t)
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries",
		m{"kit": "ridge-walk", "version": "1.0.0", "site": "blackwater-bothy", "fills": m{"last-hut": "the last hut"},
			"decisions": m{}}).
		Into(t, &d)
	var kit api.Kit
	s.Call("GET", "/api/v1/kits/ridge-walk/1.0.0", nil).Into(t, &kit)
	for width, pixels := range shots.Differ("ridge-walk", kit.Preview+"/ridge-walk/", d.PlannedPreview+"/ridge-walk/",
		390, 1280) {
		assert.Zero(t, pixels, "at %d", width)
	}
}

var physical = strings.NewReplacer("inline-size", "width", "block-size", "height", "inline-start", "left",
	"inline-end", "right", "block-start", "top", "block-end", "bottom")

// What the plan says that the site's rules decide on a delivered page is what Chromium's
// computed styles show when those rules are switched off, and nothing else is.
func TestWhatHitsADeliveredPageIsNamed(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	b := harness.NewBrowser(t)
	seen := 0
	for kit, page := range map[string]string{"hut-month@1.0.0": "page/hut-month", "hut-basics@1.1.0": "page/home-2"} {
		name, version, _ := strings.Cut(kit, "@")
		var d api.Delivery
		s.Call("POST", "/api/v1/deliveries",
			m{"kit": name, "version": version, "site": "blackwater-bothy", "policy": "unattended"}).
			Into(t, &d)
		if name == "hut-basics" {
			s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id), m{"decisions": m{"page/home": "both"}}).
				Into(t, &d)
		}
		slug := ""
		for _, x := range d.Plan.Touched {
			if x.Page.String() == page {
				slug = x.Slug
			}
		}
		require.NotEmpty(t, slug, page)
		d.Plan.StyleOverrides = slices.DeleteFunc(d.Plan.StyleOverrides,
			func(o plan.StyleOverride) bool { return o.Page.String() != page }) // those of pieces stand beside
		seen += len(d.Plan.StyleOverrides)
		b.Size(1280, 800)
		b.Go(d.PlannedPreview + slug)
		// The elements of the kit's page: all but the site's own parts.
		changed := harness.Eval[map[string][]string](b, `(() => {
			const path = (n) => { const out = []; for (; n && n.nodeType === 1; n = n.parentElement) { const `+
			`same = n.parentElement ? [...n.parentElement.children].filter((c) => c.tagName === n.tagName) : `+
			`[n]; out.unshift(n.tagName.toLowerCase() + (same.length > 1 ? ":nth-of-type(" + (same.indexOf(n) + `+
			`1) + ")" : "")) } return ":scope > " + out.join(" > ") }
			const all = [...document.querySelectorAll("html, body, main, main *")]
			const read = () => all.map((n) => { const c = getComputedStyle(n); return `+
			`Object.fromEntries([...c].map((p) => [p, c.getPropertyValue(p)])) })
			const on = read()
			for (const s of document.styleSheets) if (/bothy\.css/.test(s.href)) s.disabled = true
			const off = read(), out = {}
			all.forEach((n, i) => { const d = Object.keys(on[i]).filter((p) => on[i][p] !== off[i][p] && `+
			`!p.startsWith("--")); if (d.length) out[path(n)] = d })
			return out
		})()`)
		// Lengths that follow from others are no declarations of anybody.
		follows := regexp.MustCompile(
			`^(width|height|block-size|inline-size|perspective-origin|transform-origin|inset|top|left|right|` +
				`bottom|.*rule.*|-webkit-.*|text-.*|caret.*|outline.*|border.*|column.*|fill|stroke|` +
				`letter-spacing|word-spacing|tab-size)`,
		)
		// A rule may say what would be so anyway; but each that is named changes something.
		visible := map[string]bool{}
		for _, h := range d.Plan.StyleOverrides {
			key := h.Element + " by " + h.By
			for _, p := range changed[h.Element] {
				visible[key] = visible[key] || sets(h, p) || h.When != ""
			}
		}
		for _, h := range d.Plan.StyleOverrides {
			assert.True(t, visible[h.Element+" by "+h.By], "%s: the plan names %s on %s; Chromium shows changes of %v",
				page, h.By, h.Element, changed[h.Element])
		}
		for element, list := range changed {
			for _, p := range list {
				if p = physical.Replace(p); follows.MatchString(p) ||
					strings.HasPrefix(p, "margin-") && !strings.HasSuffix(element, "body") { // "auto" follows, too
					continue
				}
				named := false
				for _, h := range d.Plan.StyleOverrides {
					// What inherits shows it as well.
					named = named || sets(h, p) && (h.Element == element || strings.HasPrefix(element, h.Element+" > "))
				}
				assert.True(t, named, "%s: %s of %s changes, and the plan does not name it", page, p, element)
			}
		}
	}
	assert.Positive(t, seen)
}

// sets tells whether a declaration that the plan names sets a property; it may be a shorthand.
func sets(h plan.StyleOverride, property string) bool {
	return strings.HasPrefix(property, h.Property+"-") || slices.Contains(css.Longhands(h.Property, h.Value), property)
}
