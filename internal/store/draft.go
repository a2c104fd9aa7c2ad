package store

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"slices"
	"time"

	"compactparcel/core/item"

	"github.com/google/uuid"
	"gorm.io/gorm"
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

// ClashError tells that two items want one address in a draft.
type ClashError struct {
	Address item.Address
	IDs     [2]string
}

func (e *ClashError) Error() string {
	return fmt.Sprintf("two items want to be %s: %s and %s", e.Address, e.IDs[0], e.IDs[1])
}

// BasedChange is a change with the live item's state that it was made for, empty when there is none.
type BasedChange struct {
	Change
	Base item.Digest
}

// PutDraftItem lays one change into a locked draft, as PutDraftItems does.
func (t *Tx) PutDraftItem(d *Draft, ch Change, base item.Digest) error {
	return t.PutDraftItems(d, []BasedChange{{ch, base}})
}

// PutDraftItems lays changes into a locked draft. What an item was based on is kept from its first change on. Its
// error is a *ClashError where two items would come to stand at one address; nothing is written then that counts,
// since the transaction ends.
func (t *Tx) PutDraftItems(d *Draft, list []BasedChange) error {
	if len(list) == 0 {
		return nil
	}
	ids := make([]string, len(list))
	at := map[item.Address]string{}
	for i, ch := range list {
		ids[i] = ch.Head.ID
		if other, twice := at[ch.Head.Address]; twice && !ch.Delete {
			return &ClashError{ch.Head.Address, [2]string{other, ch.Head.ID}}
		}
		if !ch.Delete {
			at[ch.Head.Address] = ch.Head.ID
		}
	}
	bases := map[string]item.Digest{}
	for part := range slices.Chunk(ids, 500) {
		had, err := all[DraftItem](t.db.Where("draft_id = ? AND item_id IN ?", d.ID, part))
		if err != nil {
			return err
		}
		for _, row := range had {
			bases[row.ItemID] = row.BaseState
		}
		if err := t.db.Where("draft_id = ? AND item_id IN ?", d.ID, part).Delete(&DraftItem{}).Error; err != nil {
			return err
		}
	}
	rows := make([]DraftItem, len(list))
	for i, ch := range list {
		base, had := bases[ch.Head.ID]
		if !had {
			base = ch.Base
		}
		rows[i] = draftRow(d, ch.Change, base)
	}
	if err := t.noClash(d, at); err != nil {
		return err
	}
	if err := t.db.CreateInBatches(rows, 400).Error; err != nil {
		return err
	}
	return t.db.Model(&Draft{}).Where("id = ?", d.ID).Update("version", gorm.Expr("version + 1")).Error
}

// noClash gives a *ClashError where another item of the draft stands at one of some addresses.
func (t *Tx) noClash(d *Draft, at map[item.Address]string) error {
	keys := make([]string, 0, len(at))
	for a := range at {
		keys = append(keys, a.Key)
	}
	for part := range slices.Chunk(keys, 500) {
		there, err := all[DraftItem](t.db.Where("draft_id = ? AND op = ? AND item_key IN ?", d.ID, Put, part))
		if err != nil {
			return err
		}
		for _, row := range there {
			if id, wanted := at[row.Head().Address]; wanted {
				return &ClashError{row.Head().Address, [2]string{row.ItemID, id}}
			}
		}
	}
	return nil
}

// draftRow is the row of a change in a draft.
func draftRow(d *Draft, ch Change, base item.Digest) DraftItem {
	op := Put
	if ch.Delete {
		op = Delete
	}
	h := ch.Head
	return DraftItem{
		DraftID:          d.ID,
		ItemID:           h.ID,
		Op:               op,
		Kind:             h.Address.Kind,
		Key:              h.Address.Key,
		Doc:              h.Doc,
		NormalizedDigest: h.NormalizedDigest,
		Bytes:            h.Bytes,
		Meta:             Metadata(h.Meta),
		BaseState:        base,
	}
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
		rows[i] = draftRow(d, ch, bases[ch.Head.ID])
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
