package folder

import (
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// takesIn gives the items that an item takes into itself: the sections that stand in a
// text and the stylesheets that a stylesheet imports.
func takesIn(f *facts.Facts) []item.Address {
	var out []item.Address
	for _, r := range f.Refs {
		switch {
		case r.Space == facts.Section:
			out = append(out, item.Address{Kind: item.Section, Key: r.Name})
		case r.Space == facts.Address && r.Where.In == facts.InImport:
			if a, ok := item.AddressOfPath(r.Name); ok {
				out = append(out, a)
			}
		}
	}
	return out
}

// circles notes the items that take themselves in through others.
func (r *reader) circles() {
	var from []item.Address
	for a := range r.takesIn {
		from = append(from, a)
	}
	sort.Slice(from, func(i, j int) bool { return from[i].Less(from[j]) })
	const open, done = 1, 2
	state := map[item.Address]int{}
	var visit func(a item.Address, way []string)
	visit = func(a item.Address, way []string) {
		state[a] = open
		way = append(way, a.String())
		for _, to := range r.takesIn[a] {
			switch state[to] {
			case open:
				first := 0
				for way[first] != to.String() {
					first++
				}
				ends := "no page can show them until one of these uses is taken out"
				if to.Kind == item.Stylesheet {
					ends = "browsers leave the last import out"
				}
				r.report.Notes = append(
					r.report.Notes,
					Left{
						to.String(),
						"it uses itself, in a circle: " + strings.Join(
							append(way[first:len(way):len(way)], to.String()), " → ") + "; " + ends,
					},
				)
			case 0:
				visit(to, way)
			}
		}
		state[a] = done
	}
	for _, a := range from {
		if state[a] == 0 {
			visit(a, nil)
		}
	}
}
