package desk

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sort"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// DeliveryStage writes a delivery's draft. planDigest is the plan the person
// looked at, or empty; another plan means the site or the answers have changed.
func (d *Desk) DeliveryStage(ctx context.Context, p Person, id int64, planDigest item.Digest) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if info.State == Staged {
		return info, nil
	}
	if info.State != Planned {
		return nil, problem(Refused, what, nextStep(info.State, id), "it is %s", info.State)
	}
	result, err := d.plan(ctx, c, v, info.Asked)
	if err != nil {
		return nil, explain(what, err)
	}
	if got := result.Plan.Digest(); got != info.PlanDigest || planDigest != "" && planDigest != got {
		return nil, problem(Stale, what, To(PlanAgain, "delivery", fmt.Sprint(id)),
			"the site has changed since the plan was made")
	}
	if n := len(result.Plan.Questions); n > 0 {
		pr := problem(Waits, what, To(AnswerQuestions, "delivery", fmt.Sprint(id)), "%s", areOpen(n))
		pr.Details = result.Plan.Questions
		return nil, pr
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, explain(what, err)
	}
	changes, err := d.changesOf(ctx, live, result)
	if err != nil {
		return nil, explain(what, err)
	}
	laid := live.Laid(changes)
	if err := d.checkUntouched(live, laid, result.Plan.Touched); err != nil {
		return nil, explain(what, err)
	}
	writes, err := d.stagedOf(ctx, p, info, result)
	if err != nil {
		return nil, explain(what, err)
	}
	writes.Wrote = wrote(changes)
	did, err := d.stage(ctx, p, info, live, changes, result.Preconditions, writes)
	if err != nil {
		return nil, explain(what, err)
	}
	return after(did, func() (*DeliveryInfo, error) { return d.Delivery(ctx, p, id) })
}

// stage writes the draft of a delivery over the state that it was planned over.
func (d *Desk) stage(
	ctx context.Context, p Person, info *DeliveryInfo, live *store.View, changes []store.Change,
	relies []plan.Precondition, writes stagedDelivery,
) (did committed, err error) {
	what := fmt.Sprintf("delivery %d", info.ID)
	staged, err := json.Marshal(writes)
	if err != nil {
		return did, err
	}
	bases := map[string]item.Digest{}
	for _, ch := range changes {
		if h, ok := live.ByID(ch.Head.ID); ok {
			bases[h.ID] = h.State()
		}
	}
	var preconditions []store.DraftPrecondition
	for _, pr := range relies {
		preconditions = append(preconditions,
			store.DraftPrecondition{Kind: pr.Address.Kind, Key: pr.Address.Key, State: pr.State})
	}
	return d.commit(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(info.CollectionID)
		if err != nil {
			return err
		}
		if locked.Revision != live.Rev {
			return problem(Stale, what, To(PlanAgain, "delivery", fmt.Sprint(info.ID)),
				"the site went live with something else at the same time")
		}
		name := fmt.Sprintf("%s@%s (delivery %d)", info.Kit, info.Version, info.ID)
		dr, err := tx.NewDraft(locked, name, p.Name, d.Now())
		if err != nil {
			return err
		}
		if err := tx.FillDraft(dr, changes, bases, preconditions); err != nil {
			return err
		}
		step := steps.Step{Kind: steps.Delivery, By: p.Name, Edits: editsOf(live, changes)}
		if _, err := tx.AppendStep(dr, step, name, d.Now()); err != nil {
			return err
		}
		if err := tx.Deliveries().Stage(info.ID, info.Etag, dr.ID, live.Rev, string(staged), d.Now()); err != nil {
			return err
		}
		return d.audit(tx, p, "stage", what, "")
	})
}

// editsOf are changes of the live site as a step notes them.
func editsOf(live *store.View, changes []store.Change) []steps.Edit {
	out := make([]steps.Edit, len(changes))
	for i, ch := range changes {
		out[i].Item = ch.Head.ID
		if had, ok := live.ByID(ch.Head.ID); ok {
			out[i].Before = steps.StateOf(had)
		}
		if !ch.Delete {
			out[i].After = steps.StateOf(ch.Head)
		}
	}
	return out
}

// stagedDelivery is what a delivery writes beside its draft when it goes live.
type stagedDelivery struct {
	Origins []stagedOrigin
	Receipt *Receipt
	// Wrote is what the delivery alone comes to, by item; nil where an item goes.
	Wrote map[string]*steps.State
}

