package desk

import (
	"context"
	"errors"
	"fmt"
	"image"
	"path"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/lighten"
	"compactparcel/internal/store"
)

// CropMedia leaves of a picture what lies in an area, in px from its upper left corner: wherever it is shown, with
// the sizes in which it is offered; or as a copy beside it, which nothing shows yet. One step.
func (d *Desk) CropMedia(
	ctx context.Context, p Person, site string, draft int64, a item.Address, area image.Rectangle, asCopy bool,
) (*EditsDone, error) {
	what := site + " " + a.String()
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	if err := hasMedia(v, site, a); err != nil {
		return nil, err
	}
	of, _ := v.Find(a)
	cropped, size, err := d.croppedOf(ctx, v, of, area)
	if errors.Is(err, lighten.ErrCannot) || errors.Is(err, lighten.ErrNotCropped) {
		return nil, problem(Refused, what, To(CheckOptions), "%v", err)
	}
	if err != nil {
		return nil, explain(what, err)
	}
	var made []lighten.Variant
	if !asCopy {
		if made, err = d.sizesOfCropped(ctx, v, a, cropped, size); err != nil {
			return nil, explain(what, err)
		}
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		if h, there := view.Find(a); !there || h.Doc != of.Doc {
			return "", nil, problem(Stale, what, To(Redo), "the picture was replaced at the same time")
		}
		if asCopy {
			end := path.Ext(a.Key)
			at := freeFor(view, item.Address{Kind: item.Media, Key: strings.TrimSuffix(a.Key, end) + "-cropped" + end},
				item.DigestOf(cropped))
			ch, err := d.mediaItem(ctx, view, at, of.Meta.MediaType, cropped)
			return fmt.Sprintf("cropped a copy of %s to %s px", a, size), []store.Change{ch}, err
		}
		ch, err := d.mediaItem(ctx, view, a, of.Meta.MediaType, cropped)
		if err != nil {
			return "", nil, err
		}
		more, err := d.croppedSizes(ctx, view, a, size, made)
		return fmt.Sprintf("cropped %s to %s px", a, size), append([]store.Change{ch}, more...), err
	})
}

func (d *Desk) croppedOf(ctx context.Context, v *store.View, h item.Head, area image.Rectangle) (
	out []byte, size lighten.Size, err error,
) {
	b, err := item.Read(v, h)
	if err != nil {
		return nil, size, err
	}
	err = d.imaging(ctx, func() error {
		out, size, err = lighten.Crop(b, area)
		return err
	})
	return out, size, err
}

// sizesOfCropped makes the sizes in which a picture is offered of what was cropped of it.
func (d *Desk) sizesOfCropped(
	ctx context.Context, v *store.View, a item.Address, b []byte, size lighten.Size,
) (made []lighten.Variant, err error) {
	users, err := v.UsedBy(a)
	if err != nil {
		return nil, err
	}
	_, sizes, err := edit.WithoutSizes(v, users, a, size.Width, size.Height)
	if err != nil || len(sizes) == 0 {
		return nil, err
	}
	var widths []int
	for _, s := range sizes {
		widths = append(widths, s.Width)
	}
	return made, d.imaging(ctx, func() error {
		made, _, err = lighten.Variants(ctx, b, slices.Compact(widths))
		return err
	})
}

// croppedSizes puts the sizes in which a picture is offered, made anew after it was cropped, in the place of those
// that were.
func (d *Desk) croppedSizes(
	ctx context.Context, view *store.View, a item.Address, size lighten.Size, made []lighten.Variant,
) ([]store.Change, error) {
	users, err := view.UsedBy(a)
	if err != nil {
		return nil, err
	}
	bare, sizes, err := edit.WithoutSizes(view, users, a, size.Width, size.Height)
	if err != nil {
		return nil, err
	}
	changes, err := d.laidTexts(ctx, bare)
	if err != nil || len(sizes) == 0 {
		return changes, err
	}
	after := view.Laid(changes)
	var idle []edit.Sized // those that nothing else shows
	for _, s := range sizes {
		h, there := after.Find(s.At)
		by, err := after.UsedBy(s.At)
		if err != nil {
			return nil, err
		}
		if !there || len(by) > 0 || s.At == a {
			continue
		}
		idle = append(idle, s)
		changes = append(changes, store.Change{Delete: true, Head: h})
	}
	more, err := d.offered(ctx, after, a, users, made, size, idle)
	for _, ch := range more { // what is made anew does not go
		changes = slices.DeleteFunc(changes, func(c store.Change) bool { return c.Delete && c.Head.ID == ch.Head.ID })
	}
	return append(changes, more...), err
}
