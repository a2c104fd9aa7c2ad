package desk

import (
	"fmt"
	"time"

	"compactparcel/core/steps"
	"compactparcel/internal/store"
)

// editing is a draft that something is done in, within a transaction: it and its site are locked.
type editing struct {
	tx    *store.Tx
	site  *store.Collection
	draft *store.Draft
	live  *store.View
	view  *store.View // with the draft laid over it
	// again tells that the request was done before: it finds the draft that it made.
	again bool
}

// editing locks a site and the draft that an edit goes into, or makes the draft.
func (d *Desk) editing(tx *store.Tx, site int64, p Person, e Edit) (on *editing, err error) {
	ctx := tx.Context()
	on = &editing{tx: tx}
	_, on.again = store.Repeated(ctx)
	if on.site, err = tx.Collections().Lock(site); err != nil {
		return nil, err
	}
	if on.draft, err = d.draftToEdit(tx, on.site, p, e); err != nil {
		return nil, err
	}
	if on.live, err = d.Store.Live(ctx, on.site); err != nil {
		return nil, err
	}
	on.view, err = d.Store.Over(ctx, on.site, on.draft)
	return on, err
}

// lay lays changes into the draft, as one step.
func (on *editing) lay(s steps.Step, says string, now time.Time, changes []store.Change) (int, error) {
	return on.tx.Lay(on.draft, on.live, on.view, s, shortened(says, 500), now, changes)
}

// draftToEdit locks the draft that an edit goes into, or makes it. A repeated request finds
// the draft that it made.
func (d *Desk) draftToEdit(tx *store.Tx, c *store.Collection, p Person, e Edit) (*store.Draft, error) {
	id := e.Draft
	if subject, ok := store.Repeated(tx.Context()); ok && id == 0 {
		if _, err := fmt.Sscanf(subject, "draft %d", &id); err != nil {
			return nil, err
		}
	}
	if id == 0 {
		dr, err := tx.NewDraft(c, "edits by "+p.Name, p.Name, d.Now())
		if err != nil {
			return nil, err
		}
		return dr, tx.NoteSubject(fmt.Sprintf("draft %d", dr.ID))
	}
	dr, err := tx.LockDraft(id)
	if err != nil {
		return nil, explain(fmt.Sprintf("draft %d", id), err)
	}
	if dr.CollectionID != c.ID {
		return nil, problem(NotFound, fmt.Sprintf("draft %d", id), To(ShowDrafts), "it is not a draft of %s", e.Site)
	}
	return dr, nil
}
