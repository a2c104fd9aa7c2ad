package store

import (
	"fmt"
	"time"

	"compactparcel/core/item"

	"gorm.io/gorm"
)

// Deliveries is the repository of deliveries. Each change holds the delivery against the
// state, and where it says so the ETag, that somebody saw, and gives ErrMoved otherwise.
type Deliveries struct{ t *Tx }

// Deliveries gives the deliveries.
func (t *Tx) Deliveries() Deliveries { return Deliveries{t} }

// Create opens a delivery.
func (r Deliveries) Create(d *Delivery) error {
	if err := r.t.db.Create(d).Error; err != nil {
		return err
	}
	return r.told(d.ID, nil)
}

// told tells of a delivery that was changed, unless it failed.
func (r Deliveries) told(id int64, err error) error {
	if err != nil {
		return err
	}
	d, err := r.ByID(id)
	if err != nil {
		return err
	}
	c, err := one[Collection](r.t.db.Select("name").Where("id = ?", d.CollectionID))
	if err != nil {
		return err
	}
	return r.t.Tell(DeliveryEvent, c.Name, fmt.Sprint(id))
}

// ByID gives a delivery.
func (r Deliveries) ByID(id int64) (*Delivery, error) {
	return one[Delivery](r.t.db.Where("id = ?", id))
}

// Stamp is another text whenever a delivery's plan is another.
func (r Deliveries) Stamp(id int64) (string, error) {
	d, err := one[Delivery](r.t.db.Select("etag, base_rev").Where("id = ?", id))
	return fmt.Sprintf("%d-%d", d.Etag, d.BaseRev), err
}

// Lock takes a delivery's row for this transaction and gives it as it is now.
func (r Deliveries) Lock(id int64) (*Delivery, error) { return lockRow[Delivery](r.t.db, id) }

// OfDraft gives the delivery that a draft belongs to, when it is staged or live.
func (r Deliveries) OfDraft(draft int64) (*Delivery, error) {
	return one[Delivery](r.t.db.Where("draft_id = ? AND state IN ?", draft, []DeliveryState{Staged, Live}))
}

// OfDrafts finds the deliveries that are staged in drafts, by the drafts' numbers.
func (r Deliveries) OfDrafts(drafts []int64) (map[int64]int64, error) {
	var rows []Delivery
	err := r.t.db.Select("id", "draft_id").Where("draft_id IN ? AND state = ?", drafts, Staged).Find(&rows).Error
	out := map[int64]int64{}
	for _, d := range rows {
		out[*d.DraftID] = d.ID
	}
	return out, err
}

// LiveSince gives a kit's deliveries to a site that are live and went live at a revision or after it, the first at the
// beginning.
func (r Deliveries) LiveSince(collection int64, kit string, rev int64) ([]Delivery, error) {
	return all[Delivery](r.t.db.
		Joins("JOIN kit_versions ON kit_versions.id = deliveries.kit_version_id").
		Joins("JOIN kits ON kits.id = kit_versions.kit_id").
		Where("deliveries.collection_id = ? AND kits.name = ? AND deliveries.state = ? AND deliveries.live_rev >= ?",
			collection, kit, Live, rev).
		Order("deliveries.live_rev, deliveries.id"))
}

// DeliveryPlan is what planning writes into a delivery.
type DeliveryPlan struct {
	Ask, Plan string
	Digest    item.Digest
	Base      int64 // the site's revision that it was made over
}

// Plan keeps the plan of a delivery that is opened or planned.
func (r Deliveries) Plan(id int64, etag int, p DeliveryPlan, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&Delivery{}).
		Where("id = ? AND etag = ? AND state IN ?", id, etag, []DeliveryState{Opened, Planned}),
		map[string]any{"state": Planned, "ask": p.Ask, "plan": p.Plan, "plan_digest": p.Digest, "base_rev": p.Base,
			"etag": etag + 1, "updated_at": now}))
}

// Stage notes the draft of a planned delivery, and what goes live beside it.
func (r Deliveries) Stage(id int64, etag int, draft, base int64, staged string, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&Delivery{}).Where("id = ? AND etag = ? AND state = ?", id, etag, Planned),
		map[string]any{"state": Staged, "draft_id": draft, "base_rev": base, "staged": staged, "etag": etag + 1,
			"updated_at": now}))
}

// Restage notes what a staged delivery that was planned anew writes.
func (r Deliveries) Restage(id int64, etag int, p DeliveryPlan, staged string, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&Delivery{}).Where("id = ? AND etag = ? AND state = ?", id, etag, Staged),
		map[string]any{"ask": p.Ask, "plan": p.Plan, "plan_digest": p.Digest, "base_rev": p.Base, "staged": staged,
			"etag": etag + 1, "updated_at": now}))
}

// GoLive notes the revision of a staged delivery, and its receipt.
func (r Deliveries) GoLive(id, rev int64, receipt string, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&Delivery{}).Where("id = ? AND state = ?", id, Staged),
		map[string]any{"state": Live, "live_rev": rev, "receipt": receipt, "etag": gorm.Expr("etag + 1"),
			"updated_at": now}))
}

// Undo notes the revision that undid a live delivery.
func (r Deliveries) Undo(id, rev int64, receipt string, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&Delivery{}).Where("id = ? AND state = ?", id, Live),
		map[string]any{"state": Undone, "undo_rev": rev, "receipt": receipt, "etag": gorm.Expr("etag + 1"),
			"updated_at": now}))
}

// UndoSome notes that some items of a live delivery were undone.
func (r Deliveries) UndoSome(id int64, receipt string, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&Delivery{}).Where("id = ? AND state = ?", id, Live),
		map[string]any{"receipt": receipt, "etag": gorm.Expr("etag + 1"), "updated_at": now}))
}

// DiscardDraft closes a draft without going live; a delivery that it belongs to is planned
// again.
func (t *Tx) DiscardDraft(id int64) error {
	if err := t.db.Model(&Draft{}).Where("id = ?", id).Update("state", DraftDiscarded).Error; err != nil {
		return err
	}
	d, err := one[Draft](t.db.Where("id = ?", id))
	if err != nil {
		return err
	}
	if err := t.tellOfDraft(id, d.CollectionID); err != nil {
		return err
	}
	return t.db.Model(&Delivery{}).Where("draft_id = ? AND state = ?", id, Staged).
		Updates(map[string]any{"state": Planned, "draft_id": nil, "etag": gorm.Expr("etag + 1")}).Error
}
