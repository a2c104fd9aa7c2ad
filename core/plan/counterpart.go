package plan

import (
	"slices"
	"strings"

	"compactparcel/core/item"
)

// claim finds each item's counterpart. One of the site's is that of one of the kit's: what
// came from it goes first, then what is at a page's address, then what has the name.
func (m *maker) assignCounterparts(heads []item.Head) {
	for _, h := range heads {
		if o, ok := m.origin(h); ok && !o.Item.IsZero() {
			m.claimed[o.Item] = h.Address
		}
	}
	take := func(h item.Head, a item.Address) bool {
		if other, ok := m.claimed[a]; ok && other != h.Address && h.Address.Kind != item.Media {
			return false
		}
		m.claimed[a], m.counterpart[h.Address] = h.Address, a
		return true
	}
	for _, h := range heads {
		if _, came := m.origin(h); came {
			continue
		}
		if a, ok := m.found[h.Address]; ok && take(h, a) {
			continue
		}
		if h.Address.Kind == item.Page {
			if a, ok := m.site.PageAt(h.Meta.Slug); ok && take(h, a) {
				continue
			}
		}
	}
	for _, h := range heads {
		_, came := m.origin(h)
		if _, has := m.counterpart[h.Address]; came || has {
			continue
		}
		if _, ok := m.site.Find(h.Address); ok {
			take(h, h.Address)
		}
	}
}

// Candidate is an item of the site that may be the counterpart of one of the kit's. The
// first of a row is the one that is taken for it.
type Candidate struct {
	Address item.Address `json:"address"`
	By      string       `json:"by"` // origin, address, slug, digest, name, role
}

// lister is a site that lists its items by kind.
type lister interface {
	OfKind(...item.Kind) []item.Head
}

// candidates lists what on the site is like an item of the kit, in the order of matching.
func (m *maker) candidates(h item.Head) ([]Candidate, error) {
	var out []Candidate
	add := func(a item.Address, by string) {
		if !slices.ContainsFunc(out, func(c Candidate) bool { return c.Address == a }) {
			out = append(out, Candidate{a, by})
		}
	}
	if o, ok := m.origin(h); ok && !o.Item.IsZero() {
		add(o.Item, "origin")
	}
	if a, ok := m.found[h.Address]; ok {
		add(a, "digest")
	}
	if h.Address.Kind == item.Page {
		if a, ok := m.site.PageAt(h.Meta.Slug); ok {
			add(a, "slug")
		}
	}
	if _, ok := m.site.Find(h.Address); ok {
		add(h.Address, "address")
	}
	switch h.Address.Kind {
	case item.Part:
		for _, s := range m.site.Parts() {
			if s.Meta.Role == h.Meta.Role && overlap(s.Meta.Place().On, h.Meta.Place().On) {
				add(s.Address, "role")
			}
		}
	case item.Menu, item.Form:
		all, ok := m.site.(lister)
		f, err := m.facts(h)
		if err != nil {
			return nil, err
		}
		if !ok || f.Title == "" {
			break
		}
		for _, s := range all.OfKind(h.Address.Kind) {
			g, err := m.site.Facts(s)
			if err != nil {
				return nil, err
			}
			if strings.EqualFold(g.Title, f.Title) {
				add(s.Address, "name")
			}
		}
	}
	return out, nil
}

func overlap(a, b []string) bool {
	return slices.ContainsFunc(a, func(t string) bool { return slices.Contains(b, t) })
}
