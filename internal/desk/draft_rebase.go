package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/says"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// Side says whose an item, or a place of it, is where draft and live site changed the same.
type Side string

// The sides.
const (
	OfDraft Side = "draft"
	OfLive  Side = "live"
)

// Behind is an item that a draft and the live site both changed, and that does not merge by itself.
type Behind struct {
	Address item.Address
	Why     string
	// Conflicts are the places; none where it is the item as a whole. Site is the draft's side, Kit
	// the live site's.
	Conflicts []blend.Conflict
}

// Key names a conflict in the decisions about a draft that is behind; a whole item is named by its
// address.
func (b Behind) Key(c blend.Conflict) string { return b.Address.String() + "#" + c.Key }

// Rebased is what bringing a draft up to date did.
type Rebased struct {
	Draft  *store.Draft
	Step   int // 0 where nothing changed
	Merged []item.Address
	Behind []Behind
}

// DraftRebase brings what went live into a draft. What both changed is merged where it can be; the rest
// is told, and decided by its keys.
func (d *Desk) DraftRebase(
	ctx context.Context, p Person, site string, id int64, decisions map[string]Side,
) (*Rebased, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	for key, side := range decisions {
		if side != OfDraft && side != OfLive {
			return nil, problem(BadInput, what, OneOf(OfDraft, OfLive), "%s cannot be decided for %q", key, side)
		}
	}
	var out *Rebased
	err := d.inDraft(ctx, site, id, func(tx *store.Tx, c *store.Collection, dr *store.Draft) error {
		if _, err := tx.Deliveries().OfDraft(id); !errors.Is(err, store.ErrNotFound) {
			if err == nil {
				err = problem(Refused, what, To(PlanAgain), "a delivery's draft is brought up to date as it goes live")
			}
			return err
		}
		r := &rebasing{d: d, tx: tx, c: c, dr: dr, decisions: decisions, used: map[string]bool{}}
		if err := r.run(p.Name); err != nil {
			return err
		}
		for key := range decisions {
			if _, again := store.Repeated(tx.Context()); !r.used[key] && !again {
				return problem(BadInput, what, To(ShowDrafts), "there is nothing to decide about %s", key)
			}
		}
		out = &r.out
		return nil
	})
	return outcome(out, explain(what, err))
}

// RebaseLater is a job's handler: it brings what went live into a draft that changes the same.
func (d *Desk) RebaseLater(ctx context.Context, payload json.RawMessage) (done string, err error) {
	var task store.RebaseTask
	if err := json.Unmarshal(payload, &task); err != nil {
		return "", err
	}
	dr, err := d.Store.FindDraft(ctx, task.Draft)
	if errors.Is(err, store.ErrNotFound) || err == nil && dr.State != store.DraftOpen {
		return "the draft is not open any more", nil
	}
	if err != nil {
		return "", err
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		c, err := tx.Collections().Lock(dr.CollectionID)
		if err != nil {
			return err
		}
		now, err := tx.LockDraft(task.Draft)
		var closed *store.ClosedError
		if errors.As(err, &closed) {
			done = "the draft is not open any more"
			return nil
		}
		if err != nil {
			return err
		}
		r := &rebasing{d: d, tx: tx, c: c, dr: now, used: map[string]bool{}}
		if err := r.run(""); err != nil {
			return err
		}
		done = fmt.Sprintf("%s merged, %d behind", says.Count(len(r.out.Merged), "item"), len(r.out.Behind))
		return nil
	})
	return done, err
}

// rebasing brings a locked draft up to date with a locked site.
type rebasing struct {
	d         *Desk
	tx        *store.Tx
	c         *store.Collection
	dr        *store.Draft
	decisions map[string]Side
	used      map[string]bool
	out       Rebased

	live, view *store.View
	edits      []steps.Edit
}

func (r *rebasing) run(by string) (err error) {
	ctx := r.tx.Context()
	r.out.Draft = r.dr
	if r.live, err = r.d.Store.Live(ctx, r.c); err != nil {
		return err
	}
	if r.view, err = r.d.Store.Over(ctx, r.c, r.dr); err != nil {
		return err
	}
	rows, err := r.d.Store.DraftItems(ctx, r.dr)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if err := r.item(row); err != nil {
			return err
		}
	}
	if len(r.edits) == 0 {
		return nil
	}
	r.out.Step, err = r.tx.AppendStep(r.dr, steps.Step{Kind: steps.Rebase, By: by, Edits: r.edits},
		"brought in what went live: "+says.Count(len(r.edits), "item"), r.d.Now())
	return err
}

