package store

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"compactparcel/core/item"
)

// RebaseJob is the kind of jobs that bring what went live into a draft.
const RebaseJob = "rebase"

// RebaseTask is what such a job is about.
type RebaseTask struct{ Draft int64 }

// queueRebases puts a job into the queue for each open draft that changes one of the items that go
// live. Nobody waits for them. The drafts of deliveries are brought up to date as they go live.
func (t *Tx) queueRebases(c *Collection, ids []string, now time.Time) error {
	var open int64
	if err := t.db.Model(&Draft{}).Where("collection_id = ? AND state = ?", c.ID,
		DraftOpen).Count(&open).Error; err != nil ||
		open == 0 {
		return err
	}
	seen := map[int64]bool{}
	for part := range slices.Chunk(ids, 500) {
		var drafts []int64
		err := t.db.Table("draft_items").
			Joins("JOIN drafts ON drafts.id = draft_items.draft_id").
			Where("drafts.collection_id = ? AND drafts.state = ? AND draft_items.item_id IN ?", c.ID, DraftOpen, part).
			Where("NOT EXISTS (SELECT 1 FROM deliveries WHERE deliveries.draft_id = drafts.id)").
			Distinct("drafts.id").
			Pluck("drafts.id", &drafts).Error
		if err != nil {
			return err
		}
		for _, id := range drafts {
			if seen[id] {
				continue
			}
			seen[id] = true
			payload, err := json.Marshal(RebaseTask{id})
			if err != nil {
				return err
			}
			if err := t.Jobs().Create(&Job{Kind: RebaseJob, Payload: string(payload), State: JobWaiting, RunAt: now,
				CreatedAt: now}); err != nil {
				return err
			}
		}
	}
	return nil
}

// ItemWithState gives an item of a collection as it was in a state; ErrNotFound when it never was.
func (t *Tx) ItemWithState(c *Collection, id string, state item.Digest) (item.Head, error) {
	row, err := one[Item](t.db.Where("collection_id = ? AND item_id = ? AND state = ?", c.ID, id, state).
		Order("from_rev DESC"))
	if err != nil {
		return item.Head{}, fmt.Errorf("what %s was: %w", id, err)
	}
	return row.Head(), nil
}

// ReplaceDraftItem lays a change of a locked draft over another live state than it was made for.
func (t *Tx) ReplaceDraftItem(d *Draft, ch Change, base item.Digest) error {
	if err := t.DropDraftItem(d, ch.Head.ID); err != nil {
		return err
	}
	return t.PutDraftItem(d, ch, base)
}
