package desk

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/solve"
	"compactparcel/internal/store"
)

// NewKit begins a kit, or a new version of one.
func (d *Desk) NewKit(ctx context.Context, p Person, name, version string, words making.Draft) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	if _, _, err := kit.ParseName(name + "@" + version); err != nil {
		return nil, &Problem{
			Type:    BadInput,
			What:    what,
			Message: err.Error(),
			Remedy:  Form("hut-basics@0.1.0"),
			Err:     err,
		}
	}
	if err := checkWords(&words); err != nil {
		return nil, err
	}
	if words.Picks == nil {
		words.Picks = []making.Pick{}
	}
	text, _ := json.Marshal(words)
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		if _, err := tx.Kits().Begin(name, version, string(text), p.Name, d.Now()); err != nil {
			return err
		}
		return d.audit(tx, p, "new-kit", name+"@"+version, words.Title)
	})
	_, again := store.Repeated(ctx)
	if store.IsDuplicate(err) && again {
		did, err = committedBefore, nil // by the request that this one repeats
	}
	if store.IsDuplicate(err) {
		return nil, problem(Exists, what, To(BeginNextVersion, "kit", name), "this version already exists")
	}
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*KitInfo, error) { return d.Kit(ctx, p, name, version) })
}

// change edits a kit in the making under its ETag; 0 asks for no match.
func (d *Desk) change(
	ctx context.Context,
	p Person,
	name, version string,
	etag int,
	edit func(*making.Draft) error,
) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		v, err := tx.Kits().Lock(name, version)
		if err != nil {
			return err
		}
		if v.State != Making {
			return problem(Refused, what, To(BeginNextVersion, "kit", name), "it is sealed and cannot change")
		}
		if _, again := store.Repeated(ctx); etag != 0 && etag != v.Etag && !again {
			return problem(Stale, what, To(Redo), "somebody else has changed it since you read it")
		}
		var words making.Draft
		if err := json.Unmarshal([]byte(v.Making), &words); err != nil {
			return err
		}
		if err := edit(&words); err != nil {
			return err
		}
		text, _ := json.Marshal(words)
		return tx.Kits().SetMaking(&v.KitVersion, string(text))
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*KitInfo, error) { return d.Kit(ctx, p, name, version) })
}

// KitAdd puts items of a site, the library or a sealed kit into a kit in the making, or
// single elements of them. What had been left comes back.
func (d *Desk) KitAdd(ctx context.Context, p Person, name, version string, picks []making.Pick) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	if len(picks) == 0 {
		return nil, problem(BadInput, what, To(NameItems), "no items were named")
	}
	for i, pick := range picks {
		src, err := d.source(ctx, p, pick.From)
		if err != nil {
			return nil, err
		}
		if _, ok := src.Items.Find(pick.Address); !ok {
			return nil, problem(NotFound, what, To(ShowItems, "site", pick.From), "%s has no %s", pick.From,
				pick.Address)
		}
		if pick.Element == "" {
			picks[i].As = item.Address{}
			continue
		}
		if err := making.CheckElement(src.Items, pick); err != nil {
			return nil, blame(
				&Problem{
					Type:    BadInput,
					What:    what,
					Message: err.Error(),
					Remedy:  To(NameElement),
					Err:     err,
				},
			)
		}
	}
	return d.change(ctx, p, name, version, 0, func(w *making.Draft) error {
		for _, pick := range picks {
			have := false
			for _, x := range w.Picks {
				if x.Named() == pick.Named() && x != pick && x.Element+pick.Element != "" {
					return problem(Exists, what, To(ChooseOtherName), "it already holds a %s", pick.Named())
				}
				have = have || x == pick
			}
			if !have {
				w.Picks = append(w.Picks, pick)
			}
			w.Exclusions = slices.DeleteFunc(w.Exclusions,
				func(l making.Exclusion) bool { return l.Address == pick.Named() })
		}
		return nil
	})
}

// KitPutPlaced puts all parts that are placed somewhere on a site into a kit in the making.
func (d *Desk) KitPutPlaced(ctx context.Context, p Person, name, version, site string) (*KitInfo, error) {
	return d.kitPutAll(ctx, p, name, version, site, "no part is placed on it", func(h item.Head) bool {
		return h.Address.Kind == item.Part && !h.Meta.Off && len(h.Meta.Place().Where) > 0
	})
}

// KitPutStyles puts all tokens and stylesheets of a site into a kit in the making: palette,
// type, backgrounds and layout, and nothing that they are the looks of.
func (d *Desk) KitPutStyles(ctx context.Context, p Person, name, version, site string) (*KitInfo, error) {
	return d.kitPutAll(ctx, p, name, version, site, "there are no stylesheets", func(h item.Head) bool {
		return h.Address.Kind == item.Tokens || h.Address.Kind == item.Stylesheet
	})
}

