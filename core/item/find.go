package item

// Index answers what is asked of a list of items again and again. It never changes, so that several
// goroutines may ask it.
type Index struct {
	heads []Head
	kinds map[Kind][]Head
	slugs map[string]Address
}

// NewIndex takes over a list that is sorted by address.
func NewIndex(heads []Head) *Index {
	x := &Index{heads, map[Kind][]Head{}, map[string]Address{}}
	from := 0
	for i, h := range heads {
		if h.Address.Kind == Page {
			x.slugs[h.Meta.Slug] = h.Address
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
