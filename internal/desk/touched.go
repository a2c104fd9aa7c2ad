package desk

import (
	"context"
	"fmt"
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// Touched says which pages a draft or delivery may change, and some of those that it must not.
type Touched struct {
	Site string
	// Draft is the draft in which it stands; nil where it stands in none any more.
	Draft *store.Draft
	State store.DeliveryState // of a delivery
	Pages []string            // by their addresses on the site
	// Others are pages that should be the same, at most maxOthers.
	Others []string
}

// maxOthers is how many pages are held against each other beside those that are touched.
const maxOthers = 100

// DraftTouched says which pages an open draft touches.
func (d *Desk) DraftTouched(ctx context.Context, p Person, site string, id int64) (*Touched, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	dr, err := d.draftOf(ctx, site, id)
	if err != nil {
		return nil, err
	}
	if dr.State != store.DraftOpen {
		return nil, problem(Refused, what, To(ShowDrafts), "it is not open any more: %s", dr.State)
	}
	c, err := d.Store.Read(ctx).Collections().ByID(dr.CollectionID)
	if err != nil {
		return nil, explain(what, err)
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	over, err := d.Store.Over(ctx, c, dr)
	if err != nil {
		return nil, explain(what, err)
	}
	rows, err := d.Store.DraftItems(ctx, dr)
	if err != nil {
		return nil, explain(what, err)
	}
	var was, is []item.Head
	for _, r := range rows {
		if h, there := live.ByID(r.ItemID); there {
			was = append(was, h)
		}
		if r.Op != store.Delete {
			is = append(is, r.Head())
		}
	}
	out := &Touched{Site: site, Draft: dr}
	for _, side := range []struct {
		view  *store.View
		heads []item.Head
	}{{live, was}, {over, is}} {
		pages, err := plan.PagesTouched(side.view, side.heads)
		if err != nil {
			return nil, explain(what, err)
		}
		for _, t := range pages {
			out.Pages = append(out.Pages, t.Slug)
		}
	}
	out.tidy(live)
	return out, nil
}

// tidy puts the pages into their order, each once, and finds some others.
func (t *Touched) tidy(live *store.View) {
	slices.Sort(t.Pages)
	t.Pages = slices.Compact(slices.DeleteFunc(t.Pages, func(s string) bool { return s == "" }))
	for slug := range render.New(live).Pages() {
		if _, touched := slices.BinarySearch(t.Pages, slug); !touched {
			t.Others = append(t.Others, slug)
		}
	}
	slices.Sort(t.Others)
	t.Others = t.Others[:min(len(t.Others), maxOthers)]
}

// DeliveryTouched says which pages a delivery touches, as it was planned or done.
func (d *Desk) DeliveryTouched(ctx context.Context, p Person, id int64) (*Touched, error) {
	what := fmt.Sprintf("delivery %d", id)
	info, err := d.Delivery(ctx, p, id)
	if err != nil {
		return nil, err
	}
	if info.State == store.Staged && info.DraftID != nil {
		return d.DraftTouched(ctx, p, info.Site, *info.DraftID)
	}
	out := &Touched{Site: info.Site, State: info.State}
	var list []plan.TouchedPage
	switch {
	case info.Receipted != nil:
		list = info.Receipted.Touched
	case info.Planned != nil:
		list = info.Planned.Touched
	default:
		return nil, problem(Refused, what, To(PlanAgain), "it is not planned yet")
	}
	for _, x := range list {
		out.Pages = append(out.Pages, x.Slug)
	}
	c, err := d.site(ctx, info.Site)
	if err != nil {
		return nil, err
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	out.tidy(live)
	return out, nil
}

// KeepPictures keeps pictures with a delivery that has not gone live since they were asked for: else the page that came
// would be what was before, and nothing what is after.
func (d *Desk) KeepPictures(ctx context.Context, p Person, id int64, list []store.DeliveryPicture) error {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Viewer, what); err != nil {
		return err
	}
	return explain(what, d.Store.Tx(ctx, func(tx *store.Tx) error {
		row, err := tx.Deliveries().Lock(id)
		if err != nil || row.State == store.Live || row.State == store.Undone {
			return err
		}
		return tx.Pictures().Keep(list)
	}))
}

// MayLook tells why somebody cannot look at pictures; nil when they can.
func (d *Desk) MayLook(p Person) error { return p.may(Viewer, "pictures") }
