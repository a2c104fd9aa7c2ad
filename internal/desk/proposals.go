package desk

import (
	"context"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/repeat"
	"compactparcel/internal/store"

	"gorm.io/gorm"
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

// Took is what accepting proposals put into a draft.
type Took struct {
	Draft *store.Draft
	Took  []item.Address
	Notes []repeat.Note
	Items int
}

// AcceptProposals puts accepted proposals into a draft: those named, and all sure
// ones when sure is set. No page of the draft looks other than it did.
func (d *Desk) AcceptProposals(ctx context.Context, p Person, site string, draft int64, named []item.Address, sure bool) (*Took, error) {
	what := "site " + site
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	v, err := d.Look(ctx, p, site, draft)
	if err != nil {
		return nil, err
	}
	if v.Draft != nil && v.Draft.State != store.DraftOpen {
		return nil, problem(Refused, what, "make a new draft", "draft %d is %s", draft, v.Draft.State)
	}
	done, err := repeat.Accept(v, named, sure)
	if err != nil {
		return nil, &Problem{Type: BadInput, What: what, Says: err.Error(), WayOut: "look at the proposals again; nothing was changed", Err: err}
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
	out.Draft, err = d.intoDraft(ctx, p, site, v.Draft, fmt.Sprintf("%d proposals", len(done.Took)), changes)
	return out, explain(what, err)
}

// intoDraft lays changes into a draft, a new one when there is none.
func (d *Desk) intoDraft(ctx context.Context, p Person, site string, draft *store.Draft, name string, changes []store.Change) (*store.Draft, error) {
	c, err := d.site(ctx, site)
	if err != nil {
		return nil, err
	}
	live, err := d.Store.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		if draft == nil {
			if draft, err = d.Store.NewDraft(tx, c, name, p.Name, d.Now()); err != nil {
				return err
			}
		}
		for _, ch := range changes {
			base := item.Digest("")
			if l, ok := live.ByID(ch.Head.ID); ok {
				base = l.State()
			}
			if err := d.Store.PutDraftItem(tx, draft, ch, base); err != nil {
				return err
			}
		}
		return nil
	})
	return draft, err
}
