package plan

import (
	"slices"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/render"
)

// A page shows no stylesheets but those that it, and what stands on it, names. So a page that
// comes whole, with nothing of the site on it, never shows a rule of the site's, nor does a
// stylesheet that only such pages name ever reach the site's: their names meet nothing.

// alone gives the kit's pages that stand alone, and the stylesheets that they alone name.
func alone(g given, of decidedItems) (map[item.Address]bool, error) {
	out, meet, named := map[item.Address]bool{}, map[item.Address]bool{}, map[item.Address]bool{}
	sheet := func(h item.Head) bool { return h.Address.Kind == item.Stylesheet && of.comesNew(h) }
	if !slices.ContainsFunc(g.parcel.Heads(), sheet) {
		return out, nil
	}
	for _, h := range g.parcel.Heads() {
		f, err := g.facts(h)
		if err != nil {
			return nil, err
		}
		uses := closure.Uses(g.kit, h, f)
		if h.Address.Kind == item.Page && of.standsAlone(g, h) && !of.showsTheSites(h, uses) {
			out[h.Address] = true
		}
		for _, u := range uses {
			if u.To.Kind != item.Stylesheet {
				continue
			}
			named[u.To] = true
			if h.Address.Kind != item.Stylesheet && !out[h.Address] {
				meet[u.To] = true
			}
		}
	}
	for _, h := range g.parcel.Heads() {
		if h.Address.Kind == item.Stylesheet && named[h.Address] && !meet[h.Address] {
			out[h.Address] = true
		}
	}
	return out, dropImported(g, out)
}

// dropImported drops stylesheets that one imports which does not stand alone.
func dropImported(g given, out map[item.Address]bool) error {
	for again := true; again; {
		again = false
		for _, h := range g.parcel.Heads() {
			if h.Address.Kind != item.Stylesheet || out[h.Address] {
				continue
			}
			f, err := g.facts(h)
			if err != nil {
				return err
			}
			for _, u := range closure.Uses(g.kit, h, f) {
				if u.To.Kind == item.Stylesheet && out[u.To] {
					delete(out, u.To)
					again = true
				}
			}
		}
	}
	return nil
}

// standsAlone tells that no part of the site's will stand around a page that comes new, or
// may come new. One that stays out shows nothing.
func (d decidedItems) standsAlone(g given, page item.Head) bool {
	row := d.rows[page.Address]
	switch {
	case row.Decision != "" && !comesIn(row):
		return true
	case row.Decision != "" && !d.comesNew(page) || row.Base != "" || d.uncovered[page.Address]:
		return false
	}
	slug := page.Meta.Slug
	if to, ok := d.t.slugs[slug]; ok {
		slug = to
	}
	spot := render.PageContext{Slug: slug, Home: slug == "/"}
	for _, part := range g.site.Parts() {
		left := page.Meta.LeavesOut(part.Meta.Role) || d.leaving[page.Address][part.Meta.Role]
		if !left && !part.Meta.Off && appearsAt(part, spot) {
			return false
		}
	}
	return true
}

// showsTheSites tells that something which a page of the kit shows is the site's.
func (d decidedItems) showsTheSites(page item.Head, uses []closure.Use) bool {
	if row := d.rows[page.Address]; row.Decision != "" && !comesIn(row) {
		return false
	}
	for _, u := range uses {
		switch u.To.Kind {
		case item.Section, item.Block, item.Part, item.Stylesheet, item.Tokens:
			if row := d.rows[u.To]; row == nil || !comesIn(row) {
				return true
			}
		default:
		}
	}
	return false
}

// tellAlone tells which stylesheets are shown by nothing but the kit's own pages.
func (m *namer) tellAlone() {
	var sheets []string
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind == item.Stylesheet && m.alone[h.Address] {
			sheets = append(sheets, h.Address.String())
		}
	}
	if len(sheets) == 0 || len(m.site.Sheets()) == 0 {
		return
	}
	m.note("Only the kit's own pages show %s, with nothing of the site's on them: names were not compared.",
		joinedBy(sheets, "and"))
}
