package item

// Index answers what is asked of a list of items again and again. It never changes, so that several
// goroutines may ask it.
type Index struct {
	heads []Head
	kinds map[Kind][]Head
	slugs map[string]Address
	kept  map[string]Address
}

// NewIndex takes over a list that is sorted by address.
func NewIndex(heads []Head) *Index {
	x := &Index{heads, map[Kind][]Head{}, map[string]Address{}, map[string]Address{}}
	from := 0
	for i, h := range heads {
		if h.Address.Kind == Page {
			x.slugs[h.Meta.Slug] = h.Address
		}
		for _, at := range h.Meta.Kept {
			x.kept[at] = h.Address
		}
		if i+1 == len(heads) || heads[i+1].Address.Kind != h.Address.Kind {
			x.kinds[h.Address.Kind] = heads[from : i+1 : i+1]
			from = i + 1
		}
	}
	return x
}

// Heads lists the items, sorted by address.
func (x *Index) Heads() []Head { return x.heads[:len(x.heads):len(x.heads)] }

// OfKind lists the items of some kinds, by address.
func (x *Index) OfKind(kinds ...Kind) []Head {
	if len(kinds) == 1 {
		return x.kinds[kinds[0]]
	}
	var out []Head
	for _, k := range kinds {
		out = append(out, x.kinds[k]...)
	}
	SortHeads(out)
	return out
}

// PageAt gives the page whose own address is a slug.
func (x *Index) PageAt(slug string) (Address, bool) { a, ok := x.slugs[slug]; return a, ok }

// KeptAt gives the item that is served at a root-relative address of its own, which it had before it was adopted.
func (x *Index) KeptAt(at string) (Address, bool) { a, ok := x.kept[at]; return a, ok }

// Files are the look-ups by which the path of a file is understood.
type Files interface {
	Find(a Address) (Head, bool)
	KeptAt(at string) (Address, bool)
}

// FileAt gives the item that a reference means by a root-relative path in a collection: the file, stylesheet, tokens or
// component that lies there in our layout, or the one that kept this address. ok tells that the path has the form of
// one; what it gives need not be there.
func FileAt(c Files, p string) (a Address, ok bool) {
	a, ok = AssetOfPath(p)
	if ok {
		if _, there := c.Find(a); there {
			return a, true
		}
	}
	if kept, has := c.KeptAt(p); has {
		return kept, true
	}
	return a, ok
}
