package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/look"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// ownLook lets a piece that was just placed wear the look that it comes with, which the site keeps by the name
// of its source. Nothing changes where both look the same.
func (d *Desk) ownLook(
	ctx context.Context, after *store.View, parcel plan.Parcel, out *laidPiece, u Use,
) ([]store.Change, error) {
	switch out.Piece.Kind {
	case item.Section, item.Block, item.Part:
	default:
		return nil, nil // the page engine writes the others, and whole pages wear the site's
	}
	l, err := look.From(parcel.Collection, after)
	if err != nil || len(l) == 0 {
		return nil, err
	}
	kept, err := look.Of(after)
	if err != nil {
		return nil, err
	}
	wear := edit.Operation{Op: edit.PartLook, Page: u.Page, Item: out.Piece}
	switch out.Piece.Kind {
	case item.Part:
		wear.Page = "" // it stands where the plan says
	case item.Block:
		wear = edit.Operation{Op: edit.OwnLook, Page: u.Page, Element: u.Beside, Place: u.Place}
		if wear.Place == "" {
			wear.Place = edit.After
		}
		if wear.Element == "" {
			wear.Element, wear.Place = "main", edit.Inside
		}
	default:
	}
	var list []edit.Operation
	var there bool
	if wear.Value, there = lookNamed(kept, l, u.From); !there {
		kept[wear.Value] = l
		b, err := json.MarshalIndent(kept, "", "  ")
		if err != nil {
			return nil, err
		}
		list = append(list, edit.Operation{Op: edit.Set, Item: look.Setting, Value: string(b)})
	}
	changes, err := d.operated(ctx, after, out, append(list, wear))
	var pr *Problem
	if errors.As(err, &pr) && pr.Type == Refused { // it comes all the same
		out.Says = append(out.Says, "it wears the site's look: "+pr.Message)
		return nil, nil
	}
	out.OwnLook = wear.Value
	return changes, err
}

// lookNamed gives the name by which a look of a source is kept, and whether it is.
func lookNamed(kept map[string]look.Look, l look.Look, from string) (name string, there bool) {
	source := strings.TrimPrefix(from, fromKit)
	if n, _, err := kit.ParseName(source); err == nil && source != from {
		source = n
	}
	for n := 1; ; n++ {
		if name = "as in " + source; n > 1 {
			name = fmt.Sprintf("as in %s %d", source, n)
		}
		had, taken := kept[name]
		if !taken || sameLook(had, l) {
			return name, taken
		}
	}
}

// sameLook tells whether two looks have the same values.
func sameLook(a, b look.Look) bool {
	read := func(l look.Look) map[string]any {
		out := map[string]any{}
		for name, raw := range l {
			var v any
			if json.Unmarshal(raw, &v) == nil {
				out[name] = v
			}
		}
		return out
	}
	return reflect.DeepEqual(read(a), read(b))
}
