package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"compactparcel/internal/store"
)

// TimeDraft says when a draft goes live by itself; nil takes the time back. Who may not put it live
// by then does not.
func (d *Desk) TimeDraft(ctx context.Context, p Person, site string, id int64, at *time.Time) (*store.Draft, error) {
	what := fmt.Sprintf("draft %d of %s", id, site)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	if at != nil {
		exact := at.UTC().Truncate(time.Microsecond)
		if at = &exact; !at.After(d.Now()) {
			return nil, problem(BadInput, what, Form("2027-05-01T06:00:00Z: a time to come"), "this time has passed")
		}
	}
	var dr *store.Draft
	err := d.inDraft(ctx, site, id, func(tx *store.Tx, _ *store.Collection, now *store.Draft) error {
		dr = now
		if err := tx.TimeDraft(dr, at, p.Name, d.Now()); err != nil {
			return err
		}
		says := "no time any more"
		if at != nil {
			says = "at " + at.Format(time.RFC3339)
		}
		return d.audit(tx, p, "time", what, says)
	})
	return outcome(dr, explain(what, err))
}

// GoLiveInTime puts a draft live at its time: the job of the queue. What does not let it is noted at
// the draft, which stays as it is; only a failure of the moment is tried again.
func (d *Desk) GoLiveInTime(ctx context.Context, payload json.RawMessage) (string, error) {
	var job store.TimedDraft
	if err := json.Unmarshal(payload, &job); err != nil {
		return "", err
	}
	dr, err := d.Store.FindDraft(ctx, job.Draft)
	if errors.Is(err, store.ErrNotFound) {
		return "there is no such draft any more", nil
	}
	if err != nil {
		return "", err
	}
	otherwise := false
	may := func(dr *store.Draft) error {
		if otherwise = dr.State != store.DraftOpen || dr.LiveAt == nil || !dr.LiveAt.Equal(job.At); otherwise {
			return problem(Stale, fmt.Sprintf("draft %d", dr.ID), To(ShowDrafts), "it has another time by now")
		}
		return nil
	}
	_ = may(dr) // looked at once before, and again with the draft locked
	if otherwise {
		return "it was decided otherwise", nil
	}
	c, err := d.Store.Read(ctx).Collections().ByID(dr.CollectionID)
	if err != nil {
		return "", err
	}
	u, err := d.Store.Read(ctx).Users().ActiveByName(dr.LiveFor)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return "", err
	}
	p := Person{Name: dr.LiveFor}
	if err == nil {
		p = Person{ID: u.ID, Name: u.Name, Role: Role(u.Role), Request: fmt.Sprintf("draft %d at its time", dr.ID)}
	}
	rev, _, err := d.goLive(ctx, p, c.Name, dr.ID, may)
	if otherwise {
		return "it was decided otherwise", nil
	}
	var why *Problem
	if errors.As(err, &why) && why.Type != Unavailable && why.Type != Damaged {
		return why.Error(), d.Store.Read(ctx).DraftStayed(job, why.Error())
	}
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("draft %d of %s is live as revision %d", dr.ID, c.Name, rev), nil
}
