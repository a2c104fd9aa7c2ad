package item

import (
	"bytes"
	"io"
)

// Over is a collection with some items changed, added or left out; the collection below it stays.
type Over struct {
	Collection
	put     map[Address]Head
	gone    map[Address]bool
	content map[Digest][]byte
	from    map[Digest]source
}

// source is where a content is read from, when it is asked for.
type source struct {
	of Collection
	h  Head
}

// NewOver begins with nothing changed.
func NewOver(c Collection) *Over {
	return &Over{c, map[Address]Head{}, map[Address]bool{}, map[Digest][]byte{}, map[Digest]source{}}
}

// Drop leaves an item of the collection out.
func (o *Over) Drop(a Address) { o.gone[a] = true }

// Set lays an item over the collection's. Its normalized digest is left to who reads it.
func (o *Over) Set(h Head, b []byte) {
	h.Doc, h.Bytes = DigestOf(b), int64(len(b))
	h.NormalizedDigest = h.Doc
	o.put[h.Address], o.content[h.Doc] = h, b
}

// Lay lays an item over the collection's whose content is that of another collection's item.
func (o *Over) Lay(h Head, of Collection, its Head) {
	h.Doc, h.Bytes, h.NormalizedDigest = its.Doc, its.Bytes, its.NormalizedDigest
	o.put[h.Address], o.from[h.Doc] = h, source{of, its}
}

// Heads lists the items, sorted by address.
func (o *Over) Heads() []Head {
	if len(o.put)+len(o.gone) == 0 {
		return o.Collection.Heads()
	}
	var out []Head
	for _, h := range o.Collection.Heads() {
		if _, ok := o.put[h.Address]; !ok && !o.gone[h.Address] {
			out = append(out, h)
		}
	}
	for _, h := range o.put {
		out = append(out, h)
	}
	SortHeads(out)
	return out
}

// Find gives the item at an address.
func (o *Over) Find(a Address) (Head, bool) {
	if h, ok := o.put[a]; ok {
		return h, true
	}
	if o.gone[a] {
		return Head{}, false
	}
	return o.Collection.Find(a)
}

// Open gives an item's content.
func (o *Over) Open(h Head) (io.ReadCloser, error) {
	if b, ok := o.content[h.Doc]; ok {
		return io.NopCloser(bytes.NewReader(b)), nil
	}
	if s, ok := o.from[h.Doc]; ok {
		return s.of.Open(s.h)
	}
	return o.Collection.Open(h)
}

// Changed gives what was laid over at an address.
func (o *Over) Changed(a Address) (Head, bool) { h, ok := o.put[a]; return h, ok }

// OfKind lists the items of some kinds, by address.
func (o *Over) OfKind(kinds ...Kind) []Head {
	var out []Head
	for _, kind := range kinds {
		below := OfKind(o.Collection, kind)
		if len(o.put)+len(o.gone) == 0 && len(kinds) == 1 {
			return below
		}
		for _, h := range below {
			if _, ok := o.put[h.Address]; !ok && !o.gone[h.Address] {
				out = append(out, h)
			}
		}
		for a, h := range o.put {
			if a.Kind == kind {
				out = append(out, h)
			}
		}
	}
	SortHeads(out)
	return out
}

// PageAt gives the page whose own address is a slug.
func (o *Over) PageAt(slug string) (Address, bool) {
	for a, h := range o.put {
		if a.Kind == Page && h.Meta.Slug == slug {
			return a, true
		}
	}
	a, ok := PageAt(o.Collection, slug)
	if _, put := o.put[a]; put || o.gone[a] {
		return Address{}, false
	}
	return a, ok
}
