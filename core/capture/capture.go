// Package capture takes pieces out of a collection with all that they lean on,
// ready for a kit: the closure, and of each stylesheet only the rules that the
// pieces use.
package capture

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// Order says what is wanted.
type Order struct {
	Chosen []item.Address
	// Stop ends the work by its error: nobody waits for it any more. It may be nil.
	Stop func() error
	// Leave lists what stays behind by choice and becomes a need.
	Leave []item.Address
	// WholeSheets takes stylesheets whole: for a home where other pieces will lean
	// on them, too. A kit made from there is exact again.
	WholeSheets bool
	// KeepHeads takes pages with all scripts of their heads: for a source that is no
	// site, where none is a site's own.
	KeepHeads bool
	// InPlace leaves texts that do not change where they are until they are read: for a
	// source on disk.
	InPlace bool
	// Known are facts of items that were worked out already.
	Known map[item.Address]*facts.Facts
	// At says where a piece stands that was cut out of another item.
	At map[item.Address]At
	// Ran gives pages of the source as they are once their scripts have run. It may be nil.
	Ran Ran
}

// Weight compares what is carried of a stylesheet with the whole.
type Weight struct {
	Address    item.Address `json:"address"`
	Bytes      int          `json:"bytes"`
	WholeBytes int          `json:"wholeBytes"`
	Rules      int          `json:"rules"`
	WholeRules int          `json:"wholeRules"`
	// ByScripts are classes that no source has, and whose rules come since a script that comes along may put them on;
	// WhenRun those that were seen when the page was run.
	ByScripts []string `json:"byScripts,omitempty"`
	WhenRun   []string `json:"whenRun,omitempty"`
}

// Taken is what was captured.
type Taken struct {
	Items   *item.Set
	Closure *closure.Result
	// Uses says for each item what it leans on among the items.
	Uses       map[item.Address][]item.Address
	StyleOrder []item.Address
	Needs      []kit.ItemNeed
	Fillins    []kit.Fillin
	LeavesOut  []kit.LeftOut
	Weights    []Weight
	Notes      []kit.Finding
	// World knows the facts of the items.
	World *closure.Small
}

// world shows the source with its stylesheets cut down to what is carried.
type world struct {
	*closure.Small
	carried map[item.Address][]byte
	heads   *heads
	cut     bool
	parts   *[]item.Head // of the source; nil until they are asked for
}

func (w *world) Facts(h item.Head) (*facts.Facts, error) {
	if h.Address.Kind == item.Page && w.heads != nil {
		b, without, err := w.heads.without(h)
		if err != nil || len(without) == 0 {
			return w.Small.Facts(h)
		}
		return facts.Extract(h.Address.Kind, h.Meta.Context, b), nil
	}
	if h.Address.Kind != item.Stylesheet || !w.cut {
		return w.Small.Facts(h)
	}
	if b, ok := w.carried[h.Address]; ok {
		return facts.Extract(h.Address.Kind, "", b), nil
	}
	// Not cut yet: only its imports count.
	f, err := w.Small.Facts(h)
	if err != nil {
		return nil, err
	}
	imports := &facts.Facts{}
	for _, r := range f.Refs {
		if r.Space == facts.Address && r.Where.In == facts.InImport {
			imports.Refs = append(imports.Refs, r)
		}
	}
	return imports, nil
}

