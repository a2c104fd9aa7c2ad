package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/internal/store"

	"gorm.io/gorm"
)

// DeliveryUndo takes a live delivery back in one new revision: every item that it
// wrote is again what it was before. An item that somebody has edited since, or
// that something new leans on, stops the undo, unless keepEdited asks to leave
// such items as they are.
func (d *Desk) DeliveryUndo(ctx context.Context, p Person, id int64, keepEdited bool) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	info, c, _, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	if info.State != Live {
		return nil, problem(Refused, what, "look at the list of deliveries", "it is %s; only a live delivery can be undone", info.State)
	}
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		locked, err := store.Lock(tx, c.ID)
		if err != nil {
			return err
		}
		rev := *info.LiveRev
		var wrote, before, open []store.Item
		if err := tx.Where("collection_id = ? AND from_rev = ?", c.ID, rev).Find(&wrote).Error; err != nil {
			return err
		}
		if err := tx.Where("collection_id = ? AND to_rev = ?", c.ID, rev).Find(&before).Error; err != nil {
			return err
		}
		if err := tx.Where("collection_id = ? AND to_rev = ?", c.ID, store.Forever).Find(&open).Error; err != nil {
			return err
		}
		prior, now := map[string]store.Item{}, map[string]store.Item{}
		for _, r := range before {
			prior[r.ItemID] = r
		}
		for _, r := range open {
			now[r.ItemID] = r
		}
		var stale store.StaleError
		var changes []store.Change
		var kept []item.Address
		leaving := map[string]bool{}
		for _, w := range wrote {
			cur, there := now[w.ItemID]
			old, had := prior[w.ItemID]
			switch {
			case there && cur.State == w.State && had:
				changes = append(changes, store.Change{Head: old.Head()})
			case there && cur.State == w.State:
				changes = append(changes, store.Change{Delete: true, Head: cur.Head()})
				leaving[w.ItemID] = true
			case !there && !had: // deleted meanwhile: it is as it was
			case there && had && cur.State == old.State: // set back by hand
			default:
				kept = append(kept, w.Address())
				stale.Conflicts = append(stale.Conflicts, store.Conflict{Address: w.Address(), Says: "has been edited since"})
			}
		}
		for _, b := range before {
			if _, still := now[b.ItemID]; still {
				continue
			}
			rewritten := false
			for _, w := range wrote {
				rewritten = rewritten || w.ItemID == b.ItemID
			}
			if !rewritten { // the delivery had taken it away
				changes = append(changes, store.Change{Head: b.Head()})
			}
		}
		var final []store.Change
		for _, ch := range changes {
			if ch.Delete {
				users, err := d.usersOutside(tx, c.ID, rev, ch.Head.Address, now, changes)
				if err != nil {
					return err
				}
				if len(users) > 0 {
					kept = append(kept, ch.Head.Address)
					stale.Conflicts = append(stale.Conflicts, store.Conflict{Address: ch.Head.Address, Says: fmt.Sprintf("is used by %s since", users[0])})
					continue
				}
			}
			final = append(final, ch)
		}
		if len(stale.Conflicts) > 0 && !keepEdited {
			pr := problem(Stale, what, "undo with --keep-edited to leave these as they are, or set them back first", "%s", stale.Error())
			pr.Details = stale.Conflicts
			return pr
		}
		undo, err := d.Store.Write(tx, locked, final, store.Note{By: p.Name, Act: "undo", Says: fmt.Sprintf("%s@%s taken back", info.Kit, info.Version), Delivery: &id, At: d.Now()})
		if err != nil {
			return err
		}
		if err := tx.Where("collection_id = ? AND kit = ? AND delivery_id = ?", c.ID, info.Kit, id).Delete(&store.Origin{}).Error; err != nil {
			return err
		}
		receipt := info.Receipted
		for _, o := range receipt.Prior {
			o.ID = 0
			if err := tx.Create(&o).Error; err != nil && !store.IsDuplicate(err) {
				return err
			}
		}
		receipt.Kept = kept
		text, _ := json.Marshal(receipt)
		r := tx.Model(&store.Delivery{}).Where("id = ? AND state = ?", id, Live).Updates(map[string]any{"state": Undone, "undo_rev": undo, "receipt": string(text), "etag": gorm.Expr("etag + 1"), "updated_at": d.Now()})
		if r.Error == nil && r.RowsAffected == 0 {
			return problem(Stale, what, "look at it again", "somebody undid it at the same time")
		}
		if r.Error != nil {
			return r.Error
		}
		return d.audit(tx, p, "undo", what, "")
	})
	if err != nil {
		return nil, explain(what, err)
	}
	d.publishOutlets(ctx, c.ID)
	return d.Delivery(ctx, p, id)
}

// usersOutside gives the items that have come to lean on an address since a
// revision and that stay as they are. An item that named it before the delivery
// came is no obstacle: the name led nowhere then, too.
func (d *Desk) usersOutside(tx *gorm.DB, collection, rev int64, a item.Address, now map[string]store.Item, changes []store.Change) ([]item.Address, error) {
	ids, err := store.UsersOf(tx, collection, a.String())
	if err != nil {
		return nil, err
	}
	changing := map[string]bool{}
	for _, ch := range changes {
		changing[ch.Head.ID] = true
	}
	var out []item.Address
	for _, id := range ids {
		user, ok := now[id]
		if !ok || changing[id] || user.FromRev < rev {
			continue
		}
		var old store.Item
		if tx.Where("collection_id = ? AND item_id = ? AND from_rev < ? AND to_rev >= ?", collection, id, rev, rev).Take(&old).Error == nil {
			named, err := d.Store.Names(tx.Statement.Context, old.Head(), a)
			if err != nil {
				return nil, err
			}
			if named {
				continue
			}
		}
		out = append(out, user.Address())
	}
	return out, nil
}
