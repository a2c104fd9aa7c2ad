package render

import (
	"fmt"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// A listing stands at /TYPE/, its further pages at /TYPE/page-2/ and so on, and that
// of a category at /TYPE/category/NAME/, with pages of its own.
const (
	categoryPath = "category/"
	pagePath     = "page-"
)

// listingSlug gives the address of one page of a listing.
func listingSlug(typ, category string, page int) string {
	s := "/" + typ + "/"
	if category != "" {
		s += categoryPath + item.MakeKey(category) + "/"
	}
	if page > 1 {
		s += fmt.Sprintf("%s%d/", pagePath, page)
	}
	return s
}

// listingContext tells which listing of a part a slug names.
func (r *Renderer) listingContext(part item.Head, slug string) (spot PageContext, found bool, err error) {
	if part.Meta.Off {
		return PageContext{}, false, nil
	}
	for _, t := range part.Meta.Place().Where {
		target, ok := item.ParseTarget(t)
		if !ok || target.Word != "listing" || !strings.HasPrefix(slug, "/"+target.Type+"/") {
			continue
		}
		pages, err := r.listings(part, target.Type)
		if err != nil {
			return PageContext{}, false, err
		}
		for _, m := range pages {
			if m.Slug == slug {
				return m.Spot, true, nil
			}
		}
	}
	return PageContext{}, false, nil
}

// listings gives all pages of a type's listing and of those of its categories.
func (r *Renderer) listings(part item.Head, typ string) ([]GeneratedPage, error) {
	counts := map[string]int{}
	total := 0
	for _, h := range r.records {
		if h.Meta.Type == typ {
			total++
			v, err := r.fieldsOf(h)
			if err != nil {
				return nil, err
			}
			if c := v["category"]; c != "" {
				counts[c]++
			}
		}
	}
	size, err := r.pageSize(part)
	if err != nil {
		return nil, err
	}
	var out []GeneratedPage
	add := func(category string, n int) {
		for page := 1; page == 1 || (page-1)*size < n; page++ {
			slug := listingSlug(typ, category, page)
			out = append(out, GeneratedPage{slug,
				PageContext{Slug: slug, Listing: typ, Category: category, Page: page}})
			if size == 0 {
				break
			}
		}
	}
	add("", total)
	names := make([]string, 0, len(counts))
	for c := range counts {
		names = append(names, c)
	}
	sort.Strings(names)
	for _, c := range names {
		add(c, counts[c])
	}
	return out, nil
}

// pageSize reads from a listing part how many records one page holds: the limit of
// its list; 0 means all.
func (r *Renderer) pageSize(part item.Head) (int, error) {
	src, err := r.read(part.Address)
	if err != nil {
		return 0, err
	}
	for _, n := range markup.Parse(src, part.Meta.Context).ByTag("cp-records") {
		if n.Value("type") != "" {
			continue
		}
		if size, err := strconv.Atoi(n.Value("limit")); err == nil && size > 0 {
			return size, nil
		}
	}
	return 0, nil
}

// listingPages writes the way to the other pages of a listing; nothing when it has one.
func (s *stage) listingPages(label string) string {
	if s.spot.Listing == "" || s.pages < 2 {
		return ""
	}
	if label == "" {
		label = "Pages"
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<nav class="cp-pages" aria-label="%s"><ul>`, markup.EscapeAttr(label))
	for n := 1; n <= s.pages; n++ {
		current := ""
		if n == s.page {
			current = ` aria-current="page"`
		}
		fmt.Fprintf(&b, `<li><a href="%s"%s>%d</a></li>`, listingSlug(s.spot.Listing, s.spot.Category, n), current, n)
	}
	b.WriteString("</ul></nav>")
	return b.String()
}
