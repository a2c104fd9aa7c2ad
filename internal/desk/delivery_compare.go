package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// Comparison are the texts of one item on all sides of a delivery; nil where a side has none,
// or none that is a text.
type Comparison struct {
	Address                  item.Address
	Base, Site, Kit, Becomes []byte
	BecomesAt                item.Address
	Conflicts                []blend.Conflict
}

// maxSide is the largest text that is shown of a side, in bytes.
const maxSide = 1 << 20

// DeliveryCompare gives the sides of one item of a delivery's kit, as it is planned.
func (d *Desk) DeliveryCompare(ctx context.Context, p Person, id int64, a item.Address) (*Comparison, error) {
	what := fmt.Sprintf("delivery %d, %s", id, a)
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if info.State == Live || info.State == Undone {
		return d.sidesAfter(ctx, c, info, a, what)
	}
	result, live, err := d.planned(ctx, c, v, info)
	if err != nil {
		return nil, explain(what, err)
	}
	row := rowOf(&result.Plan, a)
	if row == nil {
		return nil, problem(NotFound, what, To(ShowDelivery, "delivery", fmt.Sprint(id)), "it is not in the plan")
	}
	out := &Comparison{Address: a, Conflicts: row.Conflicts, BecomesAt: row.Becomes}
	if a.Kind == item.Media {
		return out, nil
	}
	text := shownText
	if row.Site != nil {
		if h, ok := live.Find(row.Site.Address); ok {
			b, err := item.Read(live, h)
			if err != nil {
				return nil, explain(what, err)
			}
			out.Site = text(b)
		}
	}
	came, err := live.Origins(info.Kit)
	if err != nil {
		return nil, explain(what, err)
	}
	for _, o := range came {
		if row.Base != "" && row.Site != nil && o.Item == row.Site.Address {
			b, err := live.BaselineContent(o)
			if err != nil {
				return nil, explain(what, err)
			}
			out.Base = text(b)
		}
	}
	for _, x := range append(append([]plan.PlannedWrite{}, result.Writes...), result.Kept...) {
		if x.KitAddress == a {
			out.Kit = text(x.BaselineContent)
		}
	}
	if out.Kit == nil && row.Kit != nil { // nothing of it comes: as the kit has it
		_, parcel, err := d.parcelView(ctx, v)
		if err != nil {
			return nil, explain(what, err)
		}
		if h, ok := parcel.Find(a); ok {
			b, err := item.Read(parcel, h)
			if err != nil {
				return nil, explain(what, err)
			}
			out.Kit = text(b)
		}
	}
	out.Becomes = out.Site
	for _, x := range result.Writes {
		if x.KitAddress == a {
			if out.Becomes = text(x.Content); x.Content == nil {
				out.Becomes = out.Kit
			}
		}
	}
	return out, nil
}

func rowOf(p *plan.Plan, a item.Address) *plan.Row {
	for i := range p.Rows {
		if p.Rows[i].Address == a {
			return &p.Rows[i]
		}
	}
	return nil
}

func shownText(b []byte) []byte {
	if len(b) > maxSide {
		return []byte(fmt.Sprintf("(%d bytes are too many to show)", len(b)))
	}
	return b
}

// sidesAfter gives the sides of an item of a delivery that went live: its plan was made
// for what was before, and is not made again.
func (d *Desk) sidesAfter(
	ctx context.Context,
	c *store.Collection,
	info *DeliveryInfo,
	a item.Address,
	what string,
) (*Comparison, error) {
	if err := info.readPlan(); err != nil {
		return nil, err
	}
	row := rowOf(info.Planned, a)
	if row == nil {
		return nil, problem(NotFound, what, To(ShowDelivery, "delivery", fmt.Sprint(info.ID)), "it is not in the plan")
	}
	out := &Comparison{Address: a, Conflicts: row.Conflicts, BecomesAt: row.Becomes}
	if a.Kind == item.Media {
		return out, nil
	}
	read := func(rev int64, at item.Address, into *[]byte) (string, error) {
		view, err := d.Store.At(ctx, c, rev)
		if err != nil {
			return "", err
		}
		h, ok := view.Find(at)
		if !ok {
			return "", nil
		}
		b, err := item.Read(view, h)
		*into = shownText(b)
		return h.ID, err
	}
	if row.Site != nil {
		if _, err := read(info.BaseRev, row.Site.Address, &out.Site); err != nil {
			return nil, explain(what, err)
		}
	}
	if !row.Becomes.IsZero() && info.LiveRev != nil {
		if _, err := read(*info.LiveRev, row.Becomes, &out.Becomes); err != nil {
			return nil, explain(what, err)
		}
	}
	view, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	origin := func(o store.Origin, into *[]byte) error {
		b, err := view.BaselineContent(plan.Origin{KitAddress: o.Address(), Doc: o.Doc, Bytes: o.Bytes})
		*into = shownText(b)
		return err
	}
	for _, o := range info.Receipted.Prior {
		if o.Address() == a && row.Base == o.Version {
			if err := origin(o, &out.Base); err != nil {
				return nil, explain(what, err)
			}
		}
	}
	var staged stagedDelivery
	if err := json.Unmarshal([]byte(info.Staged), &staged); err != nil {
		return nil, explain(what, err)
	}
	for _, o := range staged.Origins {
		if o.Address() == a {
			if err := origin(o.Origin, &out.Kit); err != nil {
				return nil, explain(what, err)
			}
		}
	}
	return out, nil
}

// planned plans a delivery that is not live yet over the state that its plan was made for.
func (d *Desk) planned(
	ctx context.Context,
	c *store.Collection,
	v *store.KitVersion,
	info *DeliveryInfo,
) (*plan.Result, *store.View, error) {
	live, err := d.Store.At(ctx, c, info.BaseRev)
	if err != nil {
		return nil, nil, err
	}
	result, err := d.planOver(ctx, v, live, info.Asked)
	return result, live, err
}

// DeliveryAsPlanned gives the site as a delivery's plan would leave it, or with base the
// site with its items as they were delivered; and the kit's values of the tokens that can
// be tried on. Whoever asks holds an address that cannot be guessed.
func (d *Desk) DeliveryAsPlanned(
	ctx context.Context,
	id int64,
	base bool,
) (item.Collection, map[string]string, error) {
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	if info.State == Live || info.State == Undone {
		rev := info.BaseRev
		if !base && info.LiveRev != nil {
			rev = *info.LiveRev
		}
		view, err := d.Store.At(ctx, c, rev)
		return view, nil, err
	}
	result, live, err := d.planned(ctx, c, v, info)
	if err != nil {
		return nil, nil, err
	}
	if base {
		over := item.NewOver(live)
		came, err := live.Origins(info.Kit)
		if err != nil {
			return nil, nil, err
		}
		for _, o := range came {
			h, ok := live.Find(o.Item)
			b, err := live.BaselineContent(o)
			if !ok || err != nil || b == nil || h.Address.Kind == item.Media {
				continue
			}
			over.Set(h, b)
		}
		return over, nil, nil
	}
	over, err := d.overPlan(ctx, v, live, result)
	if err != nil {
		return nil, nil, err
	}
	tries := map[string]string{}
	for _, t := range result.Plan.Tokens {
		tries[t.Property] = t.Kit
	}
	return over, tries, nil
}

// overPlan lays what a plan would write over the site.
func (d *Desk) overPlan(
	ctx context.Context,
	v *store.KitVersion,
	live *store.View,
	result *plan.Result,
) (*item.Over, error) {
	_, parcel, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, err
	}
	return plan.After(live, parcel, result)
}
