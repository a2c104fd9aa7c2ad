package desk

import (
	"context"
	"fmt"
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// Difference is one item that two revisions have otherwise. A zero address is an item that one of them
// has not.
type Difference struct {
	Before, After item.Address
}

// revision gives the state of a site at one of its revisions; 0 is the newest.
func (d *Desk) revision(ctx context.Context, p Person, site string, rev int64) (*store.View, error) {
	what := fmt.Sprintf("revision %d of %s", rev, site)
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	if rev == 0 {
		rev = c.Revision
	}
	if rev < 0 || rev > c.Revision {
		return nil, problem(NotFound, what, To(ShowItems, "site", site), "%s has revisions up to %d", site, c.Revision)
	}
	v, err := d.Store.At(ctx, c, rev)
	return v, explain(what, err)
}

// ItemAt gives one item as a revision has it.
func (d *Desk) ItemAt(ctx context.Context, p Person, site string, a item.Address, rev int64) (*ItemInfo, error) {
	v, err := d.revision(ctx, p, site, rev)
	if err != nil {
		return nil, err
	}
	return itemOf(v, fmt.Sprintf("revision %d of %s", v.Rev, site), a)
}

// Compare lists what differs between two revisions, by address, and the pages that show it, in either; 0 is the
// newest.
func (d *Desk) Compare(ctx context.Context, p Person, site string, from, to int64) (
	[]Difference, []plan.TouchedPage, error,
) {
	before, err := d.revision(ctx, p, site, from)
	if err != nil {
		return nil, nil, err
	}
	after, err := d.revision(ctx, p, site, to)
	if err != nil {
		return nil, nil, err
	}
	out := []Difference{}
	var was, is []item.Head
	for _, h := range before.Heads() {
		now, there := after.ByID(h.ID)
		if there && now.State() == h.State() {
			continue
		}
		out, was = append(out, Difference{h.Address, now.Address}), append(was, h)
		if there {
			is = append(is, now)
		}
	}
	for _, h := range after.Heads() {
		if _, there := before.ByID(h.ID); !there {
			out, is = append(out, Difference{After: h.Address}), append(is, h)
		}
	}
	touched, err := plan.PagesTouched(after, is)
	if err != nil {
		return nil, nil, explain(site, err)
	}
	gone, err := plan.PagesTouched(before, was)
	if err != nil {
		return nil, nil, explain(site, err)
	}
	for _, t := range gone {
		if !slices.ContainsFunc(touched, func(o plan.TouchedPage) bool { return o.Slug == t.Slug }) {
			touched = append(touched, t)
		}
	}
	return out, touched, nil
}

// BringBack makes items of a site as a revision had them, in a draft: those that are named, or all;
// what was added since goes then. All else stays as it is.
func (d *Desk) BringBack(
	ctx context.Context, p Person, site string, rev int64, items []item.Address, draft int64,
) (*EditsDone, error) {
	what := fmt.Sprintf("revision %d of %s", rev, site)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	then, err := d.revision(ctx, p, site, rev)
	if err != nil {
		return nil, err
	}
	out := &EditsDone{}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		ctx := tx.Context()
		*out = EditsDone{}
		on, err := d.editing(tx, then.Collection.ID, p, Edit{Site: site, Draft: draft})
		if err != nil {
			return err
		}
		if out.Draft = on.draft; on.again {
			return nil
		}
		list, err := becomingAsThen(then, on.view, items)
		if err != nil {
			return err
		}
		changes, err := d.becoming(ctx, on.view, list)
		if err != nil || len(changes) == 0 {
			return err
		}
		for _, ch := range changes {
			out.Items = append(out.Items, EditedItem{Head: ch.Head})
		}
		says := fmt.Sprintf("brought back revision %d", rev)
		out.Says = []string{says}
		out.Step, err = on.lay(steps.Step{Kind: steps.Do, By: p.Name}, says, d.Now(), changes)
		return err
	})
	return done(out, explain(what, err))
}

// becomingAsThen lists what items come to be as a revision had them.
func becomingAsThen(then, view *store.View, items []item.Address) (out []steps.Becoming, err error) {
	add := func(id string) {
		var was, now *steps.State
		if h, ok := then.ByID(id); ok {
			was = steps.StateOf(h)
		}
		if h, ok := view.ByID(id); ok {
			now = steps.StateOf(h)
		}
		if !was.Is(now) {
			out = append(out, steps.Becoming{Item: id, State: was})
		}
	}
	if len(items) == 0 {
		for _, h := range view.Heads() {
			if _, had := then.ByID(h.ID); !had {
				add(h.ID) // first what goes, which may stand in the way
			}
		}
		for _, h := range then.Heads() {
			add(h.ID)
		}
		return out, nil
	}
	for _, a := range items {
		was, had := then.Find(a)
		now, has := view.Find(a)
		switch {
		case had:
			add(was.ID)
		case has:
			add(now.ID)
		default:
			return nil, problem(NotFound, a.String(), To(ShowItems, "site", then.Collection.Name),
				"neither that revision nor the site has it")
		}
	}
	return out, nil
}
