package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/plan"
	"compactparcel/internal/store"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// DeliveryLive puts a staged delivery live: its draft, its origins and its receipt
// in one transaction.
func (d *Desk) DeliveryLive(ctx context.Context, p Person, id int64) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if info.State != Staged {
		return nil, problem(Refused, what, map[string]string{Opened: "plan and stage it first", Planned: "stage it first"}[info.State]+wayOnLive(info.State), "it is %s", info.State)
	}
	dr, err := d.draft(ctx, *info.DraftID)
	if err != nil {
		return nil, err
	}
	if _, err := d.checkTrust(ctx, c, v, what); err != nil {
		return nil, err
	}
	result, err := d.planAtStaging(ctx, c, v, info)
	if err != nil {
		return nil, explain(what, err)
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		locked, err := store.Lock(tx, c.ID)
		if err != nil {
			return err
		}
		var now store.Delivery
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).Take(&now).Error; err != nil {
			return err
		}
		if now.State != Staged || now.DraftID == nil || *now.DraftID != dr.ID {
			return problem(Stale, what, "look at it again", "it is %s meanwhile", now.State)
		}
		receipt := d.receipt(p, info, result, locked.Digest)
		rev, err := d.Store.GoLive(tx, locked, dr, store.Note{By: p.Name, Act: "deliver", Says: fmt.Sprintf("%s@%s delivered", info.Kit, info.Version), Delivery: &id, At: d.Now()})
		if err != nil {
			return err
		}
		receipt.After = locked.Digest
		if receipt.Prior, err = d.writeOrigins(tx, locked, info, result); err != nil {
			return err
		}
		text, _ := json.Marshal(receipt)
		if err := tx.Model(&store.Delivery{}).Where("id = ?", id).Updates(map[string]any{"state": Live, "live_rev": rev, "receipt": string(text), "etag": gorm.Expr("etag + 1"), "updated_at": d.Now()}).Error; err != nil {
			return err
		}
		return d.audit(tx, p, "go-live", what, fmt.Sprintf("%s@%s into %s", info.Kit, info.Version, info.Site))
	})
	if err != nil {
		return nil, explain(what, err)
	}
	d.publishOutlets(ctx, c.ID)
	return d.Delivery(ctx, p, id)
}

func wayOnLive(state string) string {
	if state == Live || state == Undone {
		return "open a new delivery"
	}
	return ""
}

// planAtStaging plans again over the state that was staged on: the receipt must
// speak of what was staged, not of what the site is meanwhile.
func (d *Desk) planAtStaging(ctx context.Context, c *store.Collection, v *store.KitVersion, info *DeliveryInfo) (*plan.Result, error) {
	base, err := d.Store.At(ctx, c, info.BaseRev)
	if err != nil {
		return nil, err
	}
	list, parcel, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, err
	}
	return plan.Make(base, plan.Parcel{List: list, Digest: v.Digest, Collection: parcel}, info.Asked)
}

// writeOrigins records where items came from and gives the origins it replaced.
func (d *Desk) writeOrigins(tx *gorm.DB, c *store.Collection, info *DeliveryInfo, r *plan.Result) ([]store.Origin, error) {
	var rows []store.Item
	if err := tx.Where("collection_id = ? AND to_rev = ?", c.ID, store.Forever).Find(&rows).Error; err != nil {
		return nil, err
	}
	byAddr := map[item.Address]store.Item{}
	for _, row := range rows {
		byAddr[row.Address()] = row
	}
	var prior []store.Origin
	if err := tx.Where("collection_id = ? AND kit = ?", c.ID, info.Kit).Find(&prior).Error; err != nil {
		return nil, err
	}
	keep := map[item.Address]bool{}
	for _, row := range r.Plan.Rows {
		// What the site keeps as its own did not come from the kit.
		if row.Standing == plan.Taken && row.Decision == plan.Keep {
			keep[row.Address] = true
		}
	}
	for _, x := range append(append([]plan.Put{}, r.Puts...), r.Kept...) {
		if x.KitAddress.IsZero() || keep[x.KitAddress] {
			continue
		}
		row, ok := byAddr[x.Head.Address]
		if !ok {
			continue
		}
		o := store.Origin{CollectionID: c.ID, Kit: info.Kit, KitKind: string(x.KitAddress.Kind), KitKey: x.KitAddress.Key, Copy: 1, Version: info.Version, ItemID: row.ItemID, Sense: x.Head.Sense, DeliveryID: info.ID}
		up := clause.OnConflict{Columns: []clause.Column{{Name: "collection_id"}, {Name: "kit"}, {Name: "kit_kind"}, {Name: "kit_key"}, {Name: "copy"}}, DoUpdates: clause.AssignmentColumns([]string{"version", "item_id", "sense", "delivery_id"})}
		if err := tx.Clauses(up).Create(&o).Error; err != nil {
			return nil, err
		}
	}
	return prior, nil
}
