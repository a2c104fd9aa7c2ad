package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"compactparcel/core/steps"
)

// DraftStep is one step of a draft's log.
type DraftStep struct {
	DraftID int64 `gorm:"primaryKey;autoIncrement:false"`
	N       int   `gorm:"primaryKey;autoIncrement:false"`
	Kind    steps.Kind
	OfStep  int
	ByUser  string
	At      time.Time
	Message string
	Edits   string
	Typing  string
}

// Step gives the step as the core knows it.
func (s DraftStep) Step() (steps.Step, error) {
	out := steps.Step{N: s.N, Kind: s.Kind, Of: s.OfStep, By: s.ByUser, Typing: s.Typing}
	if err := json.Unmarshal([]byte(s.Edits), &out.Edits); err != nil {
		return out, fmt.Errorf("step %d of draft %d: %w", s.N, s.DraftID, err)
	}
	return out, nil
}

// AppendStep writes the next step of a locked draft and gives its number. Typing that goes on from the
// last step becomes part of that one.
func (t *Tx) AppendStep(d *Draft, s steps.Step, message string, now time.Time) (int, error) {
	if s.Typing != "" {
		if n, err := t.typeOn(d, s, now); n > 0 || err != nil {
			return n, err
		}
	}
	var n int
	err := t.db.Model(&DraftStep{}).Where("draft_id = ?", d.ID).Select("COALESCE(MAX(n), 0) + 1").Scan(&n).Error
	if err != nil {
		return 0, err
	}
	text, err := json.Marshal(s.Edits)
	if err != nil {
		return 0, err
	}
	err = t.db.Create(&DraftStep{DraftID: d.ID, N: n, Kind: s.Kind, OfStep: s.Of, ByUser: s.By, At: now,
		Message: message, Edits: string(text), Typing: s.Typing}).Error
	if err != nil {
		return n, err
	}
	return n, t.tellOfDraft(d.ID, d.CollectionID)
}

// typeOn puts typing into the step that it goes on from; 0 where it is a step of its own.
func (t *Tx) typeOn(d *Draft, s steps.Step, now time.Time) (int, error) {
	row, err := one[DraftStep](t.db.Where("draft_id = ?", d.ID).Order("n DESC").Limit(1))
	if errors.Is(err, ErrNotFound) {
		return 0, nil
	}
	if err != nil {
		return 0, err
	}
	last, err := row.Step()
	if err != nil || !s.GoesOn(last, row.At, now) {
		return 0, err
	}
	text, err := json.Marshal(s.GrownFrom(last).Edits)
	if err != nil {
		return 0, err
	}
	err = t.db.Model(&DraftStep{}).Where("draft_id = ? AND n = ?", d.ID, row.N).
		Updates(map[string]any{"edits": string(text), "at": now}).Error
	if err != nil {
		return 0, err
	}
	return row.N, t.tellOfDraft(d.ID, d.CollectionID)
}

// DraftSteps lists the steps of a draft, the first at the beginning.
func (t *Tx) DraftSteps(draft int64) ([]DraftStep, error) {
	return all[DraftStep](t.db.Where("draft_id = ?", draft).Order("n"))
}

// LastStep gives a draft's last step as somebody sees it: its number, and how far it has grown; 0 of none.
func (t *Tx) LastStep(draft int64) (out steps.Seen, err error) {
	row, err := one[DraftStep](t.db.Where("draft_id = ?", draft).Order("n DESC").Limit(1))
	if errors.Is(err, ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	last, err := row.Step()
	return steps.Seen{Step: last.N, Grown: last.Grown()}, err
}

// ChangedSince gives the ids of the items that live revisions behind one changed.
func (t *Tx) ChangedSince(c *Collection, rev int64) ([]string, error) {
	var ids []string
	err := t.db.Model(&Item{}).
		Where("collection_id = ? AND (from_rev > ? OR to_rev > ? AND to_rev < ?)", c.ID, rev, rev, Forever).
		Distinct("item_id").
		Pluck("item_id", &ids).
		Error
	return ids, err
}

// RenameDraft gives a locked draft another name.
func (t *Tx) RenameDraft(d *Draft, name string) error {
	d.Name = name
	if err := t.db.Model(&Draft{}).Where("id = ?", d.ID).Update("name", name).Error; err != nil {
		return err
	}
	return t.tellOfDraft(d.ID, d.CollectionID)
}

// lastOfEach gives the last change of each item, in the order in which the items came first.
func lastOfEach(changes []Change) []Change {
	at := map[string]int{}
	var out []Change
	for _, ch := range changes {
		if i, had := at[ch.Head.ID]; had {
			out[i] = ch
			continue
		}
		at[ch.Head.ID] = len(out)
		out = append(out, ch)
	}
	return out
}

// Lay brings the changes of one step into a locked draft and notes them in its log. live is the
// state below the draft and view the draft as it is. What comes to be as the live site has it is no
// change any more. Where several changes are of one item, its last one counts.
func (t *Tx) Lay(d *Draft, live, view *View, step steps.Step, message string, now time.Time, changes []Change) (int,
	error) {
	var put []BasedChange
	for _, ch := range lastOfEach(changes) {
		e := steps.Edit{Item: ch.Head.ID}
		if had, ok := view.ByID(ch.Head.ID); ok {
			e.Before = steps.StateOf(had)
		}
		if !ch.Delete {
			e.After = steps.StateOf(ch.Head)
		}
		step.Edits = append(step.Edits, e)
		base, below := live.ByID(ch.Head.ID)
		switch {
		case ch.Delete && !below, !ch.Delete && below && base.State() == ch.Head.State():
			if err := t.DropDraftItem(d, ch.Head.ID); err != nil {
				return 0, err
			}
		case below:
			put = append(put, BasedChange{ch, base.State()})
		default:
			put = append(put, BasedChange{ch, ""})
		}
	}
	if err := t.PutDraftItems(d, put); err != nil {
		return 0, err
	}
	return t.AppendStep(d, step, message, now)
}
