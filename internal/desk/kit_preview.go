package desk

import (
	"context"

	"compactparcel/core/item"
)

// KitInMaking gives a kit in the making as a site of its own would show it. Whoever asks
// holds an address that cannot be guessed.
func (d *Desk) KitInMaking(ctx context.Context, version int64) (item.Collection, error) {
	k, err := d.Store.Read(ctx).Kits().ByID(version)
	if err != nil {
		return nil, err
	}
	shower := Person{Name: "preview", Role: Viewer}
	info, err := d.making(ctx, shower, k.Name, k.Version)
	if err != nil {
		return nil, err
	}
	if err := d.assemble(ctx, shower, info); err != nil {
		return nil, err
	}
	return info.Packs.AsSite(info.Made.Items), nil
}
