package plan

import (
	"maps"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// transform is T: what becomes of the kit's names on the site.
type transform struct {
	moved  map[item.Address]item.Address // kit address → site address, where it is known
	slugs  map[string]string             // a kit's page's slug → that on the site
	names  facts.Renames                 // of classes, custom properties, animations and fonts
	worn   map[facts.Name]bool           // names for which the site's rules hold and the kit's stay out
	fields map[item.Address]map[string]string
	marked bool // the kit's elements and rules get a class of their own
}

func newTransform() *transform {
	return &transform{
		moved:  map[item.Address]item.Address{},
		slugs:  map[string]string{},
		names:  facts.Renames{},
		worn:   map[facts.Name]bool{},
		fields: map[item.Address]map[string]string{},
	}
}

// clone gives a T that a stage may change.
func (t *transform) clone() *transform {
	return &transform{maps.Clone(t.moved), maps.Clone(t.slugs), maps.Clone(t.names), maps.Clone(t.worn),
		maps.Clone(t.fields), t.marked}
}

// changed is T without what it leaves as it is.
func (t *transform) changed() *transform {
	out := t.clone()
	maps.DeleteFunc(out.moved, func(from, to item.Address) bool { return from == to })
	maps.DeleteFunc(out.slugs, func(from, to string) bool { return from == to })
	return out
}

// same tells whether two Ts do the same.
func (t *transform) same(other *transform) bool {
	t, other = t.changed(), other.changed()
	if t.marked != other.marked || !maps.Equal(t.moved, other.moved) ||
		!maps.Equal(t.slugs, other.slugs) ||
		!maps.Equal(t.names, other.names) ||
		!maps.Equal(t.worn, other.worn) ||
		len(t.fields) != len(other.fields) {
		return false
	}
	for k, v := range t.fields {
		if !maps.Equal(v, other.fields[k]) {
			return false
		}
	}
	return true
}
