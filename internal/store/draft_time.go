package store

import (
	"encoding/json"
	"errors"
	"time"
)

// GoLiveJob is the kind of jobs that put a draft live.
const GoLiveJob = "go-live"

// TimedDraft is what a job that puts a draft live is about: the draft, and the time for which it
// was made; a draft that has another time by now is not its business.
type TimedDraft struct {
	Draft int64
	At    time.Time
}

// TimeDraft says when a locked draft goes live by itself, and puts a job for it into the queue; nil
// takes the time back.
func (t *Tx) TimeDraft(d *Draft, at *time.Time, by string, now time.Time) error {
	if at == nil {
		by = ""
	}
	d.LiveAt, d.LiveFor, d.LiveSays = at, by, ""
	err := t.db.Model(&Draft{}).Where("id = ?", d.ID).
		Updates(map[string]any{"live_at": at, "live_for": by, "live_says": ""}).Error
	if err == nil {
		err = t.tellOfDraft(d.ID, d.CollectionID)
	}
	if err != nil || at == nil {
		return err
	}
	payload, err := json.Marshal(TimedDraft{d.ID, *at})
	if err != nil {
		return err
	}
	return t.Jobs().Create(&Job{Kind: GoLiveJob, Payload: string(payload), State: JobWaiting, RunAt: *at,
		CreatedAt: now})
}

// DraftStayed notes why a draft did not go live at its time, while that is still its time.
func (t *Tx) DraftStayed(d TimedDraft, says string) error {
	if r := []rune(says); len(r) > 500 {
		says = string(r[:499]) + "…"
	}
	err := swap(t.db.Model(&Draft{}).Where("id = ? AND live_at = ?", d.Draft, d.At),
		map[string]any{"live_at": nil, "live_says": says})
	if errors.Is(err, ErrMoved) {
		return nil // somebody decided otherwise
	}
	if err != nil {
		return err
	}
	row, err := one[Draft](t.db.Where("id = ?", d.Draft))
	if err != nil {
		return err
	}
	return t.tellOfDraft(row.ID, row.CollectionID)
}
