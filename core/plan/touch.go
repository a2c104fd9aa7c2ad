package plan

import (
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
)

// touch finds every page that the delivery reaches, and the ways.
func (m *maker) touch() error {
	ways := map[item.Address]map[string]bool{}
	reach := func(page item.Address, way string) {
		if ways[page] == nil {
			ways[page] = map[string]bool{}
		}
		ways[page][way] = true
	}
	parts := map[item.Address]item.Head{}
	for _, h := range m.site.Parts() {
		parts[h.Address] = h
	}
	changed := map[item.Address]item.Head{}
	for _, p := range m.puts {
		changed[p.Head.Address] = p.Head
	}
	// partPages gives the pages on which a part would stand, before or after.
	partPages := func(h item.Head, why string) {
		for _, page := range m.site.Pages() {
			left := false
			for _, role := range page.Meta.Without {
				left = left || role == h.Meta.Role
			}
			if !left && m.claims(h, page) {
				reach(page.Address, why)
			}
		}
	}
	for _, p := range m.puts {
		seen := map[item.Address]bool{}
		queue := []struct {
			a   item.Address
			way string
		}{{p.Head.Address, ""}}
		for len(queue) > 0 {
			x := queue[0]
			queue = queue[1:]
			if seen[x.a] {
				continue
			}
			seen[x.a] = true
			way := p.Head.Address.String() + x.way
			switch x.a.Kind {
			case item.Page:
				reach(x.a, way)
			case item.Part:
				if h, ok := changed[x.a]; ok {
					partPages(h, way)
				}
				if h, ok := parts[x.a]; ok {
					partPages(h, way)
				}
			case item.Record, item.RecordType:
				for _, page := range m.site.Pages() { // listings may stand anywhere
					reach(page.Address, way)
				}
			}
			users, err := m.site.UsedBy(x.a)
			if err != nil {
				return err
			}
			for _, u := range users {
				next := " → " + u.String()
				if strings.Contains(x.way, next) || u.Kind == item.Page {
					next = ""
				}
				queue = append(queue, struct {
					a   item.Address
					way string
				}{u, x.way + next})
			}
		}
	}
	for a, w := range ways {
		t := Touch{Page: a}
		if h, ok := m.site.Find(a); ok {
			t.Slug = h.Meta.Slug
		} else if h, ok := changed[a]; ok {
			t.Slug = h.Meta.Slug
		}
		for way := range w {
			t.Ways = append(t.Ways, way)
		}
		sort.Strings(t.Ways)
		m.plan.Touched = append(m.plan.Touched, t)
	}
	sort.Slice(m.plan.Touched, func(i, j int) bool { return m.plan.Touched[i].Page.Less(m.plan.Touched[j].Page) })
	return nil
}

// claims tells whether one of a part's targets names a page.
func (m *maker) claims(h item.Head, page item.Head) bool {
	spot := render.Spot{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
	for _, t := range h.Meta.Place().Except {
		if spot.Fits(t) {
			return false
		}
	}
	for _, t := range h.Meta.Place().On {
		if spot.Fits(t) || t == "home" {
			return true
		}
	}
	return false
}
