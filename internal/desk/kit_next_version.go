package desk

import (
	"context"

	"compactparcel/core/kit"
	"compactparcel/internal/store"

	"github.com/Masterminds/semver/v3"
)

// KitNextVersion compares a version with the sealed one before it. The first version of a
// kit has none, and any number is enough.
func (d *Desk) KitNextVersion(ctx context.Context, p Person, name, version string) (*kit.VersionAdvice, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, err
	}
	out := &kit.VersionAdvice{
		Advice: kit.Advice{
			Next:    version,
			Step:    kit.FirstVersion,
			Reasons: []string{"it is the first sealed version"},
		},
		Comparison: kit.Comparison{To: name + "@" + version, Metadata: []string{}, Changes: []kit.Change{}},
		Enough:     true,
	}
	last, err := d.sealedBefore(ctx, v.KitID, version)
	if err != nil || last == nil {
		return out, explain(what, err)
	}
	oldList, oldItems, err := d.parcelView(ctx, last)
	if err != nil {
		return nil, explain(what, err)
	}
	next := kit.Contents{}
	if v.State == Sealed {
		var items *store.View
		next.List, items, err = d.parcelView(ctx, v)
		next.Items = items
	} else {
		var info *KitInfo
		if info, err = d.making(ctx, p, name, version); err == nil {
			err = d.assemble(ctx, p, info)
		}
		if err == nil {
			next.List, next.Items = info.Packs, info.Made.Items
		}
	}
	if err != nil {
		return nil, explain(what, err)
	}
	advice, changes, err := kit.AdviseOn(kit.Contents{List: oldList, Items: oldItems}, next)
	if err != nil {
		return nil, explain(what, err)
	}
	return &kit.VersionAdvice{Advice: *advice, Comparison: *changes, Enough: advice.Enough(version)}, nil
}

// sealedBefore gives the highest sealed version of a kit below another; nil when there
// is none.
func (d *Desk) sealedBefore(ctx context.Context, kitID int64, version string) (*store.KitVersion, error) {
	rows, err := d.Store.Read(ctx).Kits().SealedOf(kitID)
	if err != nil {
		return nil, err
	}
	at, err := semver.StrictNewVersion(version)
	if err != nil {
		return nil, err
	}
	var best *store.KitVersion
	for i := range rows {
		v, err := semver.StrictNewVersion(rows[i].Version)
		if err == nil && v.LessThan(at) && (best == nil || newer(rows[i].Version, best.Version)) {
			best = &rows[i]
		}
	}
	return best, nil
}