// Take captures the chosen items of a collection. Stylesheets that were chosen
// themselves come whole; all others exact. Nothing site-only is taken: settings
// come only when chosen, and only portable ones.
func Take(src item.Collection, o Order) (taken *Taken, err error) {
	t := &Taken{Items: item.NewSet(), Uses: map[item.Address][]item.Address{}}
	homes := newHomes(src, o.At)
	if src, err = dress(src, o, homes); err != nil {
		return nil, err
	}
	chosen, whole := t.chosen(src, o)
	w := &world{Small: closure.NewSmall(src), carried: map[item.Address][]byte{}, cut: !o.WholeSheets}
	for a, f := range o.Known {
		if h, ok := src.Find(a); ok {
			w.Small.Know(h, f)
		}
	}
	if len(o.Chosen) > len(src.Heads())/2 { // most of it is looked at anyway: on all cores
		w.Small.Prime()
	}
	if !o.KeepHeads {
		if w.heads, err = newHeads(src); err != nil {
			return nil, err
		}
	}
	if src, err = t.close(src, w, homes, chosen, whole, o); err != nil {
		return nil, err
	}
	have := map[item.Address]bool{}
	for _, e := range t.Closure.Items {
		have[e.Address] = true
	}
	fills := map[string]*kit.Fillin{}
	for _, e := range t.Closure.Items {
		f, err := t.take(src, w, e.Address, have, o)
		if err != nil {
			return nil, err
		}
		for _, p := range f.Fills {
			if fills[p.Name] == nil {
				fills[p.Name] = &kit.Fillin{Name: p.Name, Label: Label(p.Name), Type: FillType(p.Target),
					Sample: p.Sample, Required: true}
			}
		}
	}
	for _, f := range fills {
		t.Fillins = append(t.Fillins, *f)
	}
	sort.Slice(t.Fillins, func(i, j int) bool { return t.Fillins[i].Name < t.Fillins[j].Name })
	t.needs()
	if err := t.order(src, w, have); err != nil {
		return nil, err
	}
	t.World = w.Small.Over(t.Items)
	return t, nil
}

// chosen gives what may travel of what was chosen, and what of it comes whole.
func (t *Taken) chosen(src item.Collection, o Order) (chosen []item.Address, whole map[item.Address]bool) {
	whole = map[item.Address]bool{}
	for _, a := range o.Chosen {
		whole[a] = true
		if h, ok := src.Find(a); ok && a.Kind == item.Setting && !h.Meta.IsPortable(a.Key) {
			t.LeavesOut = append(t.LeavesOut, kit.LeftOut{Address: a.String(), Why: "site-only"})
			continue
		}
		chosen = append(chosen, a)
	}
	return chosen, whole
}

// close works out the closure, and cuts the stylesheets of which not all is needed. It gives the source without those
// of which nothing is.
func (t *Taken) close(
	src item.Collection, w *world, homes *homes, chosen []item.Address, whole map[item.Address]bool, o Order,
) (item.Collection, error) {
	leave := map[item.Address]bool{}
	for _, a := range o.Leave {
		leave[a] = true
	}
	left := func(a item.Address) bool { return leave[a] }
	first, err := closure.Compute(w, chosen, left)
	if err != nil {
		return nil, err
	}
	if w.cut && allWhole(first, whole) {
		w.cut = false // there is nothing to cut
		if first, err = closure.Compute(w, chosen, left); err != nil {
			return nil, err
		}
		w.cut = !allWhole(first, whole)
	}
	if w.cut {
		if err := t.carry(src, w, homes, first, whole, o); err != nil {
			return nil, err
		}
		var pieces []item.Address
		for _, e := range first.Items {
			pieces = append(pieces, e.Address)
		}
		if src, err = withoutEmpty(src, w, whole, pieces); err != nil {
			return nil, err
		}
		w.Small = w.Small.Over(src)
		if w.heads != nil {
			w.heads.of(src)
		}
	}
	t.Closure, err = closure.Compute(w, chosen, left)
	return src, err
}

// take puts one item of the closure among what was taken.
func (t *Taken) take(
	src item.Collection, w *world, a item.Address, have map[item.Address]bool, o Order,
) (f *facts.Facts, err error) {
	h, _ := src.Find(a)
	b, ok := w.carried[a]
	file := !ok && (h.Address.Kind == item.Media || o.InPlace && (h.Address.Kind != item.Page || w.heads == nil))
	if !ok && !file {
		if b, err = t.read(src, w, h); err != nil {
			return nil, err
		}
	}
	if own := h.Address.Kind == item.Page && !file; ok || own && item.DigestOf(b) != h.Doc {
		f = facts.Extract(h.Address.Kind, h.Meta.Context, b)
	} else if f, err = w.Small.Facts(h); err != nil {
		return nil, err
	}
	isCut := ok && item.DigestOf(b) != h.Doc // an address that is written otherwise cuts nothing
	if settled := settles(src, f); settled != nil {
		if file {
			if b, err = t.read(src, w, h); err != nil {
				return nil, err
			}
			file = false
		}
		if b, err = facts.Relink(h.Address.Kind, h.Meta.Context, b, settled); err != nil {
			return nil, err
		}
		f = facts.Extract(h.Address.Kind, h.Meta.Context, b)
	}
	h.ID, h.NormalizedDigest = "", f.NormalizedDigest
	if !o.WholeSheets {
		h.Meta.Kept = nil // the addresses that a file kept are its site's own
	}
	h.Meta.Styles = keep(h.Meta.Styles, have)
	if h.Address.Kind == item.Stylesheet {
		h.Meta.Cut = h.Meta.Cut || isCut
	}
	if h.Address.Kind == item.Page && w.heads != nil {
		h.Meta.AtHome = atHome(w.partsOf(src), h, f)
	}
	if from := h; file { // a file stays where it is until it is packed
		t.Items.PutFile(h, func() (io.ReadCloser, error) { return src.Open(from) })
	} else {
		t.Items.Put(h, b)
	}
	seen := map[item.Address]bool{}
	for _, u := range closure.Uses(w, h, f) {
		if have[u.To] && !seen[u.To] && u.To != a && !u.To.IsZero() {
			seen[u.To] = true
			t.Uses[a] = append(t.Uses[a], u.To)
		}
	}
	return f, nil
}

