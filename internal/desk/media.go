package desk

import (
	"bytes"
	"cmp"
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
	"compactparcel/internal/memory"
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

// sizeHeads is how many bytes are read to find a picture's size: few, and more where these do not tell.
var sizeHeads = []int64{8 << 10, 256 << 10}

// sizeOf gives the size of a picture; zero where it cannot be read.
func (d *Desk) sizeOf(v *store.View, h item.Head) (lighten.Size, error) {
	r, err := v.Open(h)
	if err != nil {
		return lighten.Size{}, &item.ReadError{Address: h.Address, Err: err}
	}
	defer r.Close()
	var b []byte
	for _, n := range sizeHeads {
		more, err := io.ReadAll(io.LimitReader(r, n-int64(len(b))))
		if err != nil {
			return lighten.Size{}, &item.ReadError{Address: h.Address, Err: err}
		}
		b = append(b, more...)
		if size, _, err := lighten.SizeOf(b); !errors.Is(err, lighten.ErrCannot) {
			return size, err
		}
	}
	return lighten.Size{}, nil
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
		on, err := d.editing(tx, c.ID, p, Edit{Site: site, Draft: draft})
		if err != nil {
			return err
		}
		if out = (&EditsDone{Draft: on.draft}); on.again {
			out.Says = []string{"done before"}
			return nil
		}
		says, changes, err := work(ctx, on.view)
		if err != nil || len(changes) == 0 {
			return err
		}
		var heads []item.Head
		for _, ch := range changes {
			heads = append(heads, ch.Head)
			out.Items = append(out.Items, EditedItem{Head: ch.Head, Gone: ch.Delete})
		}
		out.Says = []string{says}
		if out.Touched, err = plan.PagesTouched(on.view.Laid(changes), heads); err != nil {
			return err
		}
		out.Step, err = on.lay(steps.Step{Kind: steps.Do, By: p.Name}, says, d.Now(), changes)
		return err
	})
	return outcome(out, explain(what, err))
}

// MediaWidths are the widths in which pictures are made, unless others are named.
var MediaWidths = []int{480, 960, 1600}

// MediaSizes makes a picture in several widths, as WebP, and lets all that shows it offer them.
func (d *Desk) MediaSizes(
	ctx context.Context, p Person, site string, draft int64, a item.Address, widths []int,
) (*EditsDone, error) {
	what := site + " " + a.String()
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if len(widths) == 0 {
		widths = MediaWidths
	}
	if widths = slices.Compact(slices.Sorted(slices.Values(widths))); len(widths) > 8 || widths[0] < 16 ||
		widths[len(widths)-1] > 10_000 {
		return nil, problem(BadInput, what, Form("480, 960, 1600: up to eight widths from 16 to 10000"),
			"these cannot be widths")
	}
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	if err := hasMedia(v, site, a); err != nil {
		return nil, err
	}
	of, _ := v.Find(a)
	variants, size, err := d.variantsOf(ctx, v, of, widths)
	if errors.Is(err, lighten.ErrCannot) {
		return nil, problem(Refused, what, To(ChooseSupportedFile), "%v", err)
	}
	if err != nil {
		return nil, explain(what, err)
	}
	if len(variants) == 0 {
		return nil, problem(Refused, what, To(CheckOptions), "it is only %d px wide", size.Width)
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		if h, there := view.Find(a); !there || h.Doc != of.Doc {
			return "", nil, problem(Stale, what, To(Redo), "the picture was replaced at the same time")
		}
		users, err := view.UsedBy(a)
		if err != nil {
			return "", nil, err
		}
		changes, err := d.offered(ctx, view, a, users, variants, size, nil)
		made := make([]string, len(variants))
		for i, x := range variants {
			made[i] = fmt.Sprint(x.Width)
		}
		return fmt.Sprintf("made %s in widths of %s px", a, strings.Join(made, ", ")), changes, err
	})
}

// offered keeps a picture in other sizes, in the place of those that were, and lets what shows it offer them.
func (d *Desk) offered(
	ctx context.Context, view *store.View, a item.Address, users []item.Address, variants []lighten.Variant,
	size lighten.Size, were []edit.Sized,
) ([]store.Change, error) {
	var changes []store.Change
	var list []edit.Sized
	for _, x := range variants {
		at, err := variantAt(view, a, users, x)
		if err != nil {
			return nil, err
		}
		if i := slices.IndexFunc(were, func(s edit.Sized) bool { return s.Width == x.Width }); i >= 0 {
			at = were[i].At
		}
		ch, err := d.mediaItem(ctx, view, at, "image/webp", x.Bytes)
		if err != nil {
			return nil, err
		}
		changes, list = append(changes, ch), append(list, edit.Sized{Width: x.Width, At: at})
	}
	shown, err := edit.ShowSizes(view, users, a, size.Width, size.Height, list)
	if err != nil {
		return nil, err
	}
	more, err := d.laidTexts(ctx, shown)
	return append(changes, more...), err
}

