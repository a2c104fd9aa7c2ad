package test

import (
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// stranger is a static site that nobody wrote for this product, and two pieces of it.
type stranger struct {
	name   string
	folder string
	picks  [2][2]string // page and selector
}

// Pieces of three sites with the same framework in other versions, delivered to each other:
// no question, the same look by computed styles but for what the plan says that bare rules of
// the site decide, and no page of the site changed.
func TestStrangersMeetWithoutAQuestion(t *testing.T) { meet(t, strangers(t)) }

func strangers(t *testing.T) []stranger {
	root := t.TempDir()
	var list []stranger
	for i, name := range []string{"alder-farm", "birch-farm", "cedar-farm"} {
		dir := filepath.Join(root, name)
		for path, text := range framedSite(i) {
			file := filepath.Join(dir, path)
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		}
		list = append(list, stranger{name, dir, [2][2]string{{"page/home", "#offers"}, {"page/home", "#people"}}})
	}
	return list
}

// The same with sites from public packages, in the long tests.
func TestPublicSitesMeetWithoutAQuestion(t *testing.T) {
	meet(t, publicSites(t))
}

func meet(t *testing.T, list []stranger) {
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	b.Size(1280, 800)
	for _, x := range list {
		s.Must("site", "adopt", x.folder, "--name", x.name, "--parts", "none")
		kit := "of-" + x.name + "@1.0.0"
		s.Must("kit", "new", kit, "--title", "Pieces of "+x.name, "--license", "CC0-1.0")
		for i, p := range x.picks {
			s.Must("kit", "add", kit, p[0], "--from", x.name, "--element", p[1], "--as",
				fmt.Sprintf("section/part-%d", i+1))
		}
		s.Must("kit", "seal", kit)
	}
	for _, from := range list {
		for _, to := range list {
			if from.name != to.name {
				meetOne(t, s, b, from, to)
			}
		}
	}
}

// follows are the properties that are measured and not declared.
var follows = map[string]bool{"block-size": true, "height": true, "perspective-origin": true, "transform-origin": true,
	"edge": true}

func meetOne(t *testing.T, s *harness.Service, b *harness.Browser, from, to stranger) {
	pair := from.name + " to " + to.name
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries", m{"kit": "of-" + from.name, "version": "1.0.0", "site": to.name}).Into(t, &d)
	require.Empty(t, d.Plan.Questions, pair)
	for _, g := range d.Plan.Groups {
		assert.NotEmpty(t, g.Decision, "%s: %s", pair, g.Key)
	}
	s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/stage", d.Id), nil).Into(t, &d)
	require.NotNil(t, d.Draft, pair)

	// Each piece alone on a page of the site, between its own elements.
	var home api.ItemDetail
	s.Call("GET", "/api/v1/sites/"+to.name+"/item?address=page/home", nil).Into(t, &home)
	told := map[string]bool{} // what the site's rules still decide, as the plan says
	for _, o := range d.Plan.StyleOverrides {
		told[o.Property] = true
	}
	var kit api.Kit
	s.Call("GET", "/api/v1/kits/of-"+from.name+"/1.0.0", nil).Into(t, &kit)
	for i := range from.picks {
		piece := fmt.Sprintf("part-%d", i+1)
		name := piece
		for _, r := range d.Plan.Rows {
			if r.Address.String() == "section/"+piece {
				name = r.Becomes.Key
			}
		}
		body := strings.Index(*home.Content, "<body")
		body += strings.Index((*home.Content)[body:], ">") + 1
		page := (*home.Content)[:body] + `<div id="here"><cp-section name="` + name + `"></cp-section></div>` +
			(*home.Content)[body:]
		slug := "/try-" + piece + "/"
		meta := home.Item.Meta
		meta.Slug = slug
		r := s.Call("PUT", fmt.Sprintf("/api/v1/sites/%s/item?address=page/try-%s&draft=%d", to.name, piece, *d.Draft),
			m{"content": page, "meta": meta})
		require.Equal(t, 200, r.Status, "%s", r.Body)

		atHome := looks(b, kit.Preview+"/_cp/alone/section/"+piece, "body")
		here := looks(b, *d.Preview+slug, "#here")
		require.NotEmpty(t, atHome, "%s %s", pair, piece)
		require.Len(t, here, len(atHome), "%s %s: the same elements", pair, piece)
		for j := range atHome {
			for p, v := range atHome[j] {
				plain := strings.ReplaceAll(here[j][p], "of-"+from.name+"-", "")
				if plain == v || follows[p] || told[p] {
					continue
				}
				assert.Fail(t, "a piece looks otherwise",
					"%s %s: %s of <%s> (%d) is %s, at home %s, and the plan does "+
						"not say so", pair, piece, p, here[j]["of"], j, plain, v)
			}
		}
	}

	var items api.ItemList
	s.Call("GET", "/api/v1/sites/"+to.name+"/items", nil).Into(t, &items)
	for _, i := range items.Items {
		if i.Address.Kind != "page" {
			continue
		}
		for width, pixels := range b.Differ(from.name+"-"+to.name, s.Live(to.name)+i.Meta.Slug, *d.Preview+i.Meta.Slug,
			1280) {
			assert.Zero(t, pixels, "%s: %s at %d", pair, i.Meta.Slug, width)
		}
	}
	require.Equal(t, 204, s.Call("DELETE", fmt.Sprintf("/api/v1/sites/%s/drafts/%d", to.name, *d.Draft), nil).Status)
}

// looks gives the computed styles of all elements below one; custom properties apart, whose
// names may have changed, and the language, which a page says.
func looks(b *harness.Browser, url, below string) []map[string]string {
	b.Go(url)
	harness.Eval[bool](b, `Promise.all([...document.images].filter((i) => !i.complete && i.loading !== "lazy")
		.map((i) => new Promise((done) => { i.onload = i.onerror = done }))).then(() => true)`)
	b.Painted()
	read := func() []map[string]string {
		return harness.Eval[[]map[string]string](b,
			`document.getAnimations().forEach((a) => a.finish()), [...document.querySelectorAll("`+below+` *")]
		.filter((n) => !["SCRIPT", "STYLE", "LINK", "TEMPLATE"].includes(n.tagName)).map((n) => {
			const c = getComputedStyle(n), out = { of: n.tagName.toLowerCase(), edge: "" + `+
				`n.getBoundingClientRect().left }
			for (const p of c) if (!p.startsWith("--") && p !== "-webkit-locale") out[p] = `+
				`c.getPropertyValue(p).replaceAll(location.origin, "")
			return out
		})`)
	}
	last := read()
	for range 10 { // until it lies still
		b.Painted()
		now := read()
		if reflect.DeepEqual(now, last) {
			break
		}
		last = now
	}
	return last
}
