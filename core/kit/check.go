package kit

import (
	"fmt"
	"sort"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/workers"
)

// Finding is something about a kit that a person should know, with its place.
type Finding struct {
	Address item.Address `json:"address,omitzero"`
	Line    int          `json:"line,omitempty"`
	// Stops tells that the kit cannot be sealed with it.
	Stops   bool   `json:"stops"`
	Message string `json:"message"`
	Remedy  string `json:"remedy,omitempty"`
}

// Check lists all that stops sealing and all that a receiver would trip over.
func Check(list *PackingList, c item.Collection) ([]Finding, error) {
	return CheckIn(list, closure.NewSmall(c))
}

// CheckIn is Check where some facts are known already, and what the sources say of
// themselves.
func CheckIn(list *PackingList, w *closure.Small, origins ...Origin) ([]Finding, error) {
	var out []Finding
	add := func(a item.Address, line int, stops bool, remedy, format string, args ...any) {
		out = append(out, Finding{a, line, stops, fmt.Sprintf(format, args...), remedy})
	}
	needed := map[string]bool{}
	for _, n := range list.Needs.Items {
		if n.Slug != "" {
			needed[n.Slug] = true
		} else {
			needed[n.Address] = true
		}
	}
	c := &checker{
		list:     list,
		w:        w,
		origins:  origins,
		needed:   needed,
		tokens:   hasTokens(list),
		declared: map[string]bool{},
	}
	for _, f := range list.Fillins {
		c.declared[f.Name] = true
	}
	w.Prime()
	heads := w.Heads()
	found := make([]inspected, len(heads))
	err := workers.Each(len(heads), func(_, i int) (err error) {
		found[i], err = c.item(heads[i])
		return err
	})
	if err != nil {
		return nil, err
	}
	marked := map[string]bool{}
	for _, f := range found {
		out = append(out, f.findings...)
		for _, name := range f.fills {
			marked[name] = true
		}
	}
	for _, f := range list.Fillins {
		if !marked[f.Name] {
			add(item.Address{}, 0, false, "mark its place, or take it out", "the fill-in %q has no place in any item",
				f.Name)
		}
	}
	if len(list.Items) == 0 {
		add(item.Address{}, 0, true, "put something in", "the kit is empty")
	}
	out = append(out, checkTerms(list)...)
	SortFindings(out)
	return out, nil
}

// SortFindings puts what stops first, then by address and place.
func SortFindings(out []Finding) {
	sort.SliceStable(out, func(i, j int) bool {
		a, b := out[i], out[j]
		if a.Stops != b.Stops {
			return a.Stops
		}
		if a.Address != b.Address {
			return a.Address.Less(b.Address)
		}
		return a.Line < b.Line
	})
}
