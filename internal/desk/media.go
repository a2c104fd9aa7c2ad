package desk

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/lighten"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// SiteMedia is a file of a site's media with what it is used for.
type SiteMedia struct {
	Head   item.Head
	Size   lighten.Size // of a picture; zero of all else
	UsedBy []item.Address
}

// Media lists the media of a site whose names or titles hold all words, by name.
func (d *Desk) Media(ctx context.Context, p Person, site string, draft int64, words string) ([]SiteMedia, error) {
	what := "site " + site
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	wanted := facts.Split(words)
	var heads []item.Head
	var addresses []item.Address
	for _, h := range v.OfKind(item.Media) {
		have := strings.ToLower(h.Address.Key + " " + h.Meta.Title + " " + strings.Join(h.Meta.Tags, " "))
		if !slices.ContainsFunc(wanted, func(w string) bool { return !strings.Contains(have, w) }) {
			heads, addresses = append(heads, h), append(addresses, h.Address)
		}
	}
	users, err := v.UsersOf(addresses)
	if err != nil {
		return nil, explain(what, err)
	}
	out := make([]SiteMedia, len(heads))
	for i, h := range heads {
		out[i] = SiteMedia{Head: h, UsedBy: users[h.Address]}
		if !strings.HasPrefix(h.Meta.MediaType, "image/") {
			continue
		}
		if out[i].Size, err = d.sizeOf(v, h); err != nil {
			return nil, explain(what, err)
		}
	}
	return out, nil
}

// sizeHead is how many bytes are read to find a picture's size.
const sizeHead = 256 << 10

// sizeOf gives the size of a picture; zero where it cannot be read.
func (d *Desk) sizeOf(v *store.View, h item.Head) (lighten.Size, error) {
	r, err := v.Open(h)
	if err != nil {
		return lighten.Size{}, &item.ReadError{Address: h.Address, Err: err}
	}
	defer r.Close()
	b, err := io.ReadAll(io.LimitReader(r, sizeHead))
	if err != nil {
		return lighten.Size{}, &item.ReadError{Address: h.Address, Err: err}
	}
	size, _, err := lighten.SizeOf(b)
	if errors.Is(err, lighten.ErrCannot) {
		return lighten.Size{}, nil
	}
	return size, err
}

// step lays what work changes of a draft into it, as one step.
func (d *Desk) step(
	ctx context.Context, p Person, site string, draft int64,
	work func(ctx context.Context, view *store.View) (says string, changes []store.Change, err error),
) (*EditsDone, error) {
	what := "site " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	var out *EditsDone
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		ctx := tx.Context()
		locked, err := tx.Collections().Lock(c.ID)
		if err != nil {
			return err
		}
		_, again := store.Repeated(ctx)
		dr, err := d.draftToEdit(tx, locked, p, Edit{Site: site, Draft: draft})
		if err != nil {
			return err
		}
		if out = (&EditsDone{Draft: dr}); again {
			out.Says = []string{"done before"}
			return nil
		}
		live, err := d.Store.Live(ctx, locked)
		if err != nil {
			return err
		}
		view, err := d.Store.Over(ctx, locked, dr)
		if err != nil {
			return err
		}
		says, changes, err := work(ctx, view)
		if err != nil || len(changes) == 0 {
			return err
		}
		var heads []item.Head
		for _, ch := range changes {
			heads = append(heads, ch.Head)
			out.Items = append(out.Items, EditedItem{Head: ch.Head, Gone: ch.Delete})
		}
		out.Says = []string{says}
		if out.Touched, err = plan.PagesTouched(view.Laid(changes), heads); err != nil {
			return err
		}
		out.Step, err = tx.Lay(dr, live, view, steps.Step{Kind: steps.Do, By: p.Name}, says, d.Now(), changes)
		return err
	})
	return done(out, explain(what, err))
}

// MediaWidths are the widths in which pictures are made, unless others are named.
var MediaWidths = []int{480, 960, 1600}

