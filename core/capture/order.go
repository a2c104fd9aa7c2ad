package capture

import (
	"fmt"
	"slices"
	"sort"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/render"
)

// sheetOrder is the order of stylesheets and tokens in which what is taken looks as at home: the
// source's own, and for what that does not name, the order in which the pieces wear them. Notes
// tell of pieces that order them differently.
func sheetOrder(src item.Collection, w *world, taken []closure.Entry) (order []item.Address, notes []kit.Finding,
	err error) {
	if order, err = render.StyleOrder(src); err != nil {
		return nil, nil, err
	}
	decided := order // among these the source decides
	order = slices.Clone(order)
	for _, e := range taken {
		h, ok := src.Find(e.Address)
		if !ok || !e.Address.Kind.IsMarkup() {
			continue
		}
		f, err := w.Small.Facts(h)
		if err != nil {
			return nil, nil, err
		}
		var worn []item.Address
		for _, u := range closure.Uses(w.Small, h, f) {
			if isSheet(u.To) && u.Found && !slices.Contains(worn, u.To) {
				worn = append(worn, u.To)
			}
		}
		var other *[2]item.Address
		if order, other = inserted(order, worn); other != nil && e.Address.Kind != item.Page &&
			!(slices.Contains(decided, other[0]) && slices.Contains(decided, other[1])) {
			notes = append(notes, kit.Finding{Address: e.Address, Message: fmt.Sprintf(
				"it wears %s before %s, which another order turns round: where both say something of an element, "+
					"it may "+
					"look otherwise than at home", other[0], other[1])})
		}
	}
	return order, notes, nil
}

func isSheet(a item.Address) bool { return a.Kind == item.Stylesheet || a.Kind == item.Tokens }

// inserted puts what is new of one list into an order, each behind what stands before it; other
// names two that stand in the order the other way round.
func inserted(order, list []item.Address) (out []item.Address, other *[2]item.Address) {
	last := -1
	for i, a := range list {
		if at := slices.Index(order, a); at >= 0 {
			if at < last && other == nil {
				other = &[2]item.Address{order[last], a}
			}
			last = max(last, at)
			continue
		}
		at := last + 1
		if last < 0 { // before the next that is there, else behind all
			at = len(order)
			for _, next := range list[i+1:] {
				if n := slices.Index(order, next); n >= 0 {
					at = n
					break
				}
			}
		}
		order = slices.Insert(order, at, a)
		last = at
	}
	return order, other
}

// order takes the stylesheet order for what is carried.
func (t *Taken) order(src item.Collection, w *world, have map[item.Address]bool) error {
	order, notes, err := sheetOrder(src, w, t.Closure.Items)
	if err != nil {
		return err
	}
	t.Notes = append(t.Notes, notes...)
	place := map[item.Address]int{}
	for i, a := range order {
		place[a] = i + 1
	}
	for a := range have {
		if isSheet(a) {
			t.StyleOrder = append(t.StyleOrder, a)
		}
	}
	sort.Slice(t.StyleOrder, func(i, j int) bool {
		a, b := t.StyleOrder[i], t.StyleOrder[j]
		if (place[a] > 0) != (place[b] > 0) {
			return place[a] > 0
		}
		if place[a] != place[b] {
			return place[a] < place[b]
		}
		if (a.Kind == item.Tokens) != (b.Kind == item.Tokens) {
			return a.Kind == item.Tokens
		}
		return a.Less(b)
	})
	return nil
}
