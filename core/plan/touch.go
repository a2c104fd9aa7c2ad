package plan

import (
	"slices"
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
func (t *toucher) usersOf(a item.Address) ([]item.Address, error) {
	if list, ok := t.users[a]; ok {
		return list, nil
	}
	list, err := t.site.UsedBy(a)
	t.users[a] = list
	return list, err
}

// loadUsers asks for the users of all that the delivery writes, and for theirs, level by
// level, where the site tells of many at once.
func (t *toucher) loadUsers() error {
	many, ok := t.site.(manyUsers)
	if !ok {
		return nil
	}
	var next []item.Address
	for _, p := range t.writes {
		next = append(next, p.Head.Address)
	}
	for len(next) > 0 {
		found, err := many.UsersOf(next)
		if err != nil {
			return err
		}
		for _, a := range next {
			t.users[a] = found[a]
		}
		var further []item.Address
		for _, list := range found {
			for _, u := range list {
				if _, known := t.users[u]; !known {
					t.users[u] = nil
					further = append(further, u)
				}
			}
		}
		next = further
	}
	return nil
}

// toucher finds the pages that a delivery reaches.
type toucher struct {
	site    Site
	writes  []PlannedWrite
	users   map[item.Address][]item.Address // as they were asked for
	ways    map[place]map[string]bool
	made    []render.GeneratedPage
	home    item.Address               // of a site whose home page has another address of its own
	parts   map[item.Address]item.Head // as they are
	changed map[item.Address]item.Head // as they become
}

// place is a page, or the slug of what no page item stands for.
type place struct {
	page item.Address
	slug string
}

func (t *toucher) reach(at place, way string) {
	if t.ways[at] == nil {
		t.ways[at] = map[string]bool{}
	}
	t.ways[at][way] = true
	if at.page == t.home && !t.home.IsZero() { // it is shown at / too
		t.reach(place{slug: "/"}, way)
	}
}

// partPages reaches the pages on which a part would stand.
func (t *toucher) partPages(h item.Head, why string) {
	for _, page := range t.site.Pages() {
		left := slices.Contains(page.Meta.Without, h.Meta.Role)
		if !left && appearsAt(h, render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}) {
			t.reach(place{page: page.Address}, why)
		}
	}
	for _, x := range t.made {
		if appearsAt(h, x.Spot) {
			t.reach(place{slug: x.Slug}, why)
		}
	}
}

// item reaches the pages that show an item by itself.
func (t *toucher) item(a, written item.Address, way string) {
	switch a.Kind {
	case item.Page:
		t.reach(place{page: a}, way)
	case item.Part:
		if h, ok := t.changed[a]; ok {
			t.partPages(h, way)
		}
		if h, ok := t.parts[a]; ok {
			t.partPages(h, way)
		}
	case item.Record, item.RecordType, item.Setting:
		if a.Kind == item.Setting && (a != written || !item.ShownOnPages(a.Key)) {
			return // it only names what changes, or no page shows it
		}
		for _, page := range t.site.Pages() { // listings may stand anywhere
			t.reach(place{page: page.Address}, way)
		}
		for _, x := range t.made {
			t.reach(place{slug: x.Slug}, way)
		}
	default:
	}
}

// follow reaches the pages that show an item, by itself or through what uses it.
func (t *toucher) follow(written item.Address) error {
	type step struct {
		a   item.Address
		way string
	}
	seen := map[item.Address]bool{}
	for queue := []step{{written, ""}}; len(queue) > 0; {
		x := queue[0]
		queue = queue[1:]
		if seen[x.a] {
			continue
		}
		seen[x.a] = true
		t.item(x.a, written, written.String()+x.way)
		users, err := t.usersOf(x.a)
		if err != nil {
			return err
		}
		for _, u := range users {
			next := " → " + u.String()
			if strings.Contains(x.way, next) || u.Kind == item.Page {
				next = ""
			}
			queue = append(queue, step{u, x.way + next})
		}
	}
	return nil
}

// findTouchedPages finds every page that the delivery reaches, and the ways.
func findTouchedPages(site Site, writes []PlannedWrite) ([]TouchedPage, error) {
	t := &toucher{site: site, writes: writes, users: map[item.Address][]item.Address{},
		ways: map[place]map[string]bool{}, parts: map[item.Address]item.Head{},
		changed: map[item.Address]item.Head{}}
	err := t.loadUsers()
	if err != nil {
		return nil, err
	}
	if t.made, err = site.GeneratedPages(); err != nil {
		return nil, err
	}
	home, set, err := render.HomeOf(site)
	if err != nil {
		return nil, err
	}
	if set && home.Meta.Slug != "/" {
		t.home = home.Address
	}
	for _, h := range site.Parts() {
		t.parts[h.Address] = h
	}
	for _, p := range writes {
		t.changed[p.Head.Address] = p.Head
	}
	for _, p := range writes {
		if err := t.follow(p.Head.Address); err != nil {
			return nil, err
		}
	}
	ways, changed := t.ways, t.changed
	out := make([]TouchedPage, 0, len(ways))
	for at, w := range ways {
		t := TouchedPage{Page: at.page, Slug: at.slug}
		if h, ok := site.Find(at.page); ok {
			t.Slug = h.Meta.Slug
		} else if h, ok := changed[at.page]; ok {
			t.Slug = h.Meta.Slug
		}
		for way := range w {
			t.Ways = append(t.Ways, way)
		}
		sort.Strings(t.Ways)
		out = append(out, t)
	}
	sort.Slice(out, func(i, j int) bool {
		a, b := out[i], out[j]
		if a.Page.IsZero() != b.Page.IsZero() {
			return b.Page.IsZero()
		}
		if a.Page != b.Page {
			return a.Page.Less(b.Page)
		}
		return a.Slug < b.Slug
	})
	return out, nil
}

// PagesShowing counts the pages that show an item of a site, by itself or through what uses it.
func PagesShowing(site Site, h item.Head) (int, error) {
	touched, err := findTouchedPages(site, []PlannedWrite{{Head: h}})
	return len(touched), err
}

// appearsAt tells whether one of a part's targets names a spot.
func appearsAt(h item.Head, spot render.PageContext) bool {
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

// PagesTouched lists the pages that changes of some items reach, with the ways.
func PagesTouched(site Site, heads []item.Head) ([]TouchedPage, error) {
	writes := make([]PlannedWrite, len(heads))
	for i, h := range heads {
		writes[i] = PlannedWrite{Head: h}
	}
	return findTouchedPages(site, writes)
}
