package plan

import (
	"slices"
	"strings"

	"compactparcel/core/item"
)

// assignCounterparts finds each item's counterpart. One of the site's is that of one of the kit's: what
// came from it goes first, then what is at a page's address, then what has the name.
func (m *matcher) assignCounterparts(heads []item.Head) {
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
		if _, ok := m.site.Find(h.Address); ok && !h.Meta.Cut {
			take(h, h.Address)
		}
	}
}

// CandidateBy says by what a candidate was recognised. The set is closed.
type CandidateBy string

// What a candidate can be recognised by, the surest first.
const (
	ByOrigin  CandidateBy = "origin"
	ByAddress CandidateBy = "address"
	BySlug    CandidateBy = "slug"
	ByDigest  CandidateBy = "digest"
	ByName    CandidateBy = "name"
	ByRole    CandidateBy = "role"
)

// CandidateBys lists all of them.
var CandidateBys = []CandidateBy{ByOrigin, ByAddress, BySlug, ByDigest, ByName, ByRole}

// Candidate is an item of the site that may be the counterpart of one of the kit's. The
// first of a row is the one that is taken for it.
type Candidate struct {
	Address item.Address `json:"address"`
	By      CandidateBy  `json:"by"`
}

// lister is a site that lists its items by kind.
type lister interface {
	OfKind(...item.Kind) []item.Head
}

// candidates lists what on the site is like an item of the kit, in the order of matching.
func (m *matcher) candidates(h item.Head) ([]Candidate, error) {
	var out []Candidate
	add := func(a item.Address, by CandidateBy) {
		if !slices.ContainsFunc(out, func(c Candidate) bool { return c.Address == a }) {
			out = append(out, Candidate{a, by})
		}
	}
	if o, ok := m.origin(h); ok && !o.Item.IsZero() {
		add(o.Item, ByOrigin)
	}
	if a, ok := m.found[h.Address]; ok {
		add(a, ByDigest)
	}
	if h.Address.Kind == item.Page {
		if a, ok := m.site.PageAt(h.Meta.Slug); ok {
			add(a, BySlug)
		}
	}
	if _, ok := m.site.Find(h.Address); ok && !h.Meta.Cut {
		add(h.Address, ByAddress)
	}
	switch h.Address.Kind {
	case item.Part:
		for _, s := range m.site.Parts() {
			if s.Meta.Role == h.Meta.Role && overlap(s.Meta.Place().Where, h.Meta.Place().Where) {
				add(s.Address, ByRole)
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
				add(s.Address, ByName)
			}
		}
	default: // nothing else is recognised by what it says
	}
	return out, nil
}

func overlap(a, b []string) bool {
	return slices.ContainsFunc(a, func(t string) bool { return slices.Contains(b, t) })
}
