package test

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Pages of strangers that link their own sheets, captured one by one, sealed and delivered: to a site
// that has nothing of its own they look as at home; on a site with parts of its own they have one
// banner and one contentinfo.
func TestPagesOfStrangersTravelWhole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	for _, x := range strangers(t)[:1] {
		pagesTravel(t, s, b, x, 3)
	}
}

// The same, and edits made outside, with documentation trees from Debian's packages and a public
// site, in the long tests.
func TestPublicTreesTravelAndEditsComeHome(t *testing.T) {
	trees := publicTrees(t)
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	for _, x := range trees {
		pagesTravel(t, s, b, x, 6)
		editsComeHome(t, s, x, 200)
	}
}

// pagesTravel captures some pages of a site, each as a kit, and delivers them.
func pagesTravel(t *testing.T, s *harness.Service, b *harness.Browser, x stranger, most int) {
	t.Helper()
	home := x.name + "-home"
	s.Must("site", "adopt", x.folder, "--name", home, "--parts", "none")
	empty := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(empty, "index.html"),
		[]byte(`<!doctype html><html lang="en"><head><title>Empty</title></head><body></body></html>`), 0o644))
	bare := x.name + "-bare"
	s.Must("site", "adopt", empty, "--name", bare, "--parts", "none")
	var items api.ItemList
	s.Call("GET", "/api/v1/sites/"+home+"/items", nil).Into(t, &items)
	var pages []api.Item
	whole := 0
	for _, i := range items.Items {
		if i.Address.Kind == "page" && i.Meta.Slug != "/" && i.Bytes < 400_000 {
			pages = append(pages, i)
		}
		if i.Address.Kind == "stylesheet" {
			whole += int(i.Bytes)
		}
	}
	for n := range min(most, len(pages)) {
		page := pages[n*len(pages)/min(most, len(pages))]
		kit := fmt.Sprintf("page-%d-of-%s", n, x.name)
		packed(t, s, kit, home, page.Address.String())
		cut := 0
		var k api.Kit
		s.Call("GET", "/api/v1/kits/"+kit+"/1.0.0", nil).Into(t, &k)
		for _, i := range k.Items {
			if i.Address.Kind == "stylesheet" {
				cut += int(i.Bytes)
			}
		}
		t.Logf("%s %s: %d bytes of sheets carried, %d whole", x.name, page.Address, cut, whole)
		assert.LessOrEqual(t, cut, whole, "%s: cut sheets", kit)
		at := page.Meta.Slug
		d := stagedWhole(t, s, kit, bare)
		was, now := s.Live(home)+(&url.URL{Path: at}).EscapedPath(), *d.Preview+(&url.URL{Path: at}).EscapedPath()
		for width, pixels := range b.Differ(kit, was, now, 1280) {
			assert.Zero(t, pixels, "%s: %s at %d is as at home", x.name, page.Address, width)
		}
		d = stagedWhole(t, s, kit, "kestrel-refuge")
		b.Go(*d.Preview + (&url.URL{Path: at}).EscapedPath())
		for _, role := range []string{"header", "footer"} {
			assert.LessOrEqual(t, harness.Eval[int](b, landmarkCount(role)), 1, "%s: %s of %s", x.name, role,
				page.Address)
		}
	}
}

// landmarkCount counts the landmarks of a page that an element makes (HTML-AAM).
func landmarkCount(tag string) string {
	role := map[string]string{"header": "banner", "footer": "contentinfo"}[tag]
	return `[...document.querySelectorAll("` + tag + `,[role=` + role + `]")].filter((n) => ` +
		`n.getAttribute("role") === "` +
		role + `" || !n.getAttribute("role") && !n.parentElement.closest("article,aside,main,nav,section")).length`
}

// stagedWhole delivers a kit to a site up to its draft; places that both want are the page's own.
func stagedWhole(t *testing.T, s *harness.Service, kit, site string) api.Delivery {
	t.Helper()
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries", m{"kit": kit, "version": "1.0.0", "site": site}).Into(t, &d)
	for _, q := range d.Plan.Questions {
		require.NotEmpty(t, q.Choices, q.Key)
		s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id),
			m{"decisions": m{q.Key: q.Choices[0].Written()}}).Into(t, &d)
	}
	require.Empty(t, d.Plan.Questions, "%s to %s", kit, site)
	r := s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil)
	require.Equal(t, 200, r.Status, "%s to %s: %s", kit, site, r.Body)
	r.Into(t, &d)
	require.NotNil(t, d.Draft)
	return d
}
