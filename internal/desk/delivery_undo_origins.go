package desk

import (
	"encoding/json"
	"fmt"
	"slices"

	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// originKey is what an origin is of: a copy of an item of the kit.
type originKey struct {
	at   item.Address
	copy int
}

func keyOf(o store.Origin) originKey { return originKey{o.Address(), o.Copy} }

// giveBackOrigins takes this delivery out of the chain of deliveries of its kit, of some items by their ids, or of
// all where there are none. What it recorded last goes back to what it had replaced; what a later delivery
// recorded stays, and that one's undo will go back past this one.
func (x *undoing) giveBackOrigins(ids map[string]bool) error {
	id := x.info.ID
	mine := func(o store.Origin) bool { return o.DeliveryID == id && (len(ids) == 0 || ids[o.ItemID]) }
	prior := map[originKey]store.Origin{}
	for _, o := range x.info.Receipted.Prior {
		o.ID = 0
		prior[keyOf(o)] = o
	}
	now, err := x.tx.Origins().OfKit(x.c.ID, x.info.Kit)
	if err != nil {
		return err
	}
	var gone []int64
	var back []store.Origin
	for _, o := range now {
		if !mine(o) {
			continue
		}
		gone = append(gone, o.ID)
		if p, was := prior[keyOf(o)]; was {
			back = append(back, p)
		}
	}
	if err := x.tx.Origins().Delete(gone); err != nil {
		return err
	}
	if err := x.tx.Origins().Put(back); err != nil {
		return err
	}
	later, err := x.tx.Deliveries().LiveSince(x.c.ID, x.info.Kit, *x.info.LiveRev)
	if err != nil {
		return err
	}
	for _, d := range later { // one that changed nothing went live at the revision that was there
		if d.ID == id {
			continue
		}
		if err := x.bypass(d, mine, prior); err != nil {
			return err
		}
	}
	return nil
}

// bypass lets a later delivery's undo go back to what this one had replaced.
func (x *undoing) bypass(
	d store.Delivery, mine func(store.Origin) bool, prior map[originKey]store.Origin,
) error {
	var receipt Receipt
	if err := json.Unmarshal([]byte(d.Receipt), &receipt); err != nil {
		return fmt.Errorf("the receipt of delivery %d: %w", d.ID, err)
	}
	if !slices.ContainsFunc(receipt.Prior, mine) {
		return nil
	}
	var list []store.Origin
	for _, o := range receipt.Prior {
		if p, was := prior[keyOf(o)]; mine(o) && was {
			list = append(list, p)
		} else if !mine(o) {
			list = append(list, o)
		}
	}
	receipt.Prior = list
	text, err := json.Marshal(receipt)
	if err != nil {
		return err
	}
	return x.tx.Deliveries().UndoSome(d.ID, string(text), x.d.Now())
}
