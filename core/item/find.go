package item

// OfKind lists the items of a kind, by address. A collection that can tell them apart by itself has a
// method of this name, so that the others need not be looked at.
func OfKind(c Collection, kind Kind) []Head {
	if by, ok := c.(interface{ OfKind(kinds ...Kind) []Head }); ok {
		return by.OfKind(kind)
	}
	var out []Head
	for _, h := range c.Heads() {
		if h.Address.Kind == kind {
			out = append(out, h)
		}
	}
	return out
}

// PageAt gives the page whose own address is a slug. A collection that can tell by itself has a method
// of this name.
func PageAt(c Collection, slug string) (Address, bool) {
	if by, ok := c.(interface {
		PageAt(slug string) (Address, bool)
	}); ok {
		return by.PageAt(slug)
	}
	var at Address
	found := false
	for _, h := range c.Heads() {
		if h.Address.Kind == Page && h.Meta.Slug == slug {
			at, found = h.Address, true
		}
	}
	return at, found
}
