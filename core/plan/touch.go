package plan

import (
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
)

// manyUsers is a site that tells the users of many items at once.
type manyUsers interface {
	UsersOf([]item.Address) (map[item.Address][]item.Address, error)
}

// usersOf is the site's UsedBy, each asked for once.
func (m *maker) usersOf(a item.Address) ([]item.Address, error) {
	if list, ok := m.users[a]; ok {
		return list, nil
	}
	list, err := m.site.UsedBy(a)
	m.users[a] = list
	return list, err
}

// learnUsers asks for the users of all that the delivery writes, and for theirs, level by
// level, where the site tells of many at once.
func (m *maker) loadUsers() error {
	many, ok := m.site.(manyUsers)
	if !ok {
		return nil
	}
	var next []item.Address
	for _, p := range m.writes {
		next = append(next, p.Head.Address)
	}
	for len(next) > 0 {
		found, err := many.UsersOf(next)
		if err != nil {
			return err
		}
		for _, a := range next {
			m.users[a] = found[a]
		}
		var further []item.Address
		for _, list := range found {
			for _, u := range list {
				if _, known := m.users[u]; !known {
					m.users[u] = nil
					further = append(further, u)
				}
			}
		}
		next = further
	}
	return nil
}

// touch finds every page that the delivery reaches, and the ways.
func (m *maker) findTouchedPages() error {
	if err := m.loadUsers(); err != nil {
		return err
	}
	type place struct {
		page item.Address
		slug string // of what no page item stands for
	}
	ways := map[place]map[string]bool{}
	reachPlace := func(at place, way string) {
		if ways[at] == nil {
			ways[at] = map[string]bool{}
		}
		ways[at][way] = true
	}
	reach := func(page item.Address, way string) { reachPlace(place{page: page}, way) }
	made, err := m.site.GeneratedPages()
	if err != nil {
		return err
	}
	parts := map[item.Address]item.Head{}
	for _, h := range m.site.Parts() {
		parts[h.Address] = h
	}
	changed := map[item.Address]item.Head{}
	for _, p := range m.writes {
		changed[p.Head.Address] = p.Head
	}
	// partPages gives the pages on which a part would stand, before or after.
	partPages := func(h item.Head, why string) {
		for _, page := range m.site.Pages() {
			left := false
			for _, role := range page.Meta.Without {
				left = left || role == h.Meta.Role
			}
			if !left && m.appearsAt(h, render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}) {
				reach(page.Address, why)
			}
		}
		for _, x := range made {
			if m.appearsAt(h, x.Spot) {
				reachPlace(place{slug: x.Slug}, why)
			}
		}
	}
	for _, p := range m.writes {
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
			case item.Record, item.RecordType, item.Setting:
				if x.a.Kind == item.Setting && x.a != p.Head.Address {
					break // it only names what changes
				}
				for _, page := range m.site.Pages() { // listings may stand anywhere
					reach(page.Address, way)
				}
				for _, x := range made {
					reachPlace(place{slug: x.Slug}, way)
				}
			}
			users, err := m.usersOf(x.a)
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
	for at, w := range ways {
		t := TouchedPage{Page: at.page, Slug: at.slug}
		if h, ok := m.site.Find(at.page); ok {
			t.Slug = h.Meta.Slug
		} else if h, ok := changed[at.page]; ok {
			t.Slug = h.Meta.Slug
		}
		for way := range w {
			t.Ways = append(t.Ways, way)
		}
		sort.Strings(t.Ways)
		m.plan.Touched = append(m.plan.Touched, t)
	}
	sort.Slice(m.plan.Touched, func(i, j int) bool {
		a, b := m.plan.Touched[i], m.plan.Touched[j]
		if a.Page.IsZero() != b.Page.IsZero() {
			return b.Page.IsZero()
		}
		if a.Page != b.Page {
			return a.Page.Less(b.Page)
		}
		return a.Slug < b.Slug
	})
	return nil
}

// claims tells whether one of a part's targets names a spot.
func (m *maker) appearsAt(h item.Head, spot render.PageContext) bool {
	for _, t := range h.Meta.Place().Unless {
		if spot.Fits(t) {
			return false
		}
	}
	for _, t := range h.Meta.Place().Where {
		if spot.Fits(t) || t == "home" && spot.Record == "" && !spot.NotFound { // any page can be the home page
			return true
		}
	}
	return false
}
