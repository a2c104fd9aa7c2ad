package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"sort"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/store"
)

// Kit states.
const (
	Making = "making"
	Sealed = "sealed"
)

// MakingWords is what a person says of a kit in the making.
type MakingWords struct {
	Title   string                `json:"title"`
	Summary string                `json:"summary"`
	Changes string                `json:"changes"`
	Terms   kit.Terms             `json:"terms"`
	Authors []kit.Author          `json:"authors"`
	Picks   []capture.Pick        `json:"picks"`
	Fillins map[string]kit.Fillin `json:"fillins"` // by name, in place of what was proposed
}

// KitInfo is one version of a kit.
type KitInfo struct {
	store.KitVersion
	Name   string
	Words  MakingWords
	Packs  *kit.PackingList // sealed: as sealed; making: as it would be
	Taken  []*capture.Taken // of a kit in the making
	Check  []kit.Finding
	Reason map[item.Address][]string
}

// kitVersion gives a version's row.
func (d *Desk) kitVersion(ctx context.Context, name, version string) (*store.KitVersion, error) {
	k, err := d.Store.FindKit(d.Store.DB(ctx), name, version)
	return &k.KitVersion, explain("kit "+name+"@"+version, err)
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
		return info, explain(what, json.Unmarshal([]byte(v.List), info.Packs))
	}
	set, err := d.assemble(ctx, p, info)
	if err != nil {
		return nil, explain(what, err)
	}
	found, err := kit.Check(info.Packs, set)
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
	return info, explain("kit "+name+"@"+version, json.Unmarshal([]byte(v.Making), &info.Words))
}

// assemble captures what was put in and makes the packing list as it would be.
func (d *Desk) assemble(ctx context.Context, p Person, info *KitInfo) (*item.Set, error) {
	w := info.Words
	list := &kit.PackingList{Kit: info.Name, Version: info.Version, Title: w.Title, Summary: w.Summary, Changes: w.Changes, Terms: w.Terms, Authors: w.Authors}
	set := item.NewSet()
	info.Reason = map[item.Address][]string{}
	from := map[string][]item.Address{}
	var sources []string
	for _, pick := range w.Picks {
		if from[pick.From] == nil {
			sources = append(sources, pick.From)
		}
		from[pick.From] = append(from[pick.From], pick.Address)
	}
	sort.Strings(sources)
	fills := map[string]bool{}
	needs := map[string]bool{}
	for _, s := range sources {
		v, err := d.Look(ctx, p, s, 0)
		if err != nil {
			return nil, err
		}
		t, err := capture.Take(v, capture.Order{Chosen: from[s], KeepHeads: s == LibraryName})
		if err != nil {
			info.Check = append(info.Check, kit.Finding{Stops: true, Says: s + ": " + err.Error(), WayOut: "take it out of the kit: it is gone from its source"})
			continue
		}
		info.Taken = append(info.Taken, t)
		info.Check = append(info.Check, t.Notes...)
		for _, h := range t.Items.Heads() {
			if old, ok := set.Find(h.Address); ok {
				if old.State() != h.State() {
					info.Check = append(info.Check, kit.Finding{Address: h.Address, Stops: true, Says: "two sources bring different items of this name", WayOut: "leave one of them, or rename it in its source"})
				}
				continue
			}
			if h.Address.Kind == item.Media {
				set.PutFile(h, func() (io.ReadCloser, error) { return t.Items.Open(h) })
			} else {
				b, err := item.Read(t.Items, h)
				if err != nil {
					return nil, err
				}
				set.Put(h, b)
			}
			list.Items = append(list.Items, kit.Entry{Kind: h.Address.Kind, Key: h.Address.Key, SHA256: h.Doc, Sense: h.Sense, Bytes: h.Bytes, Meta: h.Meta, Uses: t.Uses[h.Address]})
		}
		for _, e := range t.Closure.Items {
			for _, r := range e.Reasons {
				info.Reason[e.Address] = append(info.Reason[e.Address], r.From.String()+" "+r.Why)
			}
		}
		for _, a := range t.StyleOrder {
			have := false
			for _, x := range list.StyleOrder {
				have = have || x == a
			}
			if !have {
				list.StyleOrder = append(list.StyleOrder, a)
			}
		}
		for _, n := range t.Needs {
			if !needs[n.Address+" "+n.Slug] {
				needs[n.Address+" "+n.Slug] = true
				list.Needs.Items = append(list.Needs.Items, n)
			}
		}
		for _, f := range t.Fillins {
			if !fills[f.Name] {
				fills[f.Name] = true
				if own, ok := w.Fillins[f.Name]; ok {
					own.Name = f.Name
					if own.Sample == "" {
						own.Sample = f.Sample
					}
					f = own
				}
				list.Fillins = append(list.Fillins, f)
			}
		}
		list.LeavesOut = append(list.LeavesOut, t.LeavesOut...)
	}
	list.Settle()
	info.Packs = list
	return set, nil
}

// Kits lists all versions of all kits, by name, the newest version first.
func (d *Desk) Kits(ctx context.Context, p Person) ([]KitInfo, error) {
	if err := p.may(Viewer, "kits"); err != nil {
		return nil, err
	}
	rows, err := d.Store.Kits(ctx)
	if err != nil {
		return nil, explain("kits", err)
	}
	out := make([]KitInfo, len(rows))
	for i, r := range rows {
		out[i] = KitInfo{KitVersion: r.KitVersion, Name: r.Name}
		if err := json.Unmarshal([]byte(r.Making), &out[i].Words); err != nil {
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

// KitItem gives one item of a sealed kit.
func (d *Desk) KitItem(ctx context.Context, p Person, name, version string, a item.Address) (*ItemInfo, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, err
	}
	if v.State != Sealed {
		return nil, problem(Refused, what, "look at its source", "it is not sealed yet")
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
	var c store.Collection
	if err := d.Store.DB(ctx).Where("id = ?", v.CollectionID).Take(&c).Error; err != nil {
		return nil, nil, err
	}
	view, err := d.Store.Live(ctx, &c)
	return list, view, err
}
