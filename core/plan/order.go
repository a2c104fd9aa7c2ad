package plan

import (
	"sort"

	"compactparcel/core/item"
)

// order gives new stylesheets their place: tokens before all of the site's, so
// that the site's values win where both are on a page; stylesheets behind.
func order(g given, rows rowList, t *transform, writes []PlannedWrite) ([]item.Address, error) {
	before, err := g.site.StyleOrder()
	if err != nil {
		return nil, err
	}
	known := map[item.Address]bool{}
	for _, a := range before {
		known[a] = true
	}
	for _, h := range g.site.Sheets() { // sheets that the order does not name yet
		if !known[h.Address] {
			known[h.Address] = true
			before = append(before, h.Address)
		}
	}
	incoming := map[item.Address]bool{}
	for _, p := range writes {
		if k := p.Head.Address.Kind; (k == item.Stylesheet || k == item.Tokens) && !known[p.Head.Address] {
			incoming[p.Head.Address] = true
		}
	}
	if len(incoming) == 0 {
		return nil, nil
	}
	var first, last []item.Address
	for _, a := range g.parcel.List.StyleOrder {
		to, ok := t.moved[a]
		if !ok {
			to = a
		}
		if !incoming[to] {
			continue
		}
		delete(incoming, to)
		says := "behind the site's stylesheets"
		if a.Kind == item.Tokens {
			first = append(first, to)
			says = "before the site's stylesheets, so that the site's own values win"
		} else {
			last = append(last, to)
		}
		if row := rows.rows[a]; row != nil {
			row.Order = says
		}
	}
	out := append(append(first, before...), last...)
	var rest []item.Address
	for a := range incoming {
		rest = append(rest, a)
	}
	sort.Slice(rest, func(i, j int) bool { return rest[i].Less(rest[j]) })
	g.addPrecondition(item.StyleOrder)
	return append(out, rest...), nil
}
