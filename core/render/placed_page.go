package render

import (
	"sort"

	"compactparcel/core/item"
)

// PlacedPage says which part of a role stands on one page of a site, and why.
type PlacedPage struct {
	Slug, Title string
	PartAssignment
}

// PlacedPages says for each page that a part of a role can stand on which one does, by address; the documents that
// no page item stands for are among them. Of overlays, of which a page can have several, it says whether the given
// one stands there.
func (r *Renderer) PlacedPages(part item.Head) ([]PlacedPage, error) {
	role := part.Meta.Role
	made, err := r.GeneratedPages()
	if err != nil {
		return nil, err
	}
	var out []PlacedPage
	add := func(slug, title string, document item.Head, spot PageContext) {
		at := PlacedPage{slug, title, PartAssignment{Role: role, Why: "the page leaves it out"}}
		leaves := false
		for _, w := range document.Meta.Without {
			leaves = leaves || w == role
		}
		switch {
		case leaves:
		case role == item.Overlay:
			_, at.PartAssignment = AssignPart([]item.Head{part}, role, spot)
		default:
			_, at.PartAssignment = AssignPart(r.parts, role, spot)
		}
		out = append(out, at)
	}
	for slug, h := range r.Pages() {
		if _, whole := documentRoles[role]; !whole {
			add(slug, h.Meta.Title, h, PageContext{Slug: slug, Own: h.Meta.Slug, Home: r.Canonical(slug) == "/"})
		}
	}
	titles := map[string]string{}
	for _, h := range r.records {
		titles[recordSlug(h)] = h.Meta.Title
	}
	for _, g := range made {
		if is, ok := documentRoles[role]; ok && !is(g.Spot) {
			continue
		}
		document := item.Head{}
		for of, is := range documentRoles {
			if is(g.Spot) {
				document, _ = AssignPart(r.parts, of, g.Spot)
			}
		}
		title := titles[g.Slug]
		if title == "" {
			title = document.Meta.Title
		}
		add(g.Slug, title, document, g.Spot)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Slug < out[j].Slug })
	return out, nil
}

// documentRoles are the roles whose parts are the page itself, with the pages that they can be.
var documentRoles = map[item.Role]func(PageContext) bool{
	item.RecordRole: func(s PageContext) bool { return s.Record != "" },
	item.Listing:    func(s PageContext) bool { return s.Listing != "" },
	item.Search:     func(s PageContext) bool { return s.Search },
	item.NotFound:   func(s PageContext) bool { return s.NotFound },
}
