package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/internal/store"
)

// DeliveryOpen opens a delivery of a sealed kit into a site, and plans it.
func (d *Desk) DeliveryOpen(
	ctx context.Context,
	p Person,
	kitName, version, site string,
	ask plan.Request,
) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery of %s@%s to %s", kitName, version, site)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	if subject, again := store.Repeated(ctx); again {
		var id int64
		if _, err := fmt.Sscanf(subject, "delivery %d", &id); err == nil {
			return d.Replan(ctx, p, id)
		}
	}
	v, err := d.kitVersion(ctx, kitName, version)
	if err != nil {
		return nil, err
	}
	if v.State != Sealed {
		return nil, problem(Refused, what, To(SealKit, "kit", kitName+"@"+version), "the kit is not sealed")
	}
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	ask = merge(plan.Request{Only: ask.Only, Pages: ask.Pages, Next: ask.Next, Menu: ask.Menu, Policy: ask.Policy,
		Seats: ask.Seats}, Answer{Decisions: ask.Decisions, Fills: ask.Fills})
	// Plan before anything is written: an ask that does not fit leaves no trace.
	if _, err := d.checkTrust(ctx, c, v, what); err != nil {
		return nil, err
	}
	result, err := d.plan(ctx, c, v, ask)
	if err != nil {
		return nil, explain(what, err)
	}
	made, err := planned(c, ask, result)
	if err != nil {
		return nil, explain(what, err)
	}
	row := store.Delivery{
		CollectionID: c.ID,
		KitVersionID: v.ID,
		State:        Opened,
		Ask:          made.Ask,
		BaseRev:      c.Revision,
		Etag:         1,
		ByUser:       p.Name,
		CreatedAt:    d.Now(),
		UpdatedAt:    d.Now(),
	}
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		row.ID = 0
		if err := tx.Deliveries().Create(&row); err != nil {
			return err
		}
		if err := tx.Deliveries().Plan(row.ID, row.Etag, made, d.Now()); err != nil {
			return err
		}
		if err := tx.NoteSubject(fmt.Sprintf("delivery %d", row.ID)); err != nil {
			return err
		}
		return d.audit(tx, p, "open-delivery", fmt.Sprint(row.ID), what)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*DeliveryInfo, error) { return d.Delivery(ctx, p, row.ID) })
}

func (d *Desk) plan(
	ctx context.Context,
	c *store.Collection,
	v *store.KitVersion,
	ask plan.Request,
) (*plan.Result, error) {
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	r, err := d.planOver(ctx, v, live, ask)
	if err != nil {
		return nil, err
	}
	list := &kit.PackingList{}
	if err := json.Unmarshal([]byte(v.List), list); err != nil {
		return nil, err
	}
	return r, d.planNotes(ctx, c, v, list, &r.Plan)
}

// planOver plans over any state of the site.
func (d *Desk) planOver(
	ctx context.Context,
	v *store.KitVersion,
	live *store.View,
	ask plan.Request,
) (*plan.Result, error) {
	list, parcel, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, err
	}
	return plan.Make(
		live,
		plan.Parcel{
			List:       list,
			Digest:     v.Digest,
			Collection: parcel,
			Blends:     d.blends,
			Shelf:      &shelf{d: d, ctx: ctx, kit: list.Kit, version: list.Version, site: live.Collection},
		},
		ask,
	)
}

// planNotes adds to a plan what the shelf and the site's trust say of the kit.
func (d *Desk) planNotes(
	ctx context.Context,
	c *store.Collection,
	v *store.KitVersion,
	list *kit.PackingList,
	p *plan.Plan,
) error {
	note, err := d.checkTrust(ctx, c, v, "kit "+list.Kit+"@"+list.Version)
	if err != nil {
		return err
	}
	if note != "" {
		p.Notes = append(p.Notes, note)
	}
	if len(list.Needs.Kits) == 0 { // components are among the plan's own needs
		return nil
	}
	choice, err := d.choose(ctx, c, list.Kit, list.Version)
	if err != nil {
		return err
	}
	for _, k := range choice.Kits {
		if !k.Here {
			p.Notes = append(
				p.Notes,
				fmt.Sprintf("It needs %s@%s, which fits this site: deliver that first.", k.Kit, k.Version),
			)
		}
	}
	for _, says := range choice.Chain {
		p.Notes = append(p.Notes, "These cannot all be met: "+says+".")
	}
	return nil
}