func (d *Desk) kitPutAll(
	ctx context.Context,
	p Person,
	name, version, from, none string,
	fits func(item.Head) bool,
) (*KitInfo, error) {
	if err := p.may(Librarian, "kit "+name+"@"+version); err != nil {
		return nil, err
	}
	src, err := d.source(ctx, p, from)
	if err != nil {
		return nil, err
	}
	var picks []making.Pick
	for _, h := range src.Items.Heads() {
		if fits(h) {
			picks = append(picks, making.Pick{From: from, Address: h.Address})
		}
	}
	if len(picks) == 0 {
		return nil, problem(NotFound, from, To(NameItems), "%s", none)
	}
	return d.KitAdd(ctx, p, name, version, picks)
}

// KitExclude takes an item out of a kit in the making: one that was put in is put in no
// more, one that comes along stays out and becomes a need, an optional one when the
// kit's pieces stand without it.
func (d *Desk) KitExclude(
	ctx context.Context,
	p Person,
	name, version string,
	a item.Address,
	optional bool,
) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	info, err := d.Kit(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	comes := false
	for _, e := range info.Packs.Items {
		comes = comes || e.Address() == a
	}
	return d.change(ctx, p, name, version, 0, func(w *making.Draft) error {
		n := len(w.Picks)
		w.Picks = slices.DeleteFunc(w.Picks, func(x making.Pick) bool { return x.Named() == a })
		if n > len(w.Picks) {
			return nil
		}
		for i, l := range w.Exclusions {
			if l.Address == a {
				w.Exclusions[i].Optional = optional
				return nil
			}
		}
		if _, again := store.Repeated(ctx); again && !comes {
			return nil
		}
		if !comes {
			return problem(NotFound, what, To(ShowKit, "kit", name+"@"+version),
				"%s was not added and does not come along", a)
		}
		w.Exclusions = append(w.Exclusions, making.Exclusion{Address: a, Optional: optional})
		return nil
	})
}

// KitDescribe changes what is said of a kit in the making. etag is the one the
// person saw. Picks are left as they are.
func (d *Desk) KitDescribe(
	ctx context.Context,
	p Person,
	name, version string,
	etag int,
	edit func(*making.Draft),
) (*KitInfo, error) {
	return d.change(ctx, p, name, version, etag, func(w *making.Draft) error {
		picks := w.Picks
		edit(w)
		w.Picks = picks
		return checkWords(w)
	})
}

// checkWords holds what a person says of a kit against what can be said.
func checkWords(w *making.Draft) error {
	if err := kit.CheckTexts(w.Title, w.Summary, w.Changes); err != nil {
		return problem(BadInput, "the kit", To(Shorten), "%s", err)
	}
	if !w.Face.IsZero() && !kit.CanBeFace(w.Face.Kind) {
		return problem(BadInput, "what shows the kit", Form("page/home, or a section, part or block"),
			"%s has no picture of its own", w.Face)
	}
	for n, f := range w.Fillins {
		if !slices.Contains(kit.FillinTypes, f.Type) || strings.TrimSpace(f.Label) == "" {
			return problem(BadInput, "fill-in "+n, oneOfFillinTypes(), "it needs a label and a known type")
		}
	}
	for _, m := range w.Marks {
		if _, err := m.Check(); err != nil {
			return problem(BadInput, "the mark in "+m.In.String(), Form("text:hut-name or href:tel:{phone}"), "%v",
				err)
		}
	}
	if w.Terms.Sites != nil && *w.Terms.Sites < 1 {
		return problem(BadInput, "the terms", Form("a number from 1; leave it out for any number"),
			"a kit cannot be for %d sites",
			*w.Terms.Sites)
	}
	for a, t := range w.Media {
		if at, err := item.ParseAddress(a); a != "*" && (err != nil || at.Kind != item.Media) {
			return problem(BadInput, "how pictures travel", Form("media/ridge.jpg, or * for all others"),
				"%q is not a picture", a)
		}
		if err := t.Check(); err != nil {
			return problem(BadInput, "how "+a+" travels", OneOf("carried", "lighter", "placeholder"), "%v", err)
		}
	}
	for n, r := range w.Kits {
		if err := errors.Join(kit.CheckName(n), solve.CheckRange(r)); err != nil {
			return problem(BadInput, "the needed kit "+n, Form("^1.2 or >=1.0 <3"), "%v", err)
		}
	}
	for n, c := range w.Components {
		if err := errors.Join(item.CheckKey(n), solve.CheckRange(c.Range)); err != nil {
			return problem(BadInput, "the needed component "+n, Form("^1.2 or >=1.0 <3"), "%v", err)
		}
	}
	for a := range w.Proposes {
		if at, err := item.ParseAddress(a); err != nil || at.Kind != item.Setting {
			return problem(BadInput, "the proposed setting", Form("setting/home"), "%q is not a setting", a)
		}
	}
	return nil
}
