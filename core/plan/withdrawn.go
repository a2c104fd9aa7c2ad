package plan

import (
	"sort"

	"compactparcel/core/item"
)

// withdrawn finds what came with an earlier version and is no longer in the kit.
func withdrawn(g given, inKit map[item.Address]bool) ([]*Row, error) {
	var gone []item.Address
	for a, o := range g.origins {
		if !inKit[a] && !o.Item.IsZero() {
			gone = append(gone, a)
		}
	}
	sort.Slice(gone, func(i, j int) bool { return gone[i].Less(gone[j]) })
	going := map[item.Address]bool{}
	for _, a := range gone {
		going[g.origins[a].Item] = true
	}
	var out []*Row
	for _, a := range gone {
		o := g.origins[a]
		h, ok := g.site.Find(o.Item)
		if !ok {
			continue
		}
		g.addPrecondition(o.Item)
		row := &Row{
			Address:  a,
			Standing: Withdrawn,
			Becomes:  o.Item,
			Why:      "it came with version " + o.Version + " and is no longer in the kit",
			Site: &ItemVersion{
				Address:          o.Item,
				NormalizedDigest: h.NormalizedDigest,
				State:            h.State(),
				Title:            h.Meta.Title,
				Bytes:            h.Bytes,
			},
			SubjectDigest: subjectDigest(item.Head{Address: a}, h),
		}
		row.unedited = h.NormalizedDigest == o.NormalizedDigest &&
			(o.Meta == nil || metaKey(h.Meta, true) == metaKey(*o.Meta, true))
		users, err := g.site.UsedBy(o.Item)
		if err != nil {
			return nil, err
		}
		for _, u := range users {
			row.inUse = row.inUse || !going[u] && u.Kind != item.Setting
		}
		switch {
		case h.Address.Kind == item.Page:
			row.inUse = true // visitors may come to it
		case h.Address.Kind == item.Part && !h.Meta.Off:
			row.inUse = row.inUse || len(h.Meta.Place().Where) > 0
		}
		switch {
		case !row.unedited:
			row.Why += "; it was edited here"
		case row.inUse:
			row.Why += "; the site still uses it"
		default:
			row.Why += "; nothing uses it"
		}
		out = append(out, row)
	}
	return out, nil
}
