package item

import (
	"bytes"
	"io"
	"sync"
)

// Over is a collection with some items changed, added or left out; the collection below it stays. Of
// what is done with an item one after the other the last holds.
type Over struct {
	Collection
	put     map[Address]Head
	gone    map[Address]bool
	content map[Digest][]byte
	from    map[Digest]source

	mu    sync.Mutex
	slugs map[string]Address // of the pages in put
	kept  map[string]Address // of the items in put
	whole *Index             // nil until somebody asks for all items, and again after a change
}

// source is where a content is read from, when it is asked for.
type source struct {
	of Collection
	h  Head
}

// NewOver begins with nothing changed.
func NewOver(c Collection) *Over {
	return &Over{Collection: c, put: map[Address]Head{}, gone: map[Address]bool{}, content: map[Digest][]byte{},
		from: map[Digest]source{}, slugs: map[string]Address{}, kept: map[string]Address{}}
}

// Drop leaves an item out: of the collection below, or one that was laid over it.
func (o *Over) Drop(a Address) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.forget(a)
	delete(o.put, a)
	o.gone[a] = true
}

// Set lays an item over the collection's. Its normalized digest is left to who reads it.
func (o *Over) Set(h Head, b []byte) {
	h.Doc, h.Bytes = DigestOf(b), int64(len(b))
	h.NormalizedDigest = h.Doc
	o.mu.Lock()
	defer o.mu.Unlock()
	o.content[h.Doc] = b
	o.lay(h)
}

// Lay lays an item over the collection's whose content is that of another collection's item.
func (o *Over) Lay(h Head, of Collection, its Head) {
	h.Doc, h.Bytes, h.NormalizedDigest = its.Doc, its.Bytes, its.NormalizedDigest
	o.mu.Lock()
	defer o.mu.Unlock()
	o.from[h.Doc] = source{of, its}
	o.lay(h)
}

func (o *Over) lay(h Head) {
	o.forget(h.Address)
	delete(o.gone, h.Address)
	o.put[h.Address] = h
	if h.Address.Kind == Page {
		o.slugs[h.Meta.Slug] = h.Address
	}
	for _, at := range h.Meta.Kept {
		o.kept[at] = h.Address
	}
}

// forget lets go of what is known of an address.
func (o *Over) forget(a Address) {
	o.whole = nil
	if h, ok := o.put[a]; ok && o.slugs[h.Meta.Slug] == a {
		delete(o.slugs, h.Meta.Slug)
	}
	for _, at := range o.put[a].Meta.Kept {
		if o.kept[at] == a {
			delete(o.kept, at)
		}
	}
}

// index is that of all items, worked out when it is asked for.
func (o *Over) index() *Index {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.whole == nil {
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
		o.whole = NewIndex(out)
	}
	return o.whole
}

// Heads lists the items, sorted by address.
func (o *Over) Heads() []Head {
	if len(o.put)+len(o.gone) == 0 {
		return o.Collection.Heads()
	}
	return o.index().Heads()
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
	if len(o.put)+len(o.gone) == 0 {
		return o.Collection.OfKind(kinds...)
	}
	return o.index().OfKind(kinds...)
}

// PageAt gives the page whose own address is a slug.
func (o *Over) PageAt(slug string) (Address, bool) {
	if a, ok := o.slugs[slug]; ok {
		return a, true
	}
	a, ok := o.Collection.PageAt(slug)
	if _, put := o.put[a]; put || o.gone[a] {
		return Address{}, false
	}
	return a, ok
}

// KeptAt gives the item that kept an address.
func (o *Over) KeptAt(at string) (Address, bool) {
	if a, ok := o.kept[at]; ok {
		return a, true
	}
	a, ok := o.Collection.KeptAt(at)
	if _, put := o.put[a]; put || o.gone[a] {
		return Address{}, false
	}
	return a, ok
}
