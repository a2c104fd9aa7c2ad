package plan

import (
	"encoding/json"

	"compactparcel/core/item"
)

// After is the site as a delivery leaves it.
func After(site, parcel item.Collection, r *Result) (*item.Over, error) {
	return after(site, parcel, r.Writes, r.Deletions, r.Plan.StyleOrder)
}

func after(site, parcel item.Collection, writes []PlannedWrite, deletions []item.Head,
	order []item.Address) (*item.Over,
	error) {
	over := item.NewOver(site)
	for _, h := range deletions {
		over.Drop(h.Address)
	}
	for _, p := range writes {
		if p.Content != nil {
			over.Set(p.Head, p.Content)
		} else if its, ok := parcel.Find(p.KitAddress); ok {
			over.Lay(p.Head, parcel, its)
		} else if its, ok := site.Find(p.Head.Address); ok { // a part that gives way
			over.Lay(p.Head, site, its)
		}
	}
	if len(order) > 0 {
		b, err := json.Marshal(order)
		if err != nil {
			return nil, err
		}
		over.Set(item.Head{Address: item.StyleOrder}, b)
	}
	return over, nil
}
