package store

import (
	"slices"
	"sort"
	"sync"

	"compactparcel/core/item"
)

// index is a set of items with what is asked of it again and again; it never changes.
type index struct {
	heads  []item.Head // sorted by address, so those of a kind stand together
	kinds  map[item.Kind][]item.Head
	byAddr map[item.Address]int
	slugs  map[string]item.Address
	ids    map[string]item.Address
	media  map[item.Digest]item.Address
	kept   map[string]item.Address
}

// indexOf takes the heads over.
func indexOf(heads []item.Head) *index {
	if !sort.SliceIsSorted(heads, func(i, j int) bool { return heads[i].Address.Less(heads[j].Address) }) {
		item.SortHeads(heads)
	}
	of := &index{
		heads:  heads,
		kinds:  map[item.Kind][]item.Head{},
		byAddr: make(map[item.Address]int, len(heads)),
		slugs:  map[string]item.Address{},
		ids:    make(map[string]item.Address, len(heads)),
		media:  map[item.Digest]item.Address{},
		kept:   map[string]item.Address{},
	}
	from := 0
	for i, h := range heads {
		of.byAddr[h.Address] = i
		of.ids[h.ID] = h.Address
		for _, at := range h.Meta.Kept {
			of.kept[at] = h.Address
		}
		switch h.Address.Kind {
		case item.Page:
			of.slugs[h.Meta.Slug] = h.Address
		case item.Media:
			of.media[h.Doc] = h.Address
		default:
		}
		if i+1 == len(heads) || heads[i+1].Address.Kind != h.Address.Kind {
			of.kinds[h.Address.Kind] = heads[from : i+1 : i+1]
			from = i + 1
		}
	}
	return of
}

func (x *index) find(a item.Address) (item.Head, bool) {
	i, ok := x.byAddr[a]
	if !ok {
		return item.Head{}, false
	}
	return x.heads[i], true
}

// state is the items of a revision, with changes laid over them; it never changes. What it answers
// about one item costs the same however many there are.
type state struct {
	below   *index
	changes []Change              // one for each item
	above   *index                // what the changes put; nil where nothing is laid over
	byID    map[string]bool       // items that are changed
	gone    map[item.Address]bool // of below: what is changed, or stood where something else comes
	whole   func() []item.Head
}

// laid gives the state with further changes over it. Of several changes of one item the last holds.
func (s *state) laid(changes []Change) *state {
	out := &state{below: s.below, byID: map[string]bool{}, gone: map[item.Address]bool{}}
	at := map[string]int{}
	for _, ch := range append(slices.Clone(s.changes), changes...) {
		if i, again := at[ch.Head.ID]; again {
			out.changes[i] = ch
			continue
		}
		at[ch.Head.ID] = len(out.changes)
		out.changes = append(out.changes, ch)
	}
	last := map[item.Address]string{}
	for _, ch := range changes { // what comes to stand at an address takes the place of what stood there
		if !ch.Delete {
			last[ch.Head.Address] = ch.Head.ID
		}
	}
	var put []item.Head
	for _, ch := range out.changes {
		out.byID[ch.Head.ID] = true
		if a, was := s.below.ids[ch.Head.ID]; was {
			out.gone[a] = true
		}
		if ch.Delete {
			continue
		}
		out.gone[ch.Head.Address] = true
		if id, taken := last[ch.Head.Address]; !taken || id == ch.Head.ID {
			put = append(put, ch.Head)
		}
	}
	out.above = indexOf(put)
	out.whole = sync.OnceValue(func() []item.Head { return out.merged(out.below.heads, out.above.heads) })
	return out
}

// merged gives what stays of the items below and those above, by address.
func (s *state) merged(below, above []item.Head) []item.Head {
	out := make([]item.Head, 0, len(below)+len(above))
	for _, h := range below {
		for len(above) > 0 && above[0].Address.Less(h.Address) {
			out, above = append(out, above[0]), above[1:]
		}
		if !s.gone[h.Address] {
			out = append(out, h)
		}
	}
	return append(out, above...)
}

// Heads lists the items by address.
func (s *state) Heads() []item.Head {
	if s.above == nil {
		return s.below.heads
	}
	return s.whole()
}

// Find gives the item at an address.
func (s *state) Find(a item.Address) (item.Head, bool) {
	if s.above != nil {
		if h, ok := s.above.find(a); ok {
			return h, true
		}
		if s.gone[a] {
			return item.Head{}, false
		}
	}
	return s.below.find(a)
}

// ByID gives the item with a permanent id.
func (s *state) ByID(id string) (item.Head, bool) {
	if s.above != nil {
		if a, ok := s.above.ids[id]; ok {
			return s.above.find(a)
		}
	}
	a, ok := s.below.ids[id]
	if !ok || s.gone[a] {
		return item.Head{}, false
	}
	return s.below.find(a)
}

// PageAt gives the page with a slug.
func (s *state) PageAt(slug string) (item.Address, bool) {
	if s.above != nil {
		if a, ok := s.above.slugs[slug]; ok {
			return a, true
		}
	}
	a, ok := s.below.slugs[slug]
	return a, ok && !s.gone[a]
}

// KeptAt gives the item that kept an address.
func (s *state) KeptAt(at string) (item.Address, bool) {
	if s.above != nil {
		if a, ok := s.above.kept[at]; ok {
			return a, true
		}
	}
	a, ok := s.below.kept[at]
	return a, ok && !s.gone[a]
}

// MediaWith finds a media item by its exact digest.
func (s *state) MediaWith(d item.Digest) (item.Address, bool) {
	if s.above != nil {
		if a, ok := s.above.media[d]; ok {
			return a, true
		}
	}
	a, ok := s.below.media[d]
	return a, ok && !s.gone[a]
}

// OfKind lists the items of some kinds, by address.
func (s *state) OfKind(kinds ...item.Kind) []item.Head {
	var out []item.Head
	for _, k := range kinds {
		list := s.below.kinds[k]
		if s.above != nil {
			list = s.merged(list, s.above.kinds[k])
		}
		if len(kinds) == 1 {
			return list
		}
		out = append(out, list...)
	}
	item.SortHeads(out)
	return out
}

// isChanged tells whether a change of an item is laid over.
func (s *state) isChanged(id string) bool { return s.byID[id] }

// puts lists what the changes put.
func (s *state) puts() []item.Head {
	if s.above == nil {
		return nil
	}
	return s.above.heads
}