// hasMedia tells that a site has no such file among its media; nil when it has.
func hasMedia(v *store.View, site string, a item.Address) error {
	if _, ok := v.Find(a); ok && a.Kind == item.Media {
		return nil
	}
	return problem(NotFound, site+" "+a.String(), To(ShowItems, "site", site), "there is no such picture")
}

// variantsOf makes a picture in other sizes.
func (d *Desk) variantsOf(ctx context.Context, v *store.View, h item.Head, widths []int) (
	out []lighten.Variant, size lighten.Size, err error,
) {
	b, err := item.Read(v, h)
	if err != nil {
		return nil, size, err
	}
	err = d.imaging(ctx, func() error {
		out, size, err = lighten.Variants(ctx, b, widths)
		return err
	})
	return out, size, err
}

// picturesAtOnce is how many pictures are worked on at once: each takes memory for all of its pixels.
const picturesAtOnce = 2

// imaging works on a picture when it is its turn, outside every lock; it ends with the request.
func (d *Desk) imaging(ctx context.Context, work func() error) error {
	select {
	case d.pictures <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-d.pictures }()
	if store.Within(ctx) {
		return errors.New("a picture is worked on while something is held")
	}
	defer memory.Work()()
	return work()
}

// variantAt is where a picture stands in a width: a file of that name that is not offered with the picture,
// by all that uses it, is somebody's own and stays.
func variantAt(view *store.View, of item.Address, users []item.Address, x lighten.Variant) (item.Address, error) {
	name := fmt.Sprintf("%s-%d", strings.TrimSuffix(of.Key, path.Ext(of.Key)), x.Width)
	at := item.Address{Kind: item.Media, Key: name + ".webp"}
	for n := 2; ; n++ {
		if h, there := view.Find(at); !there || h.Doc == item.DigestOf(x.Bytes) {
			return at, nil
		}
		by, err := view.UsedBy(at)
		if err != nil {
			return at, err
		}
		if len(by) > 0 && !slices.ContainsFunc(by, func(a item.Address) bool { return !slices.Contains(users, a) }) {
			return at, nil
		}
		at.Key = fmt.Sprintf("%s-%d.webp", name, n)
	}
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

// freeFor gives the address of a file, or one beside it where another file is there.
func freeFor(view *store.View, a item.Address, digest item.Digest) item.Address {
	end := path.Ext(a.Key)
	base := strings.TrimSuffix(a.Key, end)
	for n := 2; ; n++ {
		if h, there := view.Find(a); !there || h.Doc == digest {
			return a
		}
		a.Key = fmt.Sprintf("%s-%d%s", base, n, end)
	}
}

// iconSides are the sizes in which the site's icon is made: for tabs, phones, and lists of apps.
var iconSides = []int{32, 180, 512}

// maxIcon bounds a file of which an icon is made, in bytes.
const maxIcon = 20 << 20

// SiteIcon makes the site's icon of a picture, in all sizes. An SVG fits all of them, and is made in them
// where it can be drawn, for what reads no SVG.
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
	files, err := d.iconFiles(ctx, b)
	if errors.Is(err, lighten.ErrCannot) && format == "svg" {
		files, err = nil, nil // it fits all sizes itself
	}
	if errors.Is(err, lighten.ErrCannot) {
		return nil, problem(BadInput, what, To(ChooseSupportedFile), "%v", err)
	}
	if err != nil {
		return nil, explain(what, err)
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
		svg := ""
		if format == "svg" {
			at, err := put("site-icon.svg", "image/svg+xml", b)
			if err != nil {
				return "", nil, err
			}
			value, svg = at, at
		}
		sizes := map[string]string{}
		for side, file := range files {
			var err error
			if sizes[fmt.Sprint(side)], err = put(fmt.Sprintf("site-icon-%d.png", side), "image/png",
				file); err != nil {
				return "", nil, err
			}
		}
		if len(sizes) > 0 {
			value = map[string]any{"media": cmp.Or(svg, sizes["32"]), "sizes": sizes}
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

// iconFiles makes an icon in all its sizes.
func (d *Desk) iconFiles(ctx context.Context, b []byte) (map[int][]byte, error) {
	files := map[int][]byte{}
	return files, d.imaging(ctx, func() (err error) {
		for _, side := range iconSides {
			if files[side], err = lighten.Square(ctx, b, side); err != nil {
				return err
			}
		}
		return nil
	})
}