// settles gives the function that writes addresses which files kept at home as those of the items: elsewhere nothing
// answers there. It is nil where nothing names such an address.
func settles(src item.Collection, f *facts.Facts) func(facts.Ref) (string, bool) {
	to := func(r facts.Ref) (string, bool) {
		if r.Space != facts.Address {
			return "", false
		}
		a, ok := item.FileAt(src, r.Name)
		if !ok || r.Name == "/"+a.Path() {
			return "", false
		}
		return "/" + a.Path(), true
	}
	if !slices.ContainsFunc(f.Refs, func(r facts.Ref) bool { _, named := to(r); return named }) {
		return nil
	}
	return to
}

// allWhole tells that every stylesheet of a closure comes whole.
func allWhole(c *closure.Result, whole map[item.Address]bool) bool {
	for _, e := range c.Items {
		if e.Address.Kind == item.Stylesheet && !whole[e.Address] {
			return false
		}
	}
	return true
}

// read gives an item's content as it travels: a page without its site's own scripts.
func (t *Taken) read(src item.Collection, w *world, h item.Head) ([]byte, error) {
	if h.Address.Kind != item.Page || w.heads == nil {
		return item.Read(src, h)
	}
	b, without, err := w.heads.without(h)
	for _, s := range without {
		t.LeavesOut = append(
			t.LeavesOut,
			kit.LeftOut{
				Address: h.Address.String(),
				Why: "the script " + s.script + " of its head is site-only, until " + facts.HeadScripts.String() +
					" of the source calls it portable",
				Script: s.script,
				Names:  s.names,
			},
		)
	}
	return b, err
}

func keep(in []item.Address, have map[item.Address]bool) []item.Address {
	var out []item.Address
	for _, a := range in {
		if have[a] {
			out = append(out, a)
		}
	}
	return out
}

// carry cuts every stylesheet that was not chosen itself.
func (t *Taken) carry(
	src item.Collection, w *world, homes *homes, c *closure.Result, whole map[item.Address]bool, o Order,
) error {
	s := &shower{
		src: src, w: w, r: render.New(src), pieces: map[item.Address][]css.Subject{},
		homes: homes, pages: &ranPages{ask: o.Ran, trees: map[string][]*markup.Tree{}},
		names: addedNames{map[string]bool{}, map[string]bool{}},
	}
	var err error
	var scripted bool
	if s.switched, scripted, err = switchedBy(w, src, c); err != nil {
		return err
	}
	if !scripted {
		s.pages.ask = nil
	}
	if err := t.wear(s, c); err != nil {
		return err
	}
	pieces := s.pieces
	for a := range whole {
		if a.Kind == item.Stylesheet && pieces[a] == nil {
			pieces[a] = []css.Subject{}
		}
	}
	var used []css.SheetUse
	var heads []item.Head
	order, _, err := sheetOrder(src, w, c.Items)
	if err != nil {
		return err
	}
	cascade, err := inCascade(src, w, order, pieces)
	if err != nil {
		return err
	}
	for _, a := range cascade {
		h, ok := src.Find(a)
		if !ok || a.Kind != item.Stylesheet {
			continue
		}
		b, err := item.Read(src, h)
		if err != nil {
			return err
		}
		used, heads = append(used, css.SheetUse{Sheet: css.Parse(b), Pieces: pieces[a], Whole: whole[a]}),
			append(heads, h)
	}
	cuts, err := css.SubsetUntil(used, o.Stop)
	if err != nil {
		return err
	}
	for i, cut := range cuts {
		if err := t.carried(s, heads[i], cut, used[i], whole); err != nil {
			return err
		}
	}
	return nil
}

