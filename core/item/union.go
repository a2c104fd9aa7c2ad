package item

import "io"

// Union shows a collection beside another: where both have an item of one address, it is
// the first one's.
type Union struct{ first, second Collection }

// NewUnion joins two collections.
func NewUnion(first, second Collection) *Union { return &Union{first, second} }

// Heads lists the items, sorted by address.
func (u *Union) Heads() []Head {
	out := u.first.Heads()
	out = out[:len(out):len(out)]
	for _, h := range u.second.Heads() {
		if _, ok := u.first.Find(h.Address); !ok {
			out = append(out, h)
		}
	}
	SortHeads(out)
	return out
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
