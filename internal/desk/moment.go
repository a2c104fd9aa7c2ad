package desk

import (
	"context"
	"errors"

	"compactparcel/internal/store"
)

// What takes long is worked out outside the lock of a draft, on a state as it was, and laid under it if the state is
// still that one: nobody else's word waits for it.

// moment is a state of a site, and of a draft over it where there is one.
type moment struct {
	draft, rev int64
	version    int
}

func momentOf(on *editing, draft int64) moment {
	return moment{draft: draft, rev: on.site.Revision, version: on.draft.Version}
}

// fits tells that a draft is as something was worked out for.
func (m moment) fits(on *editing) bool {
	return on.site.Revision == m.rev && (m.draft == 0 || on.draft.Version == m.version)
}

// isPast tells that the draft is another by now.
func (d *Desk) isPast(ctx context.Context, m moment) bool {
	now, err := d.Store.FindDraft(ctx, m.draft)
	return m.draft != 0 && err == nil && now.Version != m.version
}

// unlocked reads a draft as it is now, 0 for a new one; nil where only its lock can say how it is.
func (d *Desk) unlocked(ctx context.Context, c *store.Collection, draft int64) (*editing, error) {
	if _, again := store.Repeated(ctx); again {
		return nil, nil
	}
	read := d.Store.Read(ctx)
	site, err := read.Collections().ByID(c.ID)
	if err != nil {
		return nil, err
	}
	on := &editing{tx: read, site: site, draft: &store.Draft{}}
	if on.live, err = d.Store.Live(ctx, site); err != nil {
		return nil, err
	}
	if on.view = on.live; draft == 0 {
		return on, nil
	}
	on.draft, err = d.Store.FindDraft(ctx, draft)
	if errors.Is(err, store.ErrNotFound) || err == nil && (on.draft.State != store.DraftOpen ||
		on.draft.CollectionID != c.ID) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	on.view, err = d.Store.Over(ctx, site, on.draft)
	return on, err
}
