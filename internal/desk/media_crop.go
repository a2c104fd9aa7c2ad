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
	"compactparcel/internal/memory"
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
	cropped, size, err := croppedOf(v, of, area)
	if errors.Is(err, lighten.ErrCannot) || errors.Is(err, lighten.ErrNotCropped) {
		return nil, problem(Refused, what, To(CheckOptions), "%v", err)
	}
	if err != nil {
		return nil, explain(what, err)
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
		more, err := d.croppedSizes(ctx, view, a, cropped, size)
		return fmt.Sprintf("cropped %s to %s px", a, size), append([]store.Change{ch}, more...), err
	})
}

func croppedOf(v *store.View, h item.Head, area image.Rectangle) ([]byte, lighten.Size, error) {
	defer memory.Work()()
	b, err := item.Read(v, h)
	if err != nil {
		return nil, lighten.Size{}, err
	}
	return lighten.Crop(b, area)
}

// croppedSizes makes the sizes in which a picture is offered anew after it was cropped.
func (d *Desk) croppedSizes(ctx context.Context, view *store.View, a item.Address, b []byte, size lighten.Size) (
	[]store.Change, error,
) {
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
	var widths []int
	var idle []edit.Sized // those that nothing else shows
	for _, s := range sizes {
		widths = append(widths, s.Width)
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
	variants, _, err := lighten.Variants(b, slices.Compact(widths))
	if err != nil {
		return nil, err
	}
	more, err := d.offered(ctx, after, a, users, variants, size, idle)
	for _, ch := range more { // what is made anew does not go
		changes = slices.DeleteFunc(changes, func(c store.Change) bool { return c.Delete && c.Head.ID == ch.Head.ID })
	}
	return append(changes, more...), err
}
