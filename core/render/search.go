package render

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

func (s *stage) search(label string) string {
	if label == "" {
		label = "Search this site"
	}
	return fmt.Sprintf(`<form class="cp-search" role="search" method="get" action="/search/"><label><span>%s</span><input type="search" name="q" value="%s"></label><button>Search</button></form>`,
		markup.EscapeText(label), markup.EscapeAttr(s.ask.Query))
}

func (s *stage) results(src []byte, n *markup.Node) (string, error) {
	words := facts.Words(s.ask.Query)
	var items []map[string]string
	slugs := make([]string, 0, len(s.r.pages))
	for slug := range s.r.pages {
		slugs = append(slugs, slug)
	}
	sort.Strings(slugs)
	for _, slug := range slugs {
		h := s.r.pages[slug]
		body, _ := s.r.read(h.Address)
		f := facts.Of(item.Page, "", body)
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
			items = append(items, map[string]string{"title": title, "url": slug})
		}
	}
	return s.repeat(src, n, items)
}
