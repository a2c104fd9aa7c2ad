package desk

import (
	"context"
	"fmt"
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/plan"
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
