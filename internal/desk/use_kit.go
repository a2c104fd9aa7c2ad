package desk

import (
	"context"

	"compactparcel/core/item"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// exactSheets gives the parcel of a kit with its stylesheets cut to what single pieces of it wear: by a section that
// comes nothing else of a page looks otherwise. Pieces of the kit that the site has go on wearing what they wear; a
// sheet that the site has whole stays whole, and whole pages bring theirs.
func (d *Desk) exactSheets(
	ctx context.Context, parcel plan.Parcel, view *store.View, of string, pieces []item.Address,
) (plan.Parcel, error) {
	isPiece := func(k item.Kind) bool { return k == item.Section || k == item.Block || k == item.Part }
	for _, a := range pieces {
		if !isPiece(a.Kind) {
			return parcel, nil
		}
	}
	picks, taken := []making.Pick{}, map[item.Address]bool{}
	pick := func(a item.Address) {
		if _, there := parcel.Collection.Find(a); there && !taken[a] {
			taken[a] = true
			picks = append(picks, making.Pick{From: fromKit + of, Address: a})
		}
	}
	for _, a := range pieces {
		pick(a)
	}
	origins, err := view.OriginsOf()
	if err != nil {
		return parcel, err
	}
	whole := map[item.Address]bool{} // what the site has already
	for a := range sheetsHere(parcel.Collection, view, origins, parcel.List.Kit) {
		whole[a] = true
	}
	for id, o := range origins {
		if _, there := view.ByID(id); !there || o.Kit != parcel.List.Kit {
			continue
		}
		a := o.Address()
		if k, ok := parcel.Collection.Find(a); ok && a.Kind == item.Stylesheet && o.Doc == k.Doc {
			whole[a] = true
		}
		if isPiece(a.Kind) || a.Kind == item.Page {
			pick(a)
		}
	}
	src, err := d.kitSource(ctx, of)
	if err != nil {
		return parcel, err
	}
	made, err := making.Assemble("piece", "0.0.0", making.Draft{Picks: picks},
		func(string) (*making.Source, error) { return src, nil })
	if err != nil {
		return parcel, err
	}
	over := item.NewOver(parcel.Collection)
	for _, h := range made.Items.Heads() {
		kits, there := parcel.Collection.Find(h.Address)
		switch {
		case !there:
		case isPiece(h.Address.Kind):
			if len(h.Meta.Styles) != len(kits.Meta.Styles) && !anyOf(kits.Meta.Styles, whole) {
				less := kits
				less.Meta.Styles = h.Meta.Styles
				over.Lay(less, parcel.Collection, kits)
			}
		case h.Address.Kind == item.Stylesheet && h.Doc != kits.Doc && !whole[h.Address]:
			b, err := item.Read(made.Items, h)
			if err != nil {
				return parcel, err
			}
			kept, err := d.keepOne(ctx, h, b)
			if err != nil {
				return parcel, err
			}
			cut := kits
			cut.Meta.Cut = true
			over.Lay(cut, made.Items, kept)
		}
	}
	parcel.Collection = over
	return parcel, nil
}

// anyOf tells whether one of a list is in a set.
func anyOf(list []item.Address, set map[item.Address]bool) bool {
	for _, a := range list {
		if set[a] {
			return true
		}
	}
	return false
}