// wrote are changes as states by item.
func wrote(changes []store.Change) map[string]*steps.State {
	out := map[string]*steps.State{}
	for _, ch := range changes {
		if out[ch.Head.ID] = nil; !ch.Delete {
			out[ch.Head.ID] = steps.StateOf(ch.Head)
		}
	}
	return out
}

// stagedOrigin is an origin of what will be at an address.
type stagedOrigin struct {
	At item.Address
	store.Origin
}

func (d *Desk) stagedOf(
	ctx context.Context,
	p Person,
	info *DeliveryInfo,
	r *plan.Result,
) (out stagedDelivery, err error) {
	if out.Receipt, err = d.receipt(ctx, p, info, r); err != nil {
		return out, err
	}
	out.Origins = originsOf(r, info.Kit, info.Version)
	return out, nil
}

// originsOf says where the items came from that a plan writes or keeps.
func originsOf(r *plan.Result, kit, version string) (out []stagedOrigin) {
	own := map[item.Address]bool{}
	for _, row := range r.Plan.Rows {
		// What the site keeps as its own did not come from the kit.
		own[row.Address] = row.Standing == plan.Taken && row.Decision == plan.Keep
	}
	for _, x := range append(append([]plan.PlannedWrite{}, r.Writes...), r.Kept...) {
		if !x.KitAddress.IsZero() && !own[x.KitAddress] {
			at := x.Head.Address
			out = append(out, stagedOrigin{at, store.NewOrigin(kit, version, x)})
		}
	}
	return out
}

// changesOf turns what a plan writes into changes of the site's items, and keeps the
// contents, those too that later deliveries are held against.
func (d *Desk) changesOf(ctx context.Context, live *store.View, r *plan.Result) ([]store.Change, error) {
	batch := d.Store.NewBatch(ctx, d.Now())
	var changes []store.Change
	put := func(h item.Head, content []byte) error {
		if old, ok := live.Find(h.Address); ok {
			h.ID = old.ID
		} else {
			h.ID = store.NewID()
		}
		if content != nil {
			f := facts.Extract(h.Address.Kind, h.Meta.Context, content)
			var err error
			if h, err = batch.Text(h, content, f); err != nil {
				return err
			}
		}
		changes = append(changes, store.Change{Head: h})
		return nil
	}
	for _, x := range r.Writes {
		if err := put(x.Head, x.Content); err != nil {
			return nil, err
		}
	}
	for _, x := range append(append([]plan.PlannedWrite{}, r.Writes...), r.Kept...) {
		if x.BaselineContent != nil {
			if err := batch.Bare(x.KitAddress.Kind, x.BaselineContent); err != nil {
				return nil, err
			}
		}
	}
	for _, h := range r.Deletions {
		changes = append(changes, store.Change{Delete: true, Head: h})
	}
	if len(r.Plan.StyleOrder) > 0 {
		b, _ := json.Marshal(r.Plan.StyleOrder)
		h := item.Head{Address: item.StyleOrder}
		if old, ok := live.Find(item.StyleOrder); ok {
			h = old
		}
		if err := put(h, b); err != nil {
			return nil, err
		}
	}
	return changes, batch.Flush()
}

// checkUntouched renders every page that the plan does not name before and after,
// also those that no page item stands for: the bytes must be the same.
func (d *Desk) checkUntouched(before, after *store.View, touched []plan.TouchedPage) error {
	named := map[string]bool{}
	for _, t := range touched {
		named[t.Slug] = true
	}
	was, will := render.New(before), render.New(after)
	var slugs []string
	for slug := range was.Pages() {
		slugs = append(slugs, slug)
	}
	made, err := was.GeneratedPages()
	if err != nil {
		return err
	}
	for _, m := range made {
		slugs = append(slugs, m.Slug)
	}
	sort.Strings(slugs)
	for _, slug := range slugs {
		if named[slug] {
			continue
		}
		a, err := was.Page(render.PageRequest{Slug: slug})
		var failed *item.ReadError
		if errors.As(err, &failed) {
			return err
		}
		if err != nil {
			continue // broken before; not ours to judge
		}
		b, err := will.Page(render.PageRequest{Slug: slug})
		if err != nil {
			return fmt.Errorf("rendering %s with the delivery: %w", slug, err)
		}
		if !bytes.Equal(a.Body, b.Body) || a.Status != b.Status {
			return problem(Refused, slug, To(Report), "the page would change, and the plan does not name it")
		}
	}
	return nil
}
