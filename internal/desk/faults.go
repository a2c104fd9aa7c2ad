package desk

import (
	"context"
	"errors"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// SiteFaults finds what visitors of a site would trip over; in a draft when that is not 0, with what
// the live site does not have first.
func (d *Desk) SiteFaults(ctx context.Context, p Person, name string, draft int64) ([]faults.Fault, error) {
	v, err := d.Look(ctx, p, name, draft)
	if err != nil {
		return nil, err
	}
	o, err := d.faultOptions(ctx, v)
	if err != nil {
		return nil, explain("site "+name, err)
	}
	found, err := faults.Check(v, o)
	if err == nil && v.Collection.Kind == store.Site {
		if _, broken := receiversOf(v); broken != nil {
			found = append([]faults.Fault{{Kind: faults.Unreadable, Address: setForms, Message: broken.Error(),
				Remedy: "correct its source"}}, found...)
		}
	}
	if err != nil || draft == 0 {
		return found, explain("site "+name, err)
	}
	live, err := d.Look(ctx, p, name, 0)
	if err != nil {
		return nil, err
	}
	had, err := faults.Check(live, o)
	faults.MarkNew(found, had)
	return found, explain("site "+name, err)
}

// faultOptions gathers what is known beside a site's items: samples of the kits that were delivered,
// and what other sites call themselves.
func (d *Desk) faultOptions(ctx context.Context, v *store.View) (o faults.Options, err error) {
	if v.Collection.Kind != store.Site {
		return o, nil
	}
	origins, err := v.OriginsOf()
	if err != nil {
		return o, err
	}
	type release struct{ kit, version string }
	kits := map[release]bool{}
	foreign := map[item.Address]bool{}
	for _, h := range v.Heads() {
		if from, ok := origins[h.ID]; ok {
			foreign[h.Address] = true
			if !strings.Contains(from.Kit, ":") { // the library and sites have no samples of their own
				kits[release{from.Kit, from.Version}] = true
			}
		}
	}
	if err := d.formFaults(ctx, v, &o); err != nil {
		return o, err
	}
	var unset []string // settings whose words a kit has samples for
	for _, key := range []string{"title", "strapline"} {
		if _, ok := v.Find(item.Address{Kind: item.Setting, Key: key}); !ok {
			unset = append(unset, key)
		}
	}
	for k := range kits {
		row, err := d.Store.Read(ctx).Kits().ByName(k.kit, k.version)
		if errors.Is(err, store.ErrNotFound) {
			continue // a site's copy may come from a service with other kits
		}
		if err != nil {
			return o, err
		}
		list, view, err := d.parcelView(ctx, &row.KitVersion)
		if err != nil {
			return o, err
		}
		words, err := faults.StandIns(view, unset)
		if err != nil {
			return o, err
		}
		o.Samples = append(o.Samples, words...)
		for _, f := range list.Fillins {
			o.Samples = append(o.Samples, f.Sample)
		}
	}
	o.Foreign = func(a item.Address) bool { return foreign[a] }
	sites, err := d.Store.Read(ctx).Collections().OfKind(store.Site)
	for _, s := range sites {
		if s.ID != v.Collection.ID && s.Title != "" && s.Title != v.Collection.Title {
			o.Others = append(o.Others, s.Title)
		}
	}
	return o, err
}

// formFaults gathers who gets what is sent with the forms of a site.
func (d *Desk) formFaults(ctx context.Context, v *store.View, o *faults.Options) error {
	receivers, err := receiversOf(v)
	var failed *item.ReadError
	if errors.As(err, &failed) {
		return err
	}
	o.Receives = func(form string) bool { return len(receivers[form].To) > 0 }
	outlets, err := d.outlets(ctx, v.Collection.ID)
	for _, x := range outlets {
		if x.Forms == "" {
			o.Outlets = append(o.Outlets, x.Name)
		}
	}
	return err
}

// KitFaults finds what visitors would trip over in a kit, shown as a site of its own.
func (d *Desk) KitFaults(ctx context.Context, p Person, name, version string) ([]faults.Fault, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	info, err := d.making(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	var site item.Collection
	if info.State == Sealed {
		list, view, err := d.parcelView(ctx, &info.KitVersion)
		if err != nil {
			return nil, explain(what, err)
		}
		site = list.AsSite(view)
	} else {
		if err := d.assemble(ctx, p, info); err != nil {
			return nil, explain(what, err)
		}
		site = info.Packs.AsSite(info.Made.Items)
	}
	found, err := faults.Check(closure.NewSmall(item.Until(site, ctx.Err)), faults.Options{Partial: true})
	return found, explain(what, err)
}