// wear finds, for the pieces of a closure, the stylesheets that they are shown with.
func (t *Taken) wear(s *shower, c *closure.Result) error {
	for _, e := range c.Items {
		if !e.Address.Kind.IsMarkup() {
			continue
		}
		h, _ := s.src.Find(e.Address)
		p, err := s.subjects(h)
		if err != nil {
			return err
		}
		if slug, ok := s.homes.quirks[h.Address]; ok {
			t.Notes = append(t.Notes, kit.Finding{Address: h.Address, Message: "it stands in " + slug +
				", a page without <!doctype html>: browsers show such pages in quirks mode, and the piece in " +
				"standards mode"})
		}
		t.tellRemote(h, p)
		f, err := s.w.Small.Facts(h)
		if err != nil {
			return err
		}
		seen := map[item.Address]bool{}
		for _, u := range closure.Uses(s.w.Small, h, f) {
			if u.To.Kind != item.Stylesheet || seen[u.To] {
				continue
			}
			seen[u.To] = true
			if err := s.give(u.To, p, map[item.Address]bool{}); err != nil {
				return err
			}
		}
	}
	return nil
}

// carried notes what is carried of a sheet.
func (t *Taken) carried(
	s *shower, h item.Head, cut css.SubsetResult, of css.SheetUse, whole map[item.Address]bool,
) error {
	s.w.carried[h.Address] = cut.CSS
	if whole[h.Address] {
		return nil
	}
	f, err := s.w.Small.Facts(h)
	if err != nil {
		return err
	}
	weight := Weight{Address: h.Address, Bytes: len(cut.CSS), WholeBytes: len(of.Sheet.Source), Rules: cut.Kept,
		WholeRules: cut.All}
	weight.ByScripts, weight.WhenRun = s.names.of(f, s.switched)
	t.Weights = append(t.Weights, weight)
	for _, n := range cut.Notes {
		t.Notes = append(t.Notes, kit.Finding{Address: h.Address, Message: n})
	}
	return nil
}

// tellRemote tells of a stylesheet on another host that a piece is shown with.
func (t *Taken) tellRemote(h item.Head, p []css.Subject) {
	for _, x := range p {
		if x.Remote == "" {
			continue
		}
		says := "it wears a stylesheet of " + x.Remote + ", which is loaded from there; custom properties are " +
			"all kept for it"
		if h.Address.Kind != item.Page {
			says = "at home it wears a stylesheet of " + x.Remote + ", too, which does not come along; it may " +
				"look different"
		}
		t.Notes = append(t.Notes, kit.Finding{Address: h.Address, Message: says})
		return
	}
}

// shower finds what a stylesheet may match: pieces alone, in their variants, and where they
// stand.
type shower struct {
	src      item.Collection
	w        *world
	r        *render.Renderer
	homes    *homes
	switched map[string]bool
	pieces   map[item.Address][]css.Subject // by stylesheet
	pages    *ranPages
	names    addedNames
}

// give lists who is shown with a sheet, directly or through another's @import, however many stand
// between; a circle of them ends.
func (s *shower) give(sheet item.Address, p []css.Subject, had map[item.Address]bool) error {
	if had[sheet] {
		return nil
	}
	had[sheet] = true
	s.pieces[sheet] = append(s.pieces[sheet], p...)
	h, ok := s.src.Find(sheet)
	if !ok || sheet.Kind != item.Stylesheet {
		return nil
	}
	f, err := s.w.Small.Facts(h)
	if err != nil {
		return err
	}
	for _, ref := range f.Refs {
		if a, ok := item.FileAt(s.src, ref.Name); ok && ref.Where.In == facts.InImport && a != sheet {
			if err := s.give(a, p, had); err != nil {
				return err
			}
		}
	}
	return nil
}