// item brings one of the draft's items up to date, if the live site's changed.
func (r *rebasing) item(row store.DraftItem) error {
	now, there := r.live.ByID(row.ItemID)
	h := row.Head()
	switch {
	case there && now.State() == row.BaseState:
		return nil
	case !there && row.BaseState == "":
		return r.added(row, h)
	case !there && row.Op == store.Delete:
		return r.keep(row, nil) // both removed it
	case !there:
		return r.whole(row, nil, "the live site removed it, and the draft changes it")
	case row.Op == store.Delete:
		return r.whole(row, &now, "the live site changed it, and the draft removes it")
	}
	base, err := r.tx.ItemWithState(r.c, row.ItemID, row.BaseState)
	if errors.Is(err, store.ErrNotFound) {
		return r.whole(row, &now, "nobody knows what both came of")
	}
	if err != nil {
		return err
	}
	b, open, err := steps.MergeBy(&draftTexts{r.d, r.tx.Context(), r.view}, row.ItemID, steps.StateOf(base),
		steps.StateOf(h), steps.StateOf(now), r.choose(h.Address))
	if err != nil {
		return err
	}
	if len(open) > 0 {
		r.out.Behind = append(r.out.Behind, Behind{Address: h.Address, Why: "both changed the same", Conflicts: open})
		return nil
	}
	merged := b.State.Head(row.ItemID)
	if b.Content != nil {
		if merged, err = r.d.keepOne(r.tx.Context(), merged, b.Content); err != nil {
			return err
		}
	}
	return r.becomes(row, merged, now)
}

// choose decides the conflicts of an item by what was said of each, or of the item.
func (r *rebasing) choose(a item.Address) blend.Resolve {
	return func(c *blend.Conflict) blend.Decision {
		key := Behind{Address: a}.Key(*c)
		side, said := r.decisions[key]
		if !said {
			key = a.String()
			side = r.decisions[key]
		}
		switch side {
		case OfDraft:
			r.used[key] = true
			return blend.ForSite
		case OfLive:
			r.used[key] = true
			return blend.ForKit
		}
		return ""
	}
}

// added tells whether something else came to stand at the address of what the draft adds.
func (r *rebasing) added(row store.DraftItem, h item.Head) error {
	other, taken := r.live.Find(h.Address)
	if !taken || row.Op == store.Delete {
		return nil
	}
	if other.State() == h.State() { // the very same was added to both
		return r.keep(row, &other)
	}
	return r.whole(row, &other, "the live site got another one of this name")
}

// whole decides about an item as a whole: now is the live site's, nil where it has none.
func (r *rebasing) whole(row store.DraftItem, now *item.Head, why string) error {
	h := row.Head()
	key := h.Address.String()
	side := r.decisions[key]
	switch side {
	case OfLive:
		r.used[key] = true
		return r.keep(row, now)
	case OfDraft:
		r.used[key] = true
		base := item.Digest("")
		if now != nil {
			base = now.State()
		}
		if now != nil && now.ID != h.ID { // it takes the other one's place
			if err := r.tx.DropDraftItem(r.dr, h.ID); err != nil {
				return err
			}
			r.edits = append(r.edits, steps.Edit{Item: h.ID, Before: steps.StateOf(h)})
			h.ID = now.ID
			after := steps.StateOf(h)
			if row.Op == store.Delete {
				after = nil
			}
			r.edits = append(r.edits, steps.Edit{Item: h.ID, After: after})
		}
		return r.tx.ReplaceDraftItem(r.dr, store.Change{Delete: row.Op == store.Delete, Head: h}, base)
	}
	r.out.Behind = append(r.out.Behind, Behind{Address: h.Address, Why: why})
	return nil
}

// keep lets an item be as the live site has it: the draft changes it no more.
func (r *rebasing) keep(row store.DraftItem, now *item.Head) error {
	e := steps.Edit{Item: row.ItemID}
	if row.Op == store.Put {
		e.Before = steps.StateOf(row.Head())
	}
	if now != nil && now.ID == row.ItemID {
		e.After = steps.StateOf(*now)
	}
	if !e.Before.Is(e.After) {
		r.edits = append(r.edits, e)
	}
	r.out.Merged = append(r.out.Merged, row.Head().Address)
	return r.tx.DropDraftItem(r.dr, row.ItemID)
}

// becomes lays what both sides came to over the live item.
func (r *rebasing) becomes(row store.DraftItem, merged, now item.Head) error {
	if merged.State() == now.State() {
		return r.keep(row, &now)
	}
	before := row.Head()
	r.out.Merged = append(r.out.Merged, merged.Address)
	if merged.State() != before.State() {
		r.edits = append(r.edits, steps.Edit{Item: row.ItemID, Before: steps.StateOf(before),
			After: steps.StateOf(merged)})
	}
	return r.tx.ReplaceDraftItem(r.dr, store.Change{Head: merged}, now.State())
}

// upToDate brings a draft that goes live up to date; what does not merge is told.
func (d *Desk) upToDate(tx *store.Tx, c *store.Collection, dr *store.Draft, what, site string) error {
	r := &rebasing{d: d, tx: tx, c: c, dr: dr, used: map[string]bool{}}
	if err := r.run(""); err != nil {
		return err
	}
	if len(r.out.Behind) == 0 {
		return nil
	}
	var list []store.Conflict
	for _, b := range r.out.Behind {
		list = append(list, store.Conflict{Address: b.Address, Message: b.Why})
	}
	p := problem(Stale, what, To(DecideBehind, "site", site, "draft", fmt.Sprint(dr.ID)),
		"the live site changed the same since: %s", list[0].Address)
	if n := len(list); n > 1 {
		p.Message = fmt.Sprintf("the live site changed the same since, in %d items", n)
	}
	p.Details = list
	return p
}
