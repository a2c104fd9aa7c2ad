package store

import (
	"fmt"

	"compactparcel/core/item"

	"gorm.io/gorm/clause"
)

// DraftOrigin says where an item came from that a draft brings.
type DraftOrigin struct {
	DraftID          int64     `gorm:"primaryKey;autoIncrement:false"`
	Kit              string    `gorm:"primaryKey"`
	KitKind          item.Kind `gorm:"primaryKey"`
	KitKey           string    `gorm:"primaryKey"`
	Copy             int       `gorm:"primaryKey;autoIncrement:false"`
	Version          string
	ItemID           string
	NormalizedDigest item.Digest
	Doc              item.Digest
	Bytes            int64
	Meta             string
}

// origin gives it as an origin of a collection.
func (o DraftOrigin) origin(collection int64) Origin {
	return Origin{CollectionID: collection, Kit: o.Kit, KitKind: o.KitKind, KitKey: o.KitKey, Copy: o.Copy,
		Version: o.Version, ItemID: o.ItemID, NormalizedDigest: o.NormalizedDigest, Doc: o.Doc, Bytes: o.Bytes,
		Meta: o.Meta}
}

// PutDraftOrigins records where items of a locked draft came from; what was recorded of the same
// copies before is replaced.
func (t *Tx) PutDraftOrigins(d *Draft, list []Origin) error {
	if len(list) == 0 {
		return nil
	}
	rows := make([]DraftOrigin, len(list))
	for i, o := range list {
		rows[i] = DraftOrigin{DraftID: d.ID, Kit: o.Kit, KitKind: o.KitKind, KitKey: o.KitKey, Copy: o.Copy,
			Version: o.Version, ItemID: o.ItemID, NormalizedDigest: o.NormalizedDigest, Doc: o.Doc, Bytes: o.Bytes,
			Meta: o.Meta}
	}
	return t.db.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(rows, 400).Error
}

// draftOrigins gives the origins that the view's draft brings, of items that are still there.
func (v *View) draftOrigins() ([]Origin, error) {
	if v.Draft == nil {
		return nil, nil
	}
	rows, err := all[DraftOrigin](v.store.conn(v.ctx).Where("draft_id = ?", v.Draft.ID).
		Order("kit, kit_kind, kit_key, copy"))
	if err != nil {
		return nil, fmt.Errorf("reading origins: %w", err)
	}
	var out []Origin
	for _, r := range rows {
		if _, there := v.ByID(r.ItemID); there { // else the step that brought it was taken back
			out = append(out, r.origin(v.Collection.ID))
		}
	}
	return out, nil
}

// settleOrigins makes the origins that a draft brings the collection's, as it goes live.
func (t *Tx) settleOrigins(c *Collection, d *Draft) error {
	rows, err := all[DraftOrigin](t.db.Where("draft_id = ?", d.ID))
	if err != nil || len(rows) == 0 {
		return err
	}
	var ids []string
	for _, r := range rows {
		ids = append(ids, r.ItemID)
	}
	live, err := liveByID(t.db, c.ID, ids)
	if err != nil {
		return err
	}
	var out []Origin
	for _, r := range rows {
		if _, there := live[r.ItemID]; there {
			out = append(out, r.origin(c.ID))
		}
	}
	return t.Origins().Put(out)
}