// subjects gives one piece as it is written, as it stands, as it is shown, and in each variant.
func (s *shower) subjects(h item.Head) ([]css.Subject, error) {
	b, err := item.Read(s.src, h)
	if err != nil {
		return nil, err
	}
	p := []css.Subject{css.SubjectOf(markup.Parse(b, h.Meta.Context))}
	stands, err := s.homes.of(h, p[0].Root)
	if err != nil {
		return nil, err
	}
	p = append(p, stands...)
	shown, err := s.r.Fragment(h.Address)
	var failed *item.ReadError
	if errors.As(err, &failed) {
		return nil, err
	}
	if err == nil { // what cannot be shown is cut by its source alone
		tree := markup.Parse(shown, h.Meta.Context)
		p = append(p, css.SubjectOf(tree))
		for _, v := range h.Meta.Variants { // each looks as its own rules say
			if len(tree.Root.Children) == 0 || !tree.Root.Children[0].Own {
				continue
			}
			as, err := span.Apply(shown, []span.Edit{markup.SetAttr(tree.Root.Children[0], "data-variant", v)})
			if err != nil {
				return nil, err
			}
			p = append(p, css.SubjectOf(markup.Parse(as, h.Meta.Context)))
		}
	}
	classesIn(s.names.written, p)
	ran, err := s.ran(h, p[0].Root)
	if err != nil {
		return nil, err
	}
	classesIn(s.names.seen, ran)
	p = append(p, ran...)
	for i := range p {
		p[i].Switched = s.switched
	}
	return p, nil
}

// inCascade gives stylesheets in an order, each behind those that it imports.
func inCascade(
	src item.Collection, w *world, order []item.Address, sheets map[item.Address][]css.Subject,
) ([]item.Address, error) {
	var rest []item.Address
	for a := range sheets {
		rest = append(rest, a)
	}
	sort.Slice(rest, func(i, j int) bool { return rest[i].Less(rest[j]) })
	var out []item.Address
	seen := map[item.Address]bool{}
	var visit func(a item.Address) error
	visit = func(a item.Address) error {
		if seen[a] || sheets[a] == nil {
			return nil
		}
		seen[a] = true
		if h, ok := src.Find(a); ok {
			f, err := w.Small.Facts(h)
			if err != nil {
				return err
			}
			for _, r := range f.Refs {
				if to, ok := item.FileAt(src, r.Name); ok && r.Where.In == facts.InImport {
					if err := visit(to); err != nil {
						return err
					}
				}
			}
		}
		out = append(out, a)
		return nil
	}
	for _, a := range append(order, rest...) {
		if err := visit(a); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// needs turns what is lacking into the packing list's words: what the source has
// and links to is a declared need; what it has not is a finding.
func (t *Taken) needs() {
	for _, n := range t.Closure.Needs {
		var why []string
		for _, r := range n.Reasons {
			if text := r.String(); len(why) < 3 && (len(why) == 0 || why[len(why)-1] != text) {
				why = append(why, text)
			}
		}
		need := kit.ItemNeed{Slug: n.Slug, Optional: n.Optional, Why: strings.Join(why, "; ")}
		if !n.Address.IsZero() {
			need.Address = n.Address.String()
		}
		if !n.Known && !n.Optional {
			t.Notes = append(t.Notes, kit.Finding{
				Address: n.Reasons[0].From,
				Line:    n.Reasons[0].Line,
				Stops:   true,
				Message: fmt.Sprintf("it %s, which is not there",
					n.Reasons[0].Relation.Sentence(n.Address.String(), n.Reasons[0].Where)),
				Remedy: "put it into the source, or take the reference out",
			})
			continue
		}
		t.Needs = append(t.Needs, need)
		if n.Known && !n.Optional {
			t.LeavesOut = append(t.LeavesOut, kit.LeftOut{Address: n.Address.String(), Why: "left out by choice"})
		} else if n.Address.Kind == item.Setting {
			t.LeavesOut = append(t.LeavesOut,
				kit.LeftOut{Address: n.Address.String(), Why: "the receiving site's own is shown"})
		}
	}
}

// Label proposes what people read beside a fill-in, by its name.
func Label(name string) string {
	s := strings.ReplaceAll(strings.ReplaceAll(name, "-", " "), "_", " ")
	return strings.ToUpper(s[:1]) + s[1:]
}

// FillType proposes a fill-in's type, by what of an element takes the value.
func FillType(target string) kit.FillinType {
	switch target {
	case "src", "poster":
		return kit.FillImage
	case "href":
		return kit.FillURL
	case "html":
		return kit.FillRichText
	}
	return kit.FillText
}
