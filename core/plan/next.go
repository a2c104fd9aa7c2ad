package plan

import "compactparcel/core/item"

// nextOf gives what is copied as the next one of a series: the kit's items with blanks, and those that
// use them.
func nextOf(g given) (map[item.Address]bool, error) {
	out := map[item.Address]bool{}
	for _, h := range g.parcel.Heads() {
		if !copies(h.Address.Kind) {
			continue
		}
		f, err := g.facts(h)
		if err != nil {
			return nil, err
		}
		if len(f.Fills) > 0 {
			out[h.Address] = true
		}
	}
	for more := true; more; {
		more = false
		for _, e := range g.parcel.List.Items {
			if out[e.Address()] || !copies(e.Kind) {
				continue
			}
			for _, u := range e.Uses {
				if out[u] && !out[e.Address()] {
					out[e.Address()], more = true, true
				}
			}
		}
	}
	return out, nil
}
