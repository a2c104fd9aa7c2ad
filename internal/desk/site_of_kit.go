package desk

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"compactparcel/core/edit"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// siteOfKit makes a site of a kit and of the kits that it needs, which the solver chooses: all of them
// are delivered, those that others need first, or there is no site.
func (d *Desk) siteOfKit(ctx context.Context, p Person, in NewSite, title string) (*SiteInfo, error) {
	what := "site " + in.Name
	if _, err := d.sealed(ctx, p, in.Kit, in.Version); err != nil {
		return nil, err
	}
	var out *SiteInfo
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		ctx := store.Unkeyed(tx.Context())
		_, err := d.makeSite(ctx, p, in.Name, title, "made of "+in.Kit+"@"+in.Version,
			func(*store.Tx) ([]store.Change, []store.Origin, error) { return nil, nil, nil })
		if err != nil {
			return err
		}
		c, err := d.site(ctx, in.Name)
		if err != nil {
			return err
		}
		kits, err := d.kitsFor(ctx, c, in.Kit, in.Version)
		if err != nil {
			return err
		}
		for _, k := range kits {
			ask := plan.Request{Policy: in.Answers.Policy, Seats: in.Answers.Seats}
			if k.Kit == in.Kit {
				ask = in.Answers
			}
			if err := d.deliverWhole(ctx, p, k, in.Name, ask); err != nil {
				return err
			}
		}
		if c, err = d.withHome(tx, p, c, title); err != nil {
			return err
		}
		out, err = d.siteInfo(ctx, c)
		return err
	})
	return outcome(out, explain(what, err))
}

// withHome gives a site a home page, if no kit brought one, and a language.
func (d *Desk) withHome(tx *store.Tx, p Person, c *store.Collection, title string) (*store.Collection, error) {
	ctx := tx.Context()
	locked, err := tx.Collections().Lock(c.ID)
	if err != nil {
		return nil, err
	}
	view, err := d.Store.Live(ctx, locked)
	if err != nil {
		return nil, err
	}
	var list []edit.Operation
	if _, there := render.New(view).PageAt("/"); !there {
		list = append(list, edit.Operation{Op: edit.PageNew, Page: "/", Value: title})
	}
	if _, there := view.Find(languageSetting); !there {
		list = append(list, edit.Operation{Op: edit.Set, Item: languageSetting, Value: "en"})
	}
	if len(list) == 0 {
		return locked, nil
	}
	a, err := edit.Apply(view, list)
	if err != nil {
		return nil, err
	}
	var changes []store.Change
	for _, ch := range a.Changes {
		h := ch.Head
		h.ID = store.NewID()
		if h, err = d.keepOne(ctx, h, ch.Content); err != nil {
			return nil, err
		}
		changes = append(changes, store.Change{Head: h})
	}
	_, err = tx.Write(locked, changes, store.Note{By: p.Name, Act: "adopt", Message: strings.Join(a.Says, "; "),
		At: d.Now()})
	return locked, err
}

// kitsFor gives a kit and those that it needs and the site has not, the needed ones first.
func (d *Desk) kitsFor(ctx context.Context, c *store.Collection, name, version string) ([]ChosenKit, error) {
	choice, err := d.choose(ctx, c, name, version)
	if err != nil {
		return nil, err
	}
	// Where nothing holds together, for want of a component perhaps, the plan asks what is to be done.
	needs := map[string]map[string]string{}
	versions := map[string]string{name: version}
	for _, k := range choice.Kits {
		if !k.Here {
			versions[k.Kit] = k.Version
		}
	}
	for k, v := range versions {
		row, err := d.kitVersion(ctx, k, v)
		if err != nil {
			return nil, err
		}
		list, _, err := d.parcelView(ctx, row)
		if err != nil {
			return nil, err
		}
		needs[k] = list.Needs.Kits
	}
	var out []ChosenKit
	seen := map[string]bool{}
	var visit func(k string)
	visit = func(k string) {
		if seen[k] || versions[k] == "" {
			return
		}
		seen[k] = true
		for _, n := range slices.Sorted(maps.Keys(needs[k])) {
			visit(n)
		}
		out = append(out, ChosenKit{Kit: k, Version: versions[k]})
	}
	visit(name)
	return out, nil
}

// deliverWhole delivers a kit and puts it live at once, within a transaction. Open questions are a
// problem.
func (d *Desk) deliverWhole(ctx context.Context, p Person, k ChosenKit, site string, ask plan.Request) error {
	what := fmt.Sprintf("%s@%s into %s", k.Kit, k.Version, site)
	info, err := d.DeliveryOpen(ctx, p, k.Kit, k.Version, site, ask)
	if err != nil {
		return err
	}
	if n := len(info.Planned.Questions); n > 0 {
		pr := problem(Waits, what, To(AnswerHere), "%s", areOpen(n))
		pr.Details = info.Planned.Questions
		return pr
	}
	if _, err := d.DeliveryStage(ctx, p, info.ID, ""); err != nil {
		return err
	}
	_, err = d.DeliveryGoLive(ctx, p, info.ID, nil)
	return err
}