// Replan plans a delivery anew from the site as it is now.
func (d *Desk) Replan(ctx context.Context, p Person, id int64) (*DeliveryInfo, error) {
	return d.DeliveryDecide(ctx, p, id, 0, nil)
}

// Answer is what a person adds to a delivery. A nil map changes nothing; a
// decision without a word takes back what was decided, an empty fill the value.
type Answer struct {
	Decisions map[string]plan.Decided
	Fills     map[string]string
	Policy    plan.Policy
	Seats     plan.SeatOption
	// Only and Pages replace what was asked for, when they are not nil.
	Only  []item.Address
	Pages map[string]plan.PageRequest
}

// DeliveryDecide takes decisions and fill-ins, and plans anew. etag is the one the
// person saw, or 0. What does not fit is refused as a whole.
func (d *Desk) DeliveryDecide(ctx context.Context, p Person, id int64, etag int, a *Answer) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if etag != 0 && etag != info.Etag {
		return nil, problem(Stale, what, To(Redo), "somebody else has changed it since you read it")
	}
	if info.isStaged() {
		return d.restage(ctx, p, info, a)
	}
	if info.State != Opened && info.State != Planned {
		return nil, problem(Refused, what, nextStep(info.State, id), "it is %s; its plan is settled", info.State)
	}
	ask := info.Asked
	if a != nil {
		ask = merge(ask, *a)
	}
	result, err := d.plan(ctx, c, v, ask)
	if err != nil {
		return nil, explain(what, err)
	}
	made, err := planned(c, ask, result)
	if err != nil {
		return nil, explain(what, err)
	}
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		return tx.Deliveries().Plan(id, info.Etag, made, d.Now())
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*DeliveryInfo, error) {
		info, _, _, err := d.load(ctx, id)
		if err != nil {
			return nil, err
		}
		if info.PlanDigest == made.Digest {
			info.Planned = &result.Plan // as it was just written
		}
		return info, info.readPlan()
	})
}

// planned is a plan as it is kept. A decision is bound to what it decided, so that it
// outlives a new plan only as long as it means the same.
func planned(c *store.Collection, ask plan.Request, result *plan.Result) (store.DeliveryPlan, error) {
	for key, dec := range ask.Decisions {
		if about := result.Subjects[key]; about != "" && dec.SubjectDigest == "" {
			dec.SubjectDigest = about
			ask.Decisions[key] = dec
		}
	}
	askText, err := json.Marshal(ask)
	if err != nil {
		return store.DeliveryPlan{}, err
	}
	planText, err := json.Marshal(result.Plan)
	return store.DeliveryPlan{
		Ask: string(askText), Plan: string(planText), Digest: result.Plan.Digest(), Base: c.Revision,
	}, err
}

// nextStep is what can be done with a delivery in a state.
func nextStep(state store.DeliveryState, id int64) Remedy {
	delivery := fmt.Sprint(id)
	switch state {
	case Opened:
		return To(PlanFirst, "delivery", delivery)
	case Planned:
		return To(StageFirst, "delivery", delivery)
	case Staged:
		return To(GoLiveOrDiscard, "delivery", delivery)
	case Live:
		return To(UndoDelivered, "delivery", delivery)
	default:
		return To(OpenNewDelivery)
	}
}

func merge(ask plan.Request, a Answer) plan.Request {
	decisions, fills := map[string]plan.Decided{}, map[string]string{}
	for k, v := range ask.Decisions {
		decisions[k] = v
	}
	for k, v := range a.Decisions {
		if v.Decision == "" {
			delete(decisions, k)
			continue
		}
		decisions[k] = v
	}
	for k, v := range ask.Fills {
		fills[k] = v
	}
	for k, v := range a.Fills {
		if v == "" {
			delete(fills, k)
			continue
		}
		fills[k] = v
	}
	ask.Decisions, ask.Fills = decisions, fills
	if a.Policy != "" {
		ask.Policy = a.Policy
	}
	if a.Seats != "" {
		ask.Seats = a.Seats
	}
	if a.Only != nil {
		ask.Only = a.Only
	}
	if a.Pages != nil {
		ask.Pages = a.Pages
	}
	return ask
}
