package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"compactparcel/core/plan"
	"compactparcel/internal/store"

	"github.com/Masterminds/semver/v3"
)

// Delivery states.
const (
	Opened  = store.Opened
	Planned = store.Planned
	Staged  = store.Staged
	Live    = store.Live
	Undone  = store.Undone
)

// DeliveryInfo is a delivery with its plan.
type DeliveryInfo struct {
	store.Delivery
	Site       string
	Kit        string
	Version    string
	DraftToken string
	Asked      plan.Request
	Planned    *plan.Plan
	Receipted  *Receipt
}

func newer(a, b string) bool {
	x, errX := semver.StrictNewVersion(a)
	y, errY := semver.StrictNewVersion(b)
	if errX != nil || errY != nil {
		return a > b
	}
	return x.GreaterThan(y)
}

// load gives a delivery's row with what it speaks of.
func (d *Desk) load(ctx context.Context, id int64) (*DeliveryInfo, *store.Collection, *store.KitVersion, error) {
	what := fmt.Sprintf("delivery %d", id)
	info := &DeliveryInfo{}
	row, err := d.Store.Read(ctx).Deliveries().ByID(id)
	if err != nil {
		return nil, nil, nil, explain(what, err)
	}
	info.Delivery = *row
	c, err := d.Store.Read(ctx).Collections().ByID(info.CollectionID)
	if err != nil {
		return nil, nil, nil, explain(what, err)
	}
	v, err := d.Store.Read(ctx).Kits().ByID(info.KitVersionID)
	if err != nil {
		return nil, nil, nil, explain(what, err)
	}
	info.Site, info.Kit, info.Version = c.Name, v.Name, v.Version
	if err := json.Unmarshal([]byte(info.Ask), &info.Asked); err != nil {
		return nil, nil, nil, explain(what, err)
	}
	if info.Receipt != "" {
		info.Receipted = &Receipt{}
		if err := json.Unmarshal([]byte(info.Receipt), info.Receipted); err != nil {
			return nil, nil, nil, explain(what, err)
		}
	}
	if info.DraftID != nil {
		dr, err := d.Store.FindDraft(ctx, *info.DraftID)
		if err != nil {
			return nil, nil, nil, explain(what, err)
		}
		if dr.State == store.DraftOpen {
			info.DraftToken = dr.Token
		}
	}
	return info, c, &v.KitVersion, nil
}

// Delivery gives one delivery.
func (d *Desk) Delivery(ctx context.Context, p Person, id int64) (*DeliveryInfo, error) {
	if err := p.may(Viewer, fmt.Sprintf("delivery %d", id)); err != nil {
		return nil, err
	}
	info, _, _, err := d.load(ctx, id)
	if err != nil {
		return nil, err
	}
	return info, info.readPlan()
}

// readPlan reads the plan of a delivery, which can be long: who plans anew needs none.
func (i *DeliveryInfo) readPlan() error {
	if i.Plan == "" || i.Planned != nil {
		return nil
	}
	i.Planned = &plan.Plan{LeftOut: []plan.LeftOut{}} // which plans of before do not have
	return explain(fmt.Sprintf("delivery %d", i.ID), json.Unmarshal([]byte(i.Plan), i.Planned))
}

// Deliveries lists all deliveries, the newest first.
func (d *Desk) Deliveries(ctx context.Context, p Person) ([]DeliveryInfo, error) {
	if err := p.may(Viewer, "deliveries"); err != nil {
		return nil, err
	}
	rows, err := d.Store.Deliveries(ctx)
	out := make([]DeliveryInfo, len(rows))
	for i, r := range rows {
		out[i] = DeliveryInfo{Delivery: r.Delivery, Site: r.Site, Kit: r.Kit, Version: r.Version}
	}
	return out, explain("deliveries", err)
}
