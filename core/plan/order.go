package plan

import (
	"sort"

	"compactparcel/core/item"
)

// order gives new stylesheets their place: tokens before all of the site's, so
// that the site's values win where both are on a page; stylesheets behind.
func (m *maker) order() error {
	before, err := m.site.StyleOrder()
	if err != nil {
		return err
	}
	known := map[item.Address]bool{}
	for _, a := range before {
		known[a] = true
	}
	for _, h := range m.site.Sheets() { // sheets that the order does not name yet
		if !known[h.Address] {
			known[h.Address] = true
			before = append(before, h.Address)
		}
	}
	incoming := map[item.Address]bool{}
	for _, p := range m.writes {
		if k := p.Head.Address.Kind; (k == item.Stylesheet || k == item.Tokens) && !known[p.Head.Address] {
			incoming[p.Head.Address] = true
		}
	}
	if len(incoming) == 0 {
		return nil
	}
	var first, last []item.Address
	for _, a := range m.parcel.List.StyleOrder {
		to, ok := m.moved[a]
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
		if row := m.rows[a]; row != nil {
			row.Order = says
		}
	}
	m.plan.StyleOrder = append(append(first, before...), last...)
	var rest []item.Address
	for a := range incoming {
		rest = append(rest, a)
	}
	sort.Slice(rest, func(i, j int) bool { return rest[i].Less(rest[j]) })
	m.plan.StyleOrder = append(m.plan.StyleOrder, rest...)
	m.addPrecondition(item.StyleOrder)
	return nil
}
