package desk

import (
	"context"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/repeat"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// Proposals says what repeats on a site, or on a draft of it.
func (d *Desk) Proposals(ctx context.Context, p Person, site string, draft int64) ([]repeat.Proposal, error) {
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	list, err := repeat.Find(v)
	return list, explain("site "+site, err)
}

// Copies lists the copies of sections in the pages of a site, or of a draft of it, that are still alike.
func (d *Desk) Copies(ctx context.Context, p Person, site string, draft int64) ([]repeat.Copy, error) {
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	list, err := repeat.Copies(v)
	return list, explain("site "+site, err)
}

// Took is what accepting proposals put into a draft.
type Took struct {
	Draft *store.Draft
	Took  []item.Address
	Notes []repeat.Note
	Items int
}

// AcceptProposals puts accepted proposals into a draft: those named, and all sure
// ones when sure is set. No page of the draft looks other than it did.
func (d *Desk) AcceptProposals(
	ctx context.Context,
	p Person,
	site string,
	draft int64,
	named []item.Address,
	sure bool,
) (*Took, error) {
	what := "site " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	if v.Draft != nil && v.Draft.State != store.DraftOpen {
		return nil, problem(Refused, what, To(MakeDraft), "draft %d is %s", draft, v.Draft.State)
	}
	done, err := repeat.Accept(v, named, sure)
	if err != nil {
		return nil, blame(&Problem{Type: BadInput, What: what, Message: err.Error(), Remedy: To(Redo), Err: err})
	}
	out := &Took{Draft: v.Draft, Took: done.Took, Notes: done.Notes, Items: len(done.Items)}
	if len(done.Took) == 0 {
		return out, nil
	}
	var changes []store.Change
	heads, err := d.keepAll(ctx, done.Items)
	if err != nil {
		return nil, explain(what, err)
	}
	for _, h := range heads {
		if h.ID == "" {
			h.ID = store.NewID()
		}
		changes = append(changes, store.Change{Head: h})
	}
	out.Draft, err = d.intoDraft(ctx, p, v, fmt.Sprintf("%d proposals", len(done.Took)), changes)
	return out, explain(what, err)
}

// intoDraft lays changes that were worked out from a state into its draft, into a new one
// when it is the live state. Site and draft must be as they were then.
func (d *Desk) intoDraft(
	ctx context.Context,
	p Person,
	from *store.View,
	name string,
	changes []store.Change,
) (*store.Draft, error) {
	draft := from.Draft
	err := d.Store.Tx(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(from.Collection.ID)
		if err != nil {
			return err
		}
		late := problem(Stale, "site "+locked.Name, To(Redo),
			"somebody else has changed it in the meantime; nothing was written")
		if locked.Revision != from.Rev {
			return late
		}
		live, err := d.Store.Live(tx.Context(), locked)
		if err != nil {
			return err
		}
		if from.Draft == nil {
			if draft, err = tx.NewDraft(locked, name, p.Name, d.Now()); err != nil {
				return err
			}
		} else if draft, err = tx.LockDraft(from.Draft.ID); err != nil {
			return err
		} else if draft.Version != from.Draft.Version {
			return late
		}
		view, err := d.Store.Over(tx.Context(), locked, draft)
		if err != nil {
			return err
		}
		_, err = tx.Lay(draft, live, view, steps.Step{Kind: steps.Do, By: p.Name}, name, d.Now(), changes)
		return err
	})
	return draft, err
}
