package plan

import (
	"fmt"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
)

// selection is which items come when only some were asked for, and why; nil: all.
type selection map[item.Address]string

// isExcluded tells whether an item was not chosen.
func (s selection) isExcluded(a item.Address) bool {
	if s == nil {
		return false
	}
	_, in := s[a]
	return !in
}

// selectItems settles which items come, and notes in their rows why.
func selectItems(in *inputs, rows rowList) (selection, error) {
	chosen, err := chooseItems(in)
	if err != nil || chosen == nil {
		return nil, err
	}
	for _, row := range rows.list {
		why, comes := chosen[row.Address]
		if comes {
			row.Needed = why
		}
	}
	return chosen, nil
}

// chooseItems settles which items come when only some were asked for: those, and what they need, with the reason;
// nil: all.
func chooseItems(in *inputs) (selection, error) {
	if len(in.ask.Only) == 0 {
		return nil, nil
	}
	for _, a := range in.ask.Only {
		if _, ok := in.parcel.Find(a); !ok {
			var have []string
			for _, h := range in.parcel.Heads() {
				have = append(have, h.Address.String())
			}
			return nil, &DecisionError{
				Key:     "only",
				Message: fmt.Sprintf("the kit has no %s (it holds: %s)", a, strings.Join(have, ", ")),
			}
		}
	}
	all, err := closure.Compute(in.kit, in.ask.Only, func(item.Address) bool { return false })
	if err != nil {
		return nil, err
	}
	chosen := selection{}
	for _, a := range in.ask.Only {
		chosen[a] = ""
	}
	for _, e := range all.Items {
		if _, named := chosen[e.Address]; named || e.Address.Kind == item.Page { // a link brings no page along
			continue
		}
		if len(e.Reasons) > 0 {
			chosen[e.Address] = e.Reasons[0].String()
		}
	}
	return chosen, nil
}
