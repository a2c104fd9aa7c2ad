package store

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"compactparcel/core/item"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// NewID gives a permanent item id: a UUID of version 7, so that what comes into being
// together lies together in the tables.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

// NewDraft makes an empty draft of a collection.
func (t *Tx) NewDraft(c *Collection, name, by string, now time.Time) (*Draft, error) {
	var raw [10]byte
	rand.Read(raw[:])
	d := &Draft{
		CollectionID: c.ID,
		Name:         name,
		Token:        hex.EncodeToString(raw[:]),
		State:        DraftOpen,
		BaseRev:      c.Revision,
		Version:      1,
		ByUser:       by,
		CreatedAt:    now,
	}
	if err := t.db.Create(d).Error; err != nil {
		return nil, err
	}
	return d, t.tellOfDraft(d.ID, c.ID)
}

// FindDraft gives a draft by its number.
func (s *Store) FindDraft(ctx context.Context, id int64) (*Draft, error) {
	var d Draft
	err := s.conn(ctx).Where("id = ?", id).Take(&d).Error
	return &d, err
}

// ClosedError tells that a draft is no longer open.
type ClosedError struct {
	Draft int64
	State DraftState
}

func (e *ClosedError) Error() string { return fmt.Sprintf("draft %d is %s", e.Draft, e.State) }

// LockDraft takes a draft's row for this transaction. Its error is a *ClosedError when the
// draft is not open. Who needs the collection's lock too takes that one first.
func (t *Tx) LockDraft(id int64) (*Draft, error) {
	d, err := lockRow[Draft](t.db, id)
	if err == nil && d.State != DraftOpen {
		return d, &ClosedError{id, d.State}
	}
	return d, err
}

// PutDraftItem lays a change into a locked draft. base is the live item's state that it
// was made for, empty when there is none; it is kept from the first change on.
func (t *Tx) PutDraftItem(d *Draft, ch Change, base item.Digest) error {
	var had DraftItem
	err := t.db.Where("draft_id = ? AND item_id = ?", d.ID, ch.Head.ID).Take(&had).Error
	if err != nil && !errors.Is(err, ErrNotFound) {
		return err
	}
	if err == nil {
		base = had.BaseState
	}
	op := Put
	if ch.Delete {
		op = Delete
	}
	h := ch.Head
	row := DraftItem{
		DraftID:          d.ID,
		ItemID:           h.ID,
		Op:               op,
		Kind:             h.Address.Kind,
		Key:              h.Address.Key,
		Doc:              h.Doc,
		NormalizedDigest: h.NormalizedDigest,
		Bytes:            h.Bytes,
		Meta:             metaText(h.Meta),
		BaseState:        base,
	}
	if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
		return err
	}
	return t.db.Model(&Draft{}).Where("id = ?", d.ID).Update("version", gorm.Expr("version + 1")).Error
}

// FillDraft lays many changes into a new draft. bases gives, by item id, the live items'
// states that the changes were made for.
func (t *Tx) FillDraft(
	d *Draft,
	changes []Change,
	bases map[string]item.Digest,
	preconditions []DraftPrecondition,
) error {
	rows := make([]DraftItem, len(changes))
	for i, ch := range changes {
		h, op := ch.Head, Put
		if ch.Delete {
			op = Delete
		}
		rows[i] = DraftItem{
			DraftID:          d.ID,
			ItemID:           h.ID,
			Op:               op,
			Kind:             h.Address.Kind,
			Key:              h.Address.Key,
			Doc:              h.Doc,
			NormalizedDigest: h.NormalizedDigest,
			Bytes:            h.Bytes,
			Meta:             metaText(h.Meta),
			BaseState:        bases[h.ID],
		}
	}
	if len(rows) > 0 {
		if err := t.db.CreateInBatches(rows, 400).Error; err != nil {
			return err
		}
	}
	for i := range preconditions {
		preconditions[i].DraftID = d.ID
	}
	if len(preconditions) == 0 {
		return nil
	}
	return t.db.CreateInBatches(preconditions, 400).Error
}

// Rebase makes a change of a draft stand on another live state: that of one who edited
// the item meanwhile.
func (t *Tx) Rebase(d *Draft, h item.Head, base item.Digest) error {
	err := t.db.Model(&DraftItem{}).
		Where("draft_id = ? AND item_id = ?", d.ID, h.ID).
		Updates(map[string]any{"doc": h.Doc, "normalized_digest": h.NormalizedDigest, "bytes": h.Bytes,
			"meta":       metaText(h.Meta),
			"base_state": base}).
		Error
	if err != nil {
		return err
	}
	if err := t.db.Model(&DraftPrecondition{}).
		Where("draft_id = ? AND kind = ? AND item_key = ?", d.ID, h.Address.Kind, h.Address.Key).
		Update("state", base).
		Error; err != nil {
		return err
	}
	return t.db.Model(&Draft{}).Where("id = ?", d.ID).Update("version", gorm.Expr("version + 1")).Error
}

