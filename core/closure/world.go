package closure

import (
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// Small is a World over any collection that reads every item's facts itself;
// for kits, folders and tests. Facts are kept once worked out.
type Small struct {
	item.Collection
	slugs map[string]item.Address
	known map[item.Digest]*facts.Facts
}

// NewSmall makes a World of a collection.
func NewSmall(c item.Collection) *Small {
	s := &Small{Collection: c, slugs: map[string]item.Address{}, known: map[item.Digest]*facts.Facts{}}
	for _, h := range c.Heads() {
		if h.Address.Kind == item.Page && h.Meta.Slug != "" {
			s.slugs[h.Meta.Slug] = h.Address
		}
	}
	return s
}

// PageAt gives the page with a slug.
func (s *Small) PageAt(slug string) (item.Address, bool) { a, ok := s.slugs[slug]; return a, ok }

// Facts gives an item's facts.
func (s *Small) Facts(h item.Head) (*facts.Facts, error) {
	key := h.Doc + item.Digest(h.Address.Kind) + item.Digest(h.Meta.Context)
	if f, ok := s.known[key]; ok {
		return f, nil
	}
	b, err := item.Read(s, h)
	if err != nil {
		return nil, err
	}
	f := facts.Of(h.Address.Kind, h.Meta.Context, b)
	s.known[key] = f
	return f, nil
}
