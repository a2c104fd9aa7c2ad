package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/internal/store"
)

// Kit states.
const (
	Making = store.Making
	Sealed = store.Sealed
)

// KitInfo is one version of a kit.
type KitInfo struct {
	store.KitVersion
	Name     string
	Metadata making.Draft
	Packs    *kit.PackingList // sealed: as sealed; making: as it would be
	Check    []kit.Finding
	// Signers are those who signed a sealed kit.
	Signers []Signer
	// Made is how a kit in the making was put together.
	Made *making.Assembled
}

// kitVersion gives a version's row.
func (d *Desk) kitVersion(ctx context.Context, name, version string) (*store.KitVersion, error) {
	k, err := d.Store.Read(ctx).Kits().ByName(name, version)
	what := "kit " + name + "@" + version
	if errors.Is(err, store.ErrNotFound) {
		return nil, problem(NotFound, what, To(CheckName, "of", "kit"), "it does not exist")
	}
	return &k.KitVersion, explain(what, err)
}

// sealed gives a sealed version's row to somebody who may look.
func (d *Desk) sealed(ctx context.Context, p Person, name, version string) (*store.KitVersion, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err == nil && v.State != Sealed {
		return nil, problem(Refused, what, To(SealKit, "kit", name+"@"+version), "it is not sealed yet")
	}
	return v, err
}

// Kit gives one version of a kit: a sealed one as it is, one in the making as it
// would be sealed now, with its check.
func (d *Desk) Kit(ctx context.Context, p Person, name, version string) (*KitInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	info, err := d.making(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	if v := info.KitVersion; v.State == Sealed {
		info.Packs = &kit.PackingList{}
		if err := json.Unmarshal([]byte(v.List), info.Packs); err != nil {
			return nil, explain(what, err)
		}
		info.Signers, err = d.signers(ctx, &info.KitVersion, "")
		return info, explain(what, err)
	}
	if err := d.assemble(ctx, p, info); err != nil {
		return nil, explain(what, err)
	}
	found, err := kit.CheckIn(info.Packs, closure.NewSmall(item.Until(info.Made.Items, ctx.Err)), info.Made.Origins...)
	if err != nil {
		return nil, explain(what, err)
	}
	info.Check = append(info.Check, found...)
	kit.SortFindings(info.Check)
	return info, nil
}

// making gives a version with what a person says of it.
func (d *Desk) making(ctx context.Context, p Person, name, version string) (*KitInfo, error) {
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, err
	}
	info := &KitInfo{KitVersion: *v, Name: name, Check: []kit.Finding{}}
	return info, explain("kit "+name+"@"+version, json.Unmarshal([]byte(v.Making), &info.Metadata))
}

// assemble puts the packing list and the items together as they would be sealed.
func (d *Desk) assemble(ctx context.Context, p Person, info *KitInfo) error {
	made, err := making.Assemble(info.Name, info.Version, info.Metadata, func(name string) (*making.Source, error) {
		src, err := d.source(ctx, p, name)
		var pr *Problem
		if errors.As(err, &pr) && (pr.Type == NotFound || pr.Type == Refused || pr.Type == BadInput) {
			err = &making.GoneError{Err: err}
		}
		return src, err
	})
	if err != nil {
		return err
	}
	info.Made, info.Packs = made, made.List
	if made.Waiting > 0 {
		info.Check = append(info.Check, kit.Finding{
			Message: "pages that its pieces stand on are still being run, to see what their scripts put on them",
			Remedy:  "look again in a moment; sealing waits for it"})
	}
	info.Check = append(info.Check, made.Found...)
	return nil
}

// Kits lists all versions of all kits, by name, the newest version first.
func (d *Desk) Kits(ctx context.Context, p Person) ([]KitInfo, error) {
	if err := p.may(Viewer, "kits"); err != nil {
		return nil, err
	}
	rows, err := d.Store.Read(ctx).Kits().List()
	if err != nil {
		return nil, explain("kits", err)
	}
	out := make([]KitInfo, len(rows))
	for i, r := range rows {
		out[i] = KitInfo{KitVersion: r.KitVersion, Name: r.Name}
		if err := json.Unmarshal([]byte(r.Making), &out[i].Metadata); err != nil {
			return nil, explain("kits", err)
		}
		if r.State == Sealed {
			out[i].Packs = &kit.PackingList{}
			if err := json.Unmarshal([]byte(r.KitVersion.List), out[i].Packs); err != nil {
				return nil, explain("kits", err)
			}
		}
	}
	sort.SliceStable(out, func(i, j int) bool {
		if out[i].Name != out[j].Name {
			return out[i].Name < out[j].Name
		}
		return newer(out[i].Version, out[j].Version)
	})
	return out, nil
}

// Face gives the item by which a kit is known at sight: what its makers chose, else its home page, else its first page,
// section, part or block. ok is false where it has none.
func (k KitInfo) Face() (face item.Address, ok bool) {
	var all []item.Head
	for _, p := range k.Metadata.Picks {
		all = append(all, item.Head{Address: p.Address})
	}
	proposes := k.Metadata.Proposes
	if k.Packs != nil {
		all, proposes = nil, k.Packs.Proposes
		for _, e := range k.Packs.Items {
			all = append(all, e.Head())
		}
	}
	chosen := k.Metadata.Face
	if k.Packs != nil {
		chosen = k.Packs.Face
	}
	home, _ := proposes["setting/home"].(string)
	for _, isFace := range []func(item.Head) bool{
		func(h item.Head) bool { return h.Address == chosen && kit.CanBeFace(chosen.Kind) },
		func(h item.Head) bool { return h.Address.Kind == item.Page && h.Address.String() == home },
		func(h item.Head) bool { return h.Address.Kind == item.Page && h.Meta.Slug == "/" },
		func(h item.Head) bool {
			return h.Address.Kind == item.Page && (h.Address.Key == "home" || h.Address.Key == "index")
		},
		func(h item.Head) bool { return h.Address.Kind == item.Page },
		func(h item.Head) bool { return h.Address.Kind == item.Section },
		func(h item.Head) bool { return h.Address.Kind == item.Part },
		func(h item.Head) bool { return h.Address.Kind == item.Block },
	} {
		if i := slices.IndexFunc(all, isFace); i >= 0 {
			return all[i].Address, true
		}
	}
	return face, false
}

// KitItem gives one item of a sealed kit.
func (d *Desk) KitItem(ctx context.Context, p Person, name, version string, a item.Address) (*ItemInfo, error) {
	what := "kit " + name + "@" + version
	v, err := d.sealed(ctx, p, name, version)
	if err != nil {
		return nil, err
	}
	_, view, err := d.parcelView(ctx, v)
	if err != nil {
		return nil, explain(what, err)
	}
	return itemOf(view, what, a)
}

// parcelView gives a sealed kit as planning wants it.
func (d *Desk) parcelView(ctx context.Context, v *store.KitVersion) (*kit.PackingList, *store.View, error) {
	list := &kit.PackingList{}
	if err := json.NewDecoder(strings.NewReader(v.List)).Decode(list); err != nil {
		return nil, nil, fmt.Errorf("reading the packing list: %w", err)
	}
	c, err := d.Store.Read(ctx).Collections().ByID(*v.CollectionID)
	if err != nil {
		return nil, nil, err
	}
	view, err := d.Store.Live(ctx, c)
	return list, view, err
}
