package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Origins gives what a kit delivered here before.
func (v *View) Origins(kit string) ([]plan.Origin, error) {
	var rows []Origin
	if err := v.store.conn(v.ctx).
		Where("collection_id = ? AND kit = ?", v.Collection.ID, kit).
		Order("kit_kind, kit_key, copy").
		Find(&rows).
		Error; err != nil {
		return nil, fmt.Errorf("reading origins: %w", err)
	}
	drafted, err := v.draftOrigins()
	if err != nil {
		return nil, err
	}
	rows = laidOrigins(rows, drafted, kit)
	out := make([]plan.Origin, len(rows))
	for i, r := range rows {
		out[i] = plan.Origin{
			KitAddress:       r.Address(),
			Version:          r.Version,
			NormalizedDigest: r.NormalizedDigest,
			Copy:             r.Copy,
			Doc:              r.Doc,
			Bytes:            r.Bytes,
		}
		if r.Meta != "" {
			out[i].Meta = &item.Meta{}
			if err := json.Unmarshal([]byte(r.Meta), out[i].Meta); err != nil {
				return nil, fmt.Errorf("reading origins: %w", err)
			}
		}
		if h, ok := v.ByID(r.ItemID); ok {
			out[i].Item = h.Address
		}
	}
	return out, nil
}

// laidOrigins lays a draft's origins of a kit over the collection's.
func laidOrigins(rows, drafted []Origin, kit string) []Origin {
	for _, o := range drafted {
		if o.Kit != kit {
			continue
		}
		i := slices.IndexFunc(rows, func(r Origin) bool { return r.Address() == o.Address() && r.Copy == o.Copy })
		if i < 0 {
			rows = append(rows, o)
		} else {
			rows[i] = o
		}
	}
	return rows
}

// Address is the item's address in its kit.
func (o Origin) Address() item.Address {
	return item.Address{Kind: o.KitKind, Key: o.KitKey}
}

// BaselineContent gives the content of an item as it was delivered.
func (v *View) BaselineContent(o plan.Origin) ([]byte, error) {
	if o.Doc == "" {
		return nil, nil
	}
	r, err := v.Open(item.Head{Address: o.KitAddress, Doc: o.Doc, Bytes: o.Bytes})
	if err != nil {
		return nil, err
	}
	defer r.Close()
	return io.ReadAll(r)
}

// PriorDelivery gives what was said at a kit's last delivery that is live.
func (v *View) PriorDelivery(name string) (plan.PriorDelivery, error) {
	var row struct {
		Receipt, Version, List string
		Digest                 item.Digest
	}
	var out plan.PriorDelivery
	err := v.store.conn(v.ctx).
		Table("deliveries").
		Select("deliveries.receipt, kit_versions.version, kit_versions.list, kit_versions.digest").
		Joins("JOIN kit_versions ON kit_versions.id = deliveries.kit_version_id").
		Joins("JOIN kits ON kits.id = kit_versions.kit_id").
		Where("deliveries.collection_id = ? AND deliveries.state = 'live' AND kits.name = ? AND "+
			"deliveries.live_rev <= ?", v.Collection.ID, name, v.Rev).
		Order("deliveries.live_rev DESC, deliveries.id DESC").
		Limit(1).
		Take(&row).
		Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return out, nil
	}
	if err != nil {
		return out, fmt.Errorf("reading the last delivery of %s: %w", name, err)
	}
	var list kit.PackingList
	if err := json.Unmarshal([]byte(row.List), &list); err != nil {
		return out, err
	}
	out.Version, out.KitDigest, out.Format = row.Version, row.Digest, list.Format
	return out, json.Unmarshal([]byte(row.Receipt), &out) // fills and decisions
}

// NewOrigin says where an item came from, as a plan puts or keeps it.
func NewOrigin(kit, version string, x plan.PlannedWrite) Origin {
	meta := x.Baseline.Meta
	if x.Head.Doc == x.Baseline.Doc {
		meta = x.Head.Meta // the delivery itself settled where a part stands
	}
	return Origin{
		Kit:              kit,
		KitKind:          x.KitAddress.Kind,
		KitKey:           x.KitAddress.Key,
		Copy:             max(x.Copy, 1),
		Version:          version,
		NormalizedDigest: x.Baseline.NormalizedDigest,
		Doc:              x.Baseline.Doc,
		Bytes:            x.Baseline.Bytes,
		Meta:             metaText(meta),
	}
}

// originKey is what makes an origin one: a copy of an item of a kit.
var originKey = []clause.Column{
	{Name: "collection_id"}, {Name: "kit"}, {Name: "kit_kind"}, {Name: "kit_key"}, {Name: "copy"},
}

// Origins is the repository of where items came from.
type Origins struct{ t *Tx }

// Origins gives the origins.
func (t *Tx) Origins() Origins { return Origins{t} }

// OfKit lists what a kit, or "site:NAME" for the library, brought to a collection.
func (r Origins) OfKit(collection int64, kit string) ([]Origin, error) {
	return all[Origin](r.t.db.Where("collection_id = ? AND kit = ?", collection, kit))
}

// Put records where items came from; what was recorded of the same copies before is replaced.
func (r Origins) Put(rows []Origin) error {
	if len(rows) == 0 {
		return nil
	}
	up := clause.OnConflict{Columns: originKey, DoUpdates: clause.AssignmentColumns(
		[]string{"version", "item_id", "normalized_digest", "doc", "bytes", "meta", "delivery_id"})}
	return r.t.db.Clauses(up).CreateInBatches(rows, 400).Error
}

// PutBare records where one item came from, of which no content is remembered.
func (r Origins) PutBare(row *Origin) error {
	up := clause.OnConflict{Columns: originKey,
		DoUpdates: clause.AssignmentColumns([]string{"item_id", "normalized_digest"})}
	return r.t.db.Clauses(up).Create(row).Error
}

// Delete forgets where items came from, by the numbers of the records.
func (r Origins) Delete(ids []int64) error {
	for part := range slices.Chunk(ids, 500) {
		if err := r.t.db.Where("id IN ?", part).Delete(&Origin{}).Error; err != nil {
			return err
		}
	}
	return nil
}
