package closure

import (
	"sync"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/workers"
)

// Small is a World over any collection that reads every item's facts itself;
// for kits, folders and tests. Facts are kept once worked out.
type Small struct {
	item.Collection
	slugs map[string]item.Address
	mu    sync.Mutex
	known map[item.Digest]*facts.Facts
}

// Prime works out the facts of all items on all cores.
func (s *Small) Prime() {
	heads := s.Heads()
	_ = workers.Each(len(heads), func(_, i int) error {
		_, _ = s.Facts(heads[i]) // who needs them is told of an error
		return nil
	})
}

// Know takes facts that were worked out elsewhere.
func (s *Small) Know(h item.Head, f *facts.Facts) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.known[keyOf(h)] = f
}

func keyOf(h item.Head) item.Digest {
	return h.Doc + item.Digest(h.Address.Kind) + item.Digest(h.Meta.Context)
}

// Over gives the world of another collection that shares what is known of contents.
func (s *Small) Over(c item.Collection) *Small {
	other := NewSmall(c)
	s.mu.Lock()
	defer s.mu.Unlock()
	for k, f := range s.known {
		other.known[k] = f
	}
	return other
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
	key := keyOf(h)
	s.mu.Lock()
	f, ok := s.known[key]
	s.mu.Unlock()
	if ok {
		return f, nil
	}
	if h.Address.Kind == item.Media && h.Meta.Context == "" && h.Meta.MediaType != "" &&
		h.Meta.MediaType != "image/svg+xml" {
		return &facts.Facts{NormalizedDigest: h.Doc}, nil // a picture is not read
	}
	b, err := item.Read(s, h)
	if err != nil {
		return nil, err
	}
	f = facts.Extract(h.Address.Kind, h.Meta.Context, b)
	s.mu.Lock()
	s.known[key] = f
	s.mu.Unlock()
	return f, nil
}
