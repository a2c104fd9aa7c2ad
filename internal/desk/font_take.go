package desk

import (
	"context"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/font"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/store"
)

// TakeFont brings a family of the library or a kit into a site, with all its faces; or its pair, which are all the
// families that its tokens say, for the tokens of the site by the same paths. One step.
func (d *Desk) TakeFont(
	ctx context.Context, p Person, site string, draft int64, from, family, token string, pair bool,
) (*EditsDone, error) {
	what := "the font " + family
	if pair {
		what = "the fonts of " + from
	}
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if pair == (family != "") {
		return nil, problem(BadInput, what, To(CheckOptions), "say a family, or that the pair comes")
	}
	src := FontSource{}
	var files item.Collection
	if from != "" {
		if err := d.trustedSource(ctx, p, site, from, what); err != nil {
			return nil, err
		}
		s, err := d.source(ctx, p, from)
		if err != nil {
			return nil, err
		}
		files = s.Items
		if src, err = fontsOf(from, files); err != nil {
			return nil, explain(from, err)
		}
	}
	return d.step(ctx, p, site, draft, func(ctx context.Context, view *store.View) (string, []store.Change, error) {
		if from == "" {
			var err error
			if src, err = fontsOf("", view); err != nil {
				return "", nil, err
			}
			files = view
		}
		if pair {
			return d.takePair(ctx, view, src, files)
		}
		changes, rules, err := d.takeFaces(view, src, files, family)
		if err != nil {
			return "", nil, err
		}
		if rules == nil && from != "" {
			return "", nil, problem(NotFound, what, To(ShowItems, "site", from), "%s defines no such font", from)
		}
		more, err := d.withFaces(ctx, view.Laid(changes), what, family, rules, token)
		return "took the font " + family, append(changes, more...), err
	})
}

// trustedSource tells why nothing of a source may come to a site: of a kit, that the site wants signatures which it
// does not have.
func (d *Desk) trustedSource(ctx context.Context, p Person, site, from, what string) error {
	of, isKit := strings.CutPrefix(from, fromKit)
	if !isKit {
		return nil
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return err
	}
	name, version, err := kit.ParseName(of)
	if err != nil {
		return problem(BadInput, of, Form("hut-basics@0.1.0"), "%v", err)
	}
	v, err := d.sealed(ctx, p, name, version)
	if err != nil {
		return err
	}
	_, err = d.checkTrust(ctx, c, v, what)
	return err
}

// takePair says the families of a source by the tokens of the site that have the same paths.
func (d *Desk) takePair(ctx context.Context, view *store.View, src FontSource, files item.Collection) (
	string, []store.Change, error,
) {
	own, err := font.Chosen(view)
	if err != nil {
		return "", nil, err
	}
	var ops []edit.Operation
	var rules []string
	var changes []store.Change
	for _, c := range src.Chosen {
		if !slices.ContainsFunc(own, func(o font.Choice) bool { return o.Path == c.Path && o.CSS != c.CSS }) {
			continue
		}
		ops = append(ops, edit.Operation{Op: edit.Token, Property: c.Path, Value: string(c.Value)})
		for _, f := range src.Families {
			if !slices.Contains(font.Names(c.CSS), f.Name) {
				continue
			}
			more, list, err := d.takeFaces(view, src, files, f.Name)
			if err != nil {
				return "", nil, err
			}
			changes, rules = append(changes, more...), append(rules, list...)
		}
	}
	if len(ops) == 0 {
		return "", nil, problem(Refused, "the fonts of "+src.From, To(CheckOptions),
			"the site has no such fonts to choose, or says the same already")
	}
	more, err := d.fontEdits(ctx, view.Laid(changes), rules, ops)
	return "took the fonts of " + src.From, append(changes, more...), err
}

// takeFaces copies the files of a family's faces to a site, and gives its rules as the site needs them.
func (d *Desk) takeFaces(view *store.View, src FontSource, files item.Collection, family string) (
	changes []store.Change, rules []string, err error,
) {
	i := slices.IndexFunc(src.Families, func(f font.Family) bool { return f.Name == family })
	if i < 0 || src.From == "" {
		return nil, nil, nil
	}
	come := map[item.Address]bool{} // two faces may share a file
	for _, f := range src.Families[i].Faces {
		moved := map[item.Address]item.Address{}
		for _, a := range f.Files {
			h, there := files.Find(a)
			if !there {
				continue // as it was missing there
			}
			at := freeFor(view, a, h.Doc)
			moved[a] = at
			if _, has := view.Find(at); !has && !come[at] {
				come[at] = true
				changes = append(changes, store.Change{Head: item.Head{ID: store.NewID(), Address: at, Meta: h.Meta,
					Doc: h.Doc, Bytes: h.Bytes, NormalizedDigest: h.NormalizedDigest}})
			}
		}
		rule, err := f.With(moved)
		if err != nil {
			return nil, nil, err
		}
		rules = append(rules, rule)
	}
	return changes, rules, nil
}