// MediaSizes makes a picture in several widths, as WebP, and lets all that shows it offer them.
func (d *Desk) MediaSizes(
	ctx context.Context, p Person, site string, draft int64, a item.Address, widths []int,
) (*EditsDone, error) {
	what := site + " " + a.String()
	if len(widths) == 0 {
		widths = MediaWidths
	}
	if widths = slices.Compact(slices.Sorted(slices.Values(widths))); len(widths) > 8 || widths[0] < 16 ||
		widths[len(widths)-1] > 10_000 {
		return nil, problem(BadInput, what, Form("480, 960, 1600: up to eight widths from 16 to 10000"),
			"these cannot be widths")
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		h, ok := view.Find(a)
		if !ok || a.Kind != item.Media {
			return "", nil, problem(NotFound, what, To(ShowItems, "site", site), "there is no such picture")
		}
		b, err := item.Read(view, h)
		if err != nil {
			return "", nil, err
		}
		variants, size, err := lighten.Variants(b, widths)
		if errors.Is(err, lighten.ErrCannot) {
			return "", nil, problem(Refused, what, To(ChooseSupportedFile), "%v", err)
		}
		if err != nil {
			return "", nil, err
		}
		var changes []store.Change
		var list []edit.Sized
		for _, v := range variants {
			at := item.Address{Kind: item.Media,
				Key: fmt.Sprintf("%s-%d.webp", strings.TrimSuffix(a.Key, path.Ext(a.Key)),
					v.Width)}
			ch, err := d.mediaItem(ctx, view, at, "image/webp", v.Bytes)
			if err != nil {
				return "", nil, err
			}
			changes, list = append(changes, ch), append(list, edit.Sized{Width: v.Width, At: at})
		}
		if len(list) == 0 {
			return "", nil, problem(Refused, what, To(CheckOptions), "it is only %d px wide", size.Width)
		}
		users, err := view.UsedBy(a)
		if err != nil {
			return "", nil, err
		}
		shown, err := edit.ShowSizes(view, users, a, size.Width, size.Height, list)
		if err != nil {
			return "", nil, err
		}
		for _, c := range shown {
			if c.Head, err = d.keepOne(ctx, c.Head, c.Content); err != nil {
				return "", nil, err
			}
			changes = append(changes, store.Change{Head: c.Head})
		}
		return fmt.Sprintf("made %s in %d sizes, which %d items offer", a, len(list), len(shown)), changes, nil
	})
}

// mediaItem keeps a file as one of a site's media.
func (d *Desk) mediaItem(ctx context.Context, view *store.View, a item.Address, mediaType string, b []byte) (
	store.Change, error,
) {
	h, there := view.Find(a)
	if !there {
		h = item.Head{ID: store.NewID(), Address: a, Meta: item.Meta{MediaType: mediaType}}
	}
	if !isFile(h) {
		h, err := d.keepOne(ctx, h, b)
		return store.Change{Head: h}, err
	}
	h, err := d.keepMedia(ctx, h, bytes.NewReader(b))
	return store.Change{Head: h}, err
}

// iconSides are the sizes in which the site's icon is made: for tabs, phones, and lists of apps.
var iconSides = []int{32, 180, 512}

// maxIcon bounds a file of which an icon is made, in bytes.
const maxIcon = 20 << 20

// SiteIcon makes the site's icon of a picture, in all sizes; an SVG fits all of them.
func (d *Desk) SiteIcon(ctx context.Context, p Person, site string, draft int64, r io.Reader) (*EditsDone, error) {
	what := "the icon of " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	b, err := io.ReadAll(io.LimitReader(r, maxIcon+1))
	if err != nil {
		return nil, err
	}
	if len(b) > maxIcon {
		return nil, problem(TooLarge, what, To(MakeLighter), "it has more than %d MB", maxIcon>>20)
	}
	_, format, err := lighten.SizeOf(b)
	if err != nil {
		return nil, problem(BadInput, what, To(ChooseSupportedFile), "%v", err)
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		var changes []store.Change
		put := func(key, mediaType string, b []byte) (string, error) {
			at := item.Address{Kind: item.Media, Key: key}
			ch, err := d.mediaItem(ctx, view, at, mediaType, b)
			changes = append(changes, ch)
			return "/" + at.Path(), err
		}
		var value any
		if format == "svg" {
			at, err := put("site-icon.svg", "image/svg+xml", b)
			if err != nil {
				return "", nil, err
			}
			value = at
		} else {
			sizes := map[string]string{}
			for _, side := range iconSides {
				file, err := lighten.Square(b, side)
				if errors.Is(err, lighten.ErrCannot) {
					return "", nil, problem(BadInput, what, To(ChooseSupportedFile), "%v", err)
				}
				if err != nil {
					return "", nil, err
				}
				if sizes[fmt.Sprint(side)], err = put(fmt.Sprintf("site-icon-%d.png", side), "image/png",
					file); err != nil {
					return "", nil, err
				}
			}
			value = map[string]any{"media": sizes["32"], "sizes": sizes}
		}
		text, err := json.Marshal(value)
		if err != nil {
			return "", nil, err
		}
		h, there := view.Find(item.Address{Kind: item.Setting, Key: "icon"})
		if !there {
			h = item.Head{ID: store.NewID(), Address: item.Address{Kind: item.Setting, Key: "icon"}}
		}
		if h, err = d.keepOne(ctx, h, text); err != nil {
			return "", nil, err
		}
		return "made the site's icon in all sizes", append(changes, store.Change{Head: h}), nil
	})
}
