package faults

import (
	"slices"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// HasAnchor tells whether an item, or a piece in it, defines an id. Parts that stand
// around pages count as pieces of all.
func HasAnchor(w World, a item.Address, id string) bool {
	return hasAnchor(w, a, id, map[item.Address]bool{})
}

func hasAnchor(w World, a item.Address, id string, seen map[item.Address]bool) bool {
	h, ok := w.Find(a)
	if seen[a] || !ok {
		return false
	}
	seen[a] = true
	f, err := w.Facts(h)
	if err != nil || slices.Contains(f.Defines(facts.ID), id) || a.Kind == item.Form && id == a.Key {
		return true
	}
	for _, u := range closure.Uses(w, h, f) {
		if u.Found && !u.Soft && (u.To.Kind.IsMarkup() || u.To.Kind == item.Form) && hasAnchor(w, u.To, id, seen) {
			return true
		}
	}
	for _, x := range w.Heads() {
		if a.Kind == item.Page && x.Address.Kind == item.Part && hasAnchor(w, x.Address, id, seen) {
			return true
		}
	}
	return false
}