// DropDraftItem takes a change out of a draft.
func (t *Tx) DropDraftItem(d *Draft, id string) error {
	if err := t.db.Where("draft_id = ? AND item_id = ?", d.ID, id).Delete(&DraftItem{}).Error; err != nil {
		return err
	}
	return t.db.Model(&Draft{}).Where("id = ?", d.ID).Update("version", gorm.Expr("version + 1")).Error
}

// DraftItems lists a draft's changes.
func (s *Store) DraftItems(ctx context.Context, d *Draft) ([]DraftItem, error) {
	var rows []DraftItem
	err := s.conn(ctx).Where("draft_id = ?", d.ID).Order("kind, item_key").Find(&rows).Error
	return rows, err
}

// GoLive writes a draft as a new revision of a locked collection. Every item it
// changes and every precondition must be as the draft was made for; else it gives a
// StaleError that names them all, and nothing is written.
func (t *Tx) GoLive(c *Collection, d *Draft, n Note) (int64, error) {
	if _, err := t.LockDraft(d.ID); err != nil {
		return 0, err
	}
	var items []DraftItem
	if err := t.db.Where("draft_id = ?", d.ID).Order("kind, item_key").Find(&items).Error; err != nil {
		return 0, err
	}
	var preconditions []DraftPrecondition
	if err := t.db.Where("draft_id = ?", d.ID).Order("kind, item_key").Find(&preconditions).Error; err != nil {
		return 0, err
	}
	var ids []string
	var at []item.Address
	for _, it := range items {
		ids, at = append(ids, it.ItemID), append(at, it.Head().Address)
	}
	for _, p := range preconditions {
		at = append(at, item.Address{Kind: p.Kind, Key: p.Key})
	}
	byID, err := liveByID(t.db, c.ID, ids)
	if err != nil {
		return 0, err
	}
	states, err := liveAt(t.db, c.ID, at)
	if err != nil {
		return 0, err
	}
	var stale StaleError
	var changes []Change
	for _, it := range items {
		live := byID[it.ItemID].State
		h := it.Head()
		switch {
		case it.BaseState == "" && states[h.Address] != "":
			stale.Conflicts = append(stale.Conflicts, Conflict{h.Address, "has been added since"})
		case it.BaseState != "" && live == "":
			stale.Conflicts = append(stale.Conflicts, Conflict{h.Address, "has been deleted since"})
		case live != it.BaseState:
			stale.Conflicts = append(stale.Conflicts, Conflict{h.Address, "has been changed since"})
		}
		changes = append(changes, Change{Delete: it.Op == Delete, Head: h})
	}
	for _, p := range preconditions {
		a := item.Address{Kind: p.Kind, Key: p.Key}
		if states[a] != p.State {
			seen := false
			for _, x := range stale.Conflicts {
				seen = seen || x.Address == a
			}
			if !seen {
				stale.Conflicts = append(stale.Conflicts, Conflict{a, "is not as the plan saw it"})
			}
		}
	}
	if len(stale.Conflicts) > 0 {
		return 0, &stale
	}
	rev, err := t.Write(c, changes, n)
	if err != nil {
		return 0, err
	}
	if err := t.settleOrigins(c, d); err != nil {
		return 0, err
	}
	if err := t.tellOfDraft(d.ID, c.ID); err != nil {
		return 0, err
	}
	return rev, t.db.Model(&Draft{}).
		Where("id = ?", d.ID).
		Updates(map[string]any{"state": DraftLive, "live_rev": rev}).
		Error
}

// ReplaceDraft lays other changes into a locked draft than it has, over a revision.
func (t *Tx) ReplaceDraft(
	d *Draft, rev int64, changes []Change, bases map[string]item.Digest, preconditions []DraftPrecondition,
) error {
	for _, row := range []any{&DraftItem{}, &DraftPrecondition{}} {
		if err := t.db.Where("draft_id = ?", d.ID).Delete(row).Error; err != nil {
			return err
		}
	}
	if err := t.FillDraft(d, changes, bases, preconditions); err != nil {
		return err
	}
	d.BaseRev = rev
	return t.db.Model(&Draft{}).Where("id = ?", d.ID).
		Updates(map[string]any{"base_rev": rev, "version": gorm.Expr("version + 1")}).Error
}
