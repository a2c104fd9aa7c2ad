package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// DeliveryGoLive puts a staged delivery live: its draft, its origins and its receipt
// in one transaction, in which its state and the site's are held. What somebody edited
// since it was staged is blended in; decisions settle, by conflict, what cannot be.
func (d *Desk) DeliveryGoLive(
	ctx context.Context,
	p Person,
	id int64,
	decisions map[string]blend.Decision,
) (*DeliveryInfo, error) {
	return d.deliveryGoLive(ctx, p, id, decisions, nil)
}

// MayGoLive tells why somebody cannot put a delivery live; nil when they can.
func (d *Desk) MayGoLive(p Person, id int64) error {
	return p.may(Keeper, fmt.Sprintf("delivery %d", id))
}

// deliveryGoLive is DeliveryGoLive while the delivery's draft is as may says; it is asked within the
// transaction, with the draft locked.
func (d *Desk) deliveryGoLive(
	ctx context.Context, p Person, id int64, decisions map[string]blend.Decision, may func(*store.Draft) error,
) (*DeliveryInfo, error) {
	what := fmt.Sprintf("delivery %d", id)
	if err := d.MayGoLive(p, id); err != nil {
		return nil, err
	}
	info, c, v, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	did, err := d.commit(ctx, func(tx *store.Tx) error {
		if may != nil && info.DraftID != nil {
			if _, err := tx.Collections().Lock(c.ID); err != nil {
				return err
			}
			dr, err := tx.LockDraft(*info.DraftID)
			if err != nil {
				return err
			}
			if err := may(dr); err != nil {
				return err
			}
		}
		return d.deliverNow(tx, p, info, c.ID, v, decisions)
	})
	if err != nil {
		return nil, explain(what, err)
	}
	d.publishOutlets(ctx, c.ID)
	return after(did, func() (*DeliveryInfo, error) { return d.Delivery(ctx, p, id) })
}

// deliverNow puts a delivery live within a transaction.
func (d *Desk) deliverNow(
	tx *store.Tx,
	p Person,
	info *DeliveryInfo,
	site int64,
	v *store.KitVersion,
	decisions map[string]blend.Decision,
) error {
	ctx, id, what := tx.Context(), info.ID, fmt.Sprintf("delivery %d", info.ID)
	locked, err := tx.Collections().Lock(site)
	if err != nil {
		return err
	}
	now, err := tx.Deliveries().Lock(id)
	if err != nil {
		return err
	}
	if _, again := store.Repeated(ctx); again && now.State == Live {
		return nil
	}
	if now.State != Staged || now.DraftID == nil {
		return problem(Refused, what, nextStep(now.State, id), "it is %s", now.State)
	}
	dr, err := tx.LockDraft(*now.DraftID)
	if err != nil {
		return err
	}
	if _, err := d.checkTrust(ctx, locked, v, what); err != nil {
		return err
	}
	var staged stagedDelivery
	if err := json.Unmarshal([]byte(now.Staged), &staged); err != nil {
		return err
	}
	receipt := staged.Receipt
	receipt.By, receipt.At = p.Name, d.Now().Format("2006-01-02T15:04:05Z07:00")
	if locked.Revision != dr.BaseRev || len(decisions) > 0 {
		if receipt.Meanwhile, err = d.meanwhile(tx, locked, dr, id, decisions); err != nil {
			return err
		}
	}
	receipt.Before = locked.Digest
	rev, err := tx.GoLive(locked, dr, store.Note{By: p.Name, Act: "deliver",
		Message: fmt.Sprintf("%s@%s delivered", info.Kit, info.Version), Delivery: &id, At: d.Now()})
	if err != nil {
		return err
	}
	receipt.After = locked.Digest
	if receipt.Prior, err = d.writeOrigins(tx, locked, info, staged.Origins); err != nil {
		return err
	}
	text, err := json.Marshal(receipt)
	if err != nil {
		return err
	}
	if err := tx.Deliveries().GoLive(id, rev, string(text), d.Now()); err != nil {
		return err
	}
	return d.audit(tx, p, "go-live", what, fmt.Sprintf("%s@%s into %s", info.Kit, info.Version, info.Site))
}

// writeOrigins records where items came from and gives the origins it replaced.
func (d *Desk) writeOrigins(
	tx *store.Tx,
	c *store.Collection,
	info *DeliveryInfo,
	list []stagedOrigin,
) ([]store.Origin, error) {
	at := make([]item.Address, len(list))
	for i, o := range list {
		at[i] = o.At
	}
	ids, err := tx.Collections().AddressesOf(c.ID, at)
	if err != nil {
		return nil, err
	}
	prior, err := tx.Origins().OfKit(c.ID, info.Kit)
	if err != nil {
		return nil, err
	}
	var origins []store.Origin
	for _, o := range list {
		id, ok := ids[o.At]
		if !ok {
			continue
		}
		o.CollectionID, o.ItemID, o.DeliveryID = c.ID, id, info.ID
		origins = append(origins, o.Origin)
	}
	return prior, tx.Origins().Put(origins)
}
