package capture

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/kit"
)

// FromFolder makes a kit of a folder: one that was unpacked from a kit (with its
// packing list, whose words stay), one in our own layout, also without a table of
// contents, or one of loose HTML, CSS and pictures. All portable items are taken, stylesheets whole;
// what they lean on and is not there becomes a need.
func FromFolder(fsys fs.FS) (*kit.PackingList, *Taken, []kit.Finding, error) {
	list, set, report, err := readFolder(fsys)
	if err != nil {
		return nil, nil, nil, err
	}
	order := Order{KeepHeads: true, Known: report.Facts, InPlace: true}
	for _, h := range set.Heads() {
		if h.Address != item.StyleOrder {
			order.Chosen = append(order.Chosen, h.Address)
		}
	}
	t, err := Take(set, order)
	if err != nil {
		return nil, nil, nil, err
	}
	inherit(list, t)
	for _, h := range t.Items.Heads() {
		list.Items = append(list.Items, kit.Entry{Kind: h.Address.Kind, Key: h.Address.Key, SHA256: h.Doc,
			NormalizedDigest: h.NormalizedDigest, Bytes: h.Bytes, Meta: h.Meta, Uses: t.Uses[h.Address]})
	}
	list.Settle()
	var notes []kit.Finding
	for _, n := range t.Notes {
		if !n.Stops { // what is missing the check says, too
			notes = append(notes, n)
		}
	}
	for _, l := range append(report.Left, report.Notes...) {
		notes = append(notes, kit.Finding{Message: l.Path + ": " + l.Why})
	}
	return list, t, notes, nil
}

// readFolder reads a folder in whichever of the layouts it is in, and its packing list, if any.
func readFolder(fsys fs.FS) (*kit.PackingList, *item.Set, *folder.Report, error) {
	list := &kit.PackingList{}
	b, err := fs.ReadFile(fsys, kit.ListName)
	if errors.Is(err, fs.ErrNotExist) {
		if folder.InOurLayout(fsys) { // its table of contents got lost
			set, report, err := folder.ReadItems(fsys, folder.Manifest{Format: 1}, kit.SealName, "views", "pictures")
			return list, set, report, err
		}
		set, report, err := folder.Read(fsys)
		return list, set, report, err
	}
	if err != nil {
		return nil, nil, nil, err
	}
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	if err := dec.Decode(list); err != nil {
		return nil, nil, nil, fmt.Errorf("%s is not in order: %w", kit.ListName, err)
	}
	m := folder.Manifest{Format: 1, StyleOrder: list.StyleOrder}
	for _, e := range list.Items {
		m.Items = append(m.Items, folder.ManifestItem{Kind: e.Kind, Key: e.Key, Meta: e.Meta})
	}
	set, report, err := folder.ReadItems(fsys, m, kit.ListName, kit.SealName, "views", "pictures")
	return list, set, report, err
}

// inherit brings a packing list up to what was taken now: what people said in it stays.
func inherit(list *kit.PackingList, t *Taken) {
	declared := map[string]kit.Fillin{}
	for _, f := range list.Fillins {
		declared[f.Name] = f
	}
	left := map[kit.LeftOut]bool{}
	for _, l := range list.LeavesOut {
		left[l] = true
	}
	for _, l := range t.LeavesOut { // what was left out when it was packed first stays so
		if !left[l] {
			left[l] = true
			list.LeavesOut = append(list.LeavesOut, l)
		}
	}
	list.Items, list.Fillins, list.StyleOrder, list.Generated = nil, nil, t.StyleOrder, nil
	for _, f := range t.Fillins {
		if own, ok := declared[f.Name]; ok {
			f = own
		}
		list.Fillins = append(list.Fillins, f)
	}
	needs := map[string]bool{}
	for _, n := range list.Needs.Items {
		needs[n.Address], needs[n.Slug] = true, true
	}
	for _, n := range t.Needs { // a page that is declared may be known by its slug alone now
		if (n.Address == "" || !needs[n.Address]) && (n.Slug == "" || !needs[n.Slug]) {
			list.Needs.Items = append(list.Needs.Items, n)
		}
	}
}
