package desk

import (
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// EndedAddress is an address at which the live site answers and will not once a draft is live.
type EndedAddress struct {
	Path string
	// LinkedFrom are the items that would still name it.
	LinkedFrom []item.Address
}

// ended finds the addresses that a draft ends: of pages that it removes, and of files with an address of their own. A
// page that moves ends none, since what it left leads to it.
func ended(live, over *store.View, rows []store.DraftItem) ([]EndedAddress, error) {
	r, out := render.New(over), []EndedAddress{}
	made, err := r.GeneratedPages()
	if err != nil {
		return nil, err
	}
	answers := func(path string) bool {
		_, page := r.PageAt(path)
		_, kept := over.KeptAt(path)
		return page || kept || slices.ContainsFunc(made, func(m render.GeneratedPage) bool { return m.Slug == path })
	}
	for _, row := range rows {
		h, there := live.ByID(row.ItemID)
		if !there {
			continue
		}
		paths := slices.Clone(h.Meta.Kept)
		if _, stays := over.ByID(row.ItemID); h.Address.Kind == item.Page && !stays {
			paths = append(paths, h.Meta.Slug)
		}
		for _, path := range paths {
			if answers(path) {
				continue
			}
			from, err := over.LinkedFrom(path)
			if err != nil {
				return nil, err
			}
			users, err := over.UsedBy(h.Address)
			if err != nil {
				return nil, err
			}
			from = append(from, users...)
			slices.SortFunc(from, func(a, b item.Address) int { return strings.Compare(a.String(), b.String()) })
			out = append(out, EndedAddress{path, slices.Compact(from)})
		}
	}
	slices.SortFunc(out, func(a, b EndedAddress) int { return strings.Compare(a.Path, b.Path) })
	return out, nil
}
