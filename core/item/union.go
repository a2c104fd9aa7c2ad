package item

import (
	"io"
	"slices"
)

// Union shows a collection beside another: where both have an item of one address, it is
// the first one's.
type Union struct{ first, second Collection }

// NewUnion joins two collections.
func NewUnion(first, second Collection) *Union { return &Union{first, second} }

// Heads lists the items, sorted by address.
func (u *Union) Heads() []Head { return u.joined(u.first.Heads(), u.second.Heads()) }

// OfKind lists the items of some kinds, by address.
func (u *Union) OfKind(kinds ...Kind) []Head {
	return u.joined(u.first.OfKind(kinds...), u.second.OfKind(kinds...))
}

func (u *Union) joined(first, second []Head) []Head {
	out := slices.Clone(first)
	for _, h := range second {
		if _, ok := u.first.Find(h.Address); !ok {
			out = append(out, h)
		}
	}
	SortHeads(out)
	return out
}

// PageAt gives the page whose own address is a slug.
func (u *Union) PageAt(slug string) (Address, bool) {
	if a, ok := u.first.PageAt(slug); ok {
		return a, true
	}
	a, ok := u.second.PageAt(slug)
	if _, hidden := u.first.Find(a); hidden {
		return Address{}, false
	}
	return a, ok
}

// KeptAt gives the item that kept an address.
func (u *Union) KeptAt(at string) (Address, bool) {
	if a, ok := u.first.KeptAt(at); ok {
		return a, true
	}
	a, ok := u.second.KeptAt(at)
	if _, hidden := u.first.Find(a); hidden {
		return Address{}, false
	}
	return a, ok
}

// Find gives the item at an address.
func (u *Union) Find(a Address) (Head, bool) {
	if h, ok := u.first.Find(a); ok {
		return h, true
	}
	return u.second.Find(a)
}

// Open gives an item's content.
func (u *Union) Open(h Head) (io.ReadCloser, error) {
	if own, ok := u.first.Find(h.Address); ok && own.Doc == h.Doc {
		return u.first.Open(h)
	}
	return u.second.Open(h)
}
