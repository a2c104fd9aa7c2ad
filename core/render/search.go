package render

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

func (s *stage) search(label string) string {
	if label == "" {
		label = "Search this site"
	}
	return fmt.Sprintf(
		`<form class="cp-search" role="search" method="get" action="/search/"><label><span>%s</span><input `+
			`type="search" name="q" value="%s"></label><button>Search</button></form>`,
		markup.EscapeText(label),
		markup.EscapeAttr(s.ask.Query),
	)
}

// results writes what a search found; on a published site it leaves the answer to
// the engine's script.
func (s *stage) results(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	s.searches = true
	if s.r.Static {
		return s.staticResults(src, n)
	}
	words := facts.Words(s.ask.Query)
	var items []values
	slugs := make([]string, 0, len(s.r.Pages()))
	for slug := range s.r.Pages() {
		if s.r.Canonical(slug) == slug { // the home page once
			slugs = append(slugs, slug)
		}
	}
	sort.Strings(slugs)
	for _, slug := range slugs {
		h := s.r.Pages()[slug]
		body, err := s.r.read(h.Address)
		if err != nil {
			return none, err
		}
		f := facts.Extract(item.Page, "", body)
		hit := len(words) > 0
		for _, w := range words {
			i := sort.SearchStrings(f.Terms, w)
			hit = hit && i < len(f.Terms) && strings.HasPrefix(f.Terms[i], w)
		}
		if hit {
			title := h.Meta.Title
			if title == "" {
				title = f.Title
			}
			items = append(items, values{of: h, plain: map[string]string{"title": title, "url": slug}})
		}
	}
	return s.repeat(src, n, items)
}

func (s *stage) staticResults(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	inner, empty, err := templateOf(src, n)
	root := markup.EscapeAttr(s.r.href(s.spot.Slug, "/"))
	out := s.rec.Build("search results")
	out.Made(`<div data-cp-results data-cp-root="` + root + `"><template>`).Add(inner.TrimSpace())
	out.Made("</template><template>").Add(empty.TrimSpace()).Made("</template></div>")
	return out.Text(), err
}

// Index is the search index of a published site: pages as title and slug, and for
// each term the numbers of the pages that hold it.
type Index struct {
	Pages [][2]string      `json:"pages"`
	Terms map[string][]int `json:"terms"`
}

// Searchable tells whether the site has a page of search results.
func (r *Renderer) Searchable() bool {
	part, _ := AssignPart(r.parts, item.Search, PageContext{Slug: SearchSlug, Search: true})
	return !part.Address.IsZero()
}

// SearchIndex makes the index of all pages. facts gives those of an item.
func (r *Renderer) SearchIndex(of func(item.Head) (*facts.Facts, error)) (*Index, error) {
	x := &Index{Pages: [][2]string{}, Terms: map[string][]int{}}
	slugs := make([]string, 0, len(r.Pages()))
	for slug := range r.Pages() {
		if r.Canonical(slug) == slug { // the home page once
			slugs = append(slugs, slug)
		}
	}
	sort.Strings(slugs)
	for i, slug := range slugs {
		h := r.Pages()[slug]
		f, err := of(h)
		if err != nil {
			return nil, err
		}
		title := h.Meta.Title
		if title == "" {
			title = f.Title
		}
		x.Pages = append(x.Pages, [2]string{title, slug})
		for _, t := range f.Terms {
			x.Terms[t] = append(x.Terms[t], i)
		}
	}
	return x, nil
}

// Hidden tells whether the site asks search engines to stay away.
func (r *Renderer) Hidden() (bool, error) {
	var robots string
	_, err := r.setting("robots", &robots)
	return robots == "noindex", err
}
