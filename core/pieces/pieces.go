// Package pieces takes a kit apart: one kit for each of its pieces, with all that the
// piece leans on, and only the blanks and needs that are its own.
package pieces

import (
	"archive/zip"
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/views"
)

// Piece is one page, section, part or block of a kit, or another item that nothing in
// the kit uses, as a kit of its own.
type Piece struct {
	Address item.Address
	List    *kit.PackingList
	Items   item.Collection
}

// FileName is what the piece's file is called.
func (p Piece) FileName() string { return p.List.Kit + "-" + p.List.Version + ".cpkit" }

// Split gives the pieces of a kit. Each carries the kit's terms and version; its name is
// the kit's with the piece's behind it, as in hut-basics.part.site-header.
func Split(list *kit.PackingList, items item.Collection) ([]Piece, error) {
	byAddress := map[item.Address]kit.Entry{}
	used := map[item.Address]bool{}
	for _, e := range list.Items {
		byAddress[e.Address()] = e
		for _, u := range e.Uses {
			used[u] = true
		}
	}
	w := closure.NewSmall(items)
	var out []Piece
	for _, e := range list.Items {
		if used[e.Address()] && !views.Shown(e.Kind) {
			continue
		}
		s := &splitter{
			whole: list,
			by:    byAddress,
			w:     w,
			in:    map[item.Address]bool{},
			fills: map[string]bool{},
			names: map[string]bool{},
		}
		if err := s.take(e.Address()); err != nil {
			return nil, err
		}
		out = append(out, Piece{e.Address(), s.list(e), items})
	}
	return out, nil
}

type splitter struct {
	whole *kit.PackingList
	by    map[item.Address]kit.Entry
	w     *closure.Small
	in    map[item.Address]bool
	items []kit.Entry
	fills map[string]bool
	names map[string]bool // addresses, slugs and components that the piece names
}

// take puts an item in with all that it uses.
func (s *splitter) take(a item.Address) error {
	e, ok := s.by[a]
	if !ok || s.in[a] {
		return nil
	}
	s.in[a] = true
	s.items = append(s.items, e)
	f, err := s.w.Facts(e.Head())
	if err != nil {
		return err
	}
	for _, p := range f.Fills {
		s.fills[p.Name] = true
	}
	for _, u := range closure.Uses(s.w, e.Head(), f) {
		s.names[u.To.String()], s.names[u.Slug] = true, true
		if u.Found && !u.Soft {
			if err := s.take(u.To); err != nil {
				return err
			}
		}
	}
	for _, r := range f.Refs {
		if r.Space == facts.Component {
			s.names["component/"+r.Name] = true
		}
	}
	return nil
}

func (s *splitter) list(of kit.Entry) *kit.PackingList {
	l := s.whole
	own := &kit.PackingList{
		Kit:     item.MakeKey(strings.ReplaceAll(l.Kit+"."+string(of.Kind)+"."+of.Key, "/", "-")),
		Version: l.Version,
		Title:   cmp.Or(l.Title, l.Kit) + ": " + of.Address().String(),
		Summary: l.Summary,
		Changes: l.Changes,
		Terms:   l.Terms,
		Authors: l.Authors,
		Engine:  l.Engine,
		Items:   s.own(),
	}
	if of.Title != "" {
		own.Title = cmp.Or(l.Title, l.Kit) + ": " + of.Title
	}
	for _, a := range l.StyleOrder {
		if s.in[a] {
			own.StyleOrder = append(own.StyleOrder, a)
		}
	}
	for _, f := range l.Fillins {
		if s.fills[f.Name] {
			own.Fillins = append(own.Fillins, f)
		}
	}
	for _, n := range l.Needs.Items {
		if n.Address != "" && s.names[n.Address] || n.Slug != "" && s.names[n.Slug] {
			own.Needs.Items = append(own.Needs.Items, n)
		}
	}
	for n, c := range l.Needs.Components {
		if s.names["component/"+n] {
			if own.Needs.Components == nil {
				own.Needs.Components = map[string]kit.ComponentNeed{}
			}
			own.Needs.Components[n] = c
		}
	}
	if len(own.Needs.Items) > 0 {
		own.Needs.Kits = l.Needs.Kits // what is needed may be theirs
	}
	for a := range s.by { // what it links to in the whole kit is not in it
		if p := s.by[a]; a.Kind == item.Page && !s.in[a] && s.names[a.String()] {
			own.Needs.Items = append(own.Needs.Items,
				kit.ItemNeed{Address: a.String(), Slug: p.Slug, Optional: true, Why: "links to it"})
		}
	}
	for _, x := range l.LeavesOut {
		if at, err := item.ParseAddress(x.Address); err != nil || s.in[at] || s.names[x.Address] {
			own.LeavesOut = append(own.LeavesOut, x)
		}
	}
	own.Settle()
	return own
}

// own gives the piece's entries with what they use of each other.
func (s *splitter) own() []kit.Entry {
	out := make([]kit.Entry, len(s.items))
	for i, e := range s.items {
		e.Uses = slices.DeleteFunc(slices.Clone(e.Uses), func(a item.Address) bool { return !s.in[a] })
		out[i] = e
	}
	return out
}

// Write writes a piece as a kit file with its views.
func (p Piece) Write(w io.Writer) error {
	open, done, err := views.Add(p.List, onlyOf(p.Items, p.List), nil)
	if err != nil {
		return err
	}
	defer done()
	_, err = kit.Write(w, p.List, open)
	return err
}

// only shows those items of a collection that a packing list names.
type only struct {
	*item.Index
	heads map[item.Address]item.Head
	of    item.Collection
}

func onlyOf(c item.Collection, list *kit.PackingList) only {
	heads := make([]item.Head, 0, len(list.Items))
	byAddress := make(map[item.Address]item.Head, len(list.Items))
	for _, e := range list.Items {
		heads = append(heads, e.Head())
		byAddress[e.Address()] = e.Head()
	}
	item.SortHeads(heads)
	return only{item.NewIndex(heads), byAddress, c}
}

// Find gives the item at an address.
func (o only) Find(a item.Address) (item.Head, bool) { h, ok := o.heads[a]; return h, ok }

// Open gives an item's content.
func (o only) Open(h item.Head) (io.ReadCloser, error) { return o.of.Open(h) }

// WriteAll writes a ZIP of kit files, one for each piece.
func WriteAll(w io.Writer, list []Piece) error {
	z := zip.NewWriter(w)
	for _, p := range list {
		f, err := z.CreateHeader(&zip.FileHeader{Name: p.FileName(), Method: zip.Store})
		if err != nil {
			return err
		}
		if err := p.Write(f); err != nil {
			return fmt.Errorf("writing %s: %w", p.Address, err)
		}
	}
	return z.Close()
}
