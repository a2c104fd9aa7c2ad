package plan

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"sort"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// StyleOverride is a declaration of a rule of the site's that decides something of an element of the kit's page, where
// the kit's rules alone would have it otherwise.
type StyleOverride struct {
	Page     item.Address `json:"page"`
	Element  string       `json:"element"`  // the way to it, as css.PathTo writes it
	Property string       `json:"property"` // as the site's rule says it, a shorthand too
	Value    string       `json:"value"`
	// Kit is what the kit's rules say, with its property if that is another; empty: nothing.
	Kit  string `json:"kit,omitempty"`
	By   string `json:"by"` // the stylesheet and its rule
	When string `json:"when,omitempty"`
}

// maxHits bounds how many hits are listed of one page.
const maxHits = 200

// shownSheet is a stylesheet of a page, in its order.
type shownSheet struct {
	of   item.Address
	src  []byte
	site bool
}

// styleOverrides finds what of the site's rules hits the kit's own elements of a page, as the page
// will be shown. own tells which items are the kit's. Rules for a state and for
// pseudo-elements are passed over.
func styleOverrides(after item.Collection, page item.Head, own func(item.Address) bool) ([]StyleOverride, error) {
	r := render.New(after)
	shown, err := r.Page(render.PageRequest{Slug: page.Meta.Slug, Mapped: true})
	if err != nil {
		return nil, err
	}
	sheets, err := sheetsOf(after, shown.Reached, own)
	if err != nil || len(sheets) == 0 {
		return nil, err
	}
	var theirs []span.Span
	for _, a := range shown.Reached {
		if (a.Kind == item.Part || a.Kind == item.Section) && !own(a) {
			theirs = append(theirs, shown.Map.Stands(a)...)
		}
	}
	sort.Slice(theirs, func(i, j int) bool { return theirs[i].Start < theirs[j].Start })
	tree := markup.Parse(shown.Body, "")
	return cascadeOf(sheets).overrides(page.Address, tree,
		func(n *markup.Node) bool { return standsIn(n.Start, theirs) }), nil
}

// sheetCascade is the cascade of both sides' sheets.
type sheetCascade struct {
	*css.Cascade
	sheets []shownSheet
}

func cascadeOf(sheets []shownSheet) sheetCascade {
	sources := make([][]byte, len(sheets))
	for i, s := range sheets {
		sources[i] = s.src
	}
	return sheetCascade{css.NewCascade(sources...), sheets}
}

// overrides finds which properties of a document's elements a rule of the site's decides,
// where the kit's rules alone would have them otherwise.
func (c sheetCascade) overrides(of item.Address, tree *markup.Tree, skip func(*markup.Node) bool) []StyleOverride {
	sheets := c.sheets
	type best struct{ all, kit *css.Applied }
	winners := map[*markup.Node]map[string]best{}
	c.Apply(tree, skip, func(n *markup.Node, x css.Applied) {
		if winners[n] == nil {
			winners[n] = map[string]best{}
		}
		for _, name := range css.Longhands(x.Name, x.Value) {
			b := winners[n][name]
			if b.all == nil || x.Priority.Outranks(b.all.Priority) {
				b.all = &x
			}
			if kits := x.Sheet < 0 || !sheets[x.Sheet].site; kits &&
				(b.kit == nil || x.Priority.Outranks(b.kit.Priority)) {
				b.kit = &x
			}
			winners[n][name] = b
		}
	})
	var out []StyleOverride
	for _, n := range tree.All {
		told := map[*css.Applied]int{} // a shorthand is one declaration, whatever it sets
		for _, p := range slices.Sorted(maps.Keys(winners[n])) {
			b := winners[n][p]
			kit := ""
			if b.kit != nil {
				kit = b.kit.Value
			}
			if b.all.Sheet < 0 || !sheets[b.all.Sheet].site || b.all.Value == kit {
				continue
			}
			if b.kit != nil && b.kit.Name != b.all.Name {
				kit = b.kit.Name + ": " + kit
			}
			if at, ok := told[b.all]; ok {
				out[at].Kit = cmp.Or(out[at].Kit, kit)
				continue
			}
			if len(out) == maxHits {
				return out
			}
			told[b.all] = len(out)
			out = append(out, StyleOverride{
				Page:     of,
				Element:  css.PathTo(n),
				Property: b.all.Name,
				Value:    b.all.Value,
				Kit:      kit,
				By:       fmt.Sprintf("%s %s", sheets[b.all.Sheet].of, b.all.Selector),
				When:     b.all.When,
			})
		}
	}
	return out
}

// sheetsOf gives a page's stylesheets in their order; none when all are the kit's.
func sheetsOf(after item.Collection, reached []item.Address, own func(item.Address) bool) ([]shownSheet, error) {
	place := map[item.Address]int{}
	order, err := render.StyleOrder(after)
	if err != nil {
		return nil, err
	}
	for i, a := range order {
		place[a] = i + 1
	}
	var out []shownSheet
	foreign := false
	for _, a := range reached {
		if a.Kind != item.Stylesheet {
			continue
		}
		h, ok := after.Find(a)
		if !ok {
			continue
		}
		b, err := item.Read(after, h)
		if err != nil {
			return nil, err
		}
		out = append(out, shownSheet{a, b, !own(a)})
		foreign = foreign || !own(a)
	}
	if !foreign {
		return nil, nil
	}
	sort.SliceStable(out, func(i, j int) bool {
		x, y := place[out[i].of], place[out[j].of]
		if x == 0 || y == 0 {
			return x != 0
		}
		return x < y
	})
	return out, nil
}

func standsIn(at span.Span, list []span.Span) bool {
	for _, s := range list {
		if at.Start >= s.Start && at.Start < s.End {
			return true
		}
	}
	return false
}

// maxOverridePages bounds how many new pages of a delivery are held against the site's rules.
const maxOverridePages = 12

// pageOverrides finds what of the site's rules hits the pages that come new, each as it will be
// shown.
func pageOverrides(g given, out output, deletions []item.Head, order []item.Address) ([]StyleOverride, error) {
	var pages []item.Head
	own := map[item.Address]bool{}
	for _, p := range slices.Concat(out.writes, out.kept) {
		if !p.KitAddress.IsZero() {
			own[p.Head.Address] = true
		}
	}
	for _, p := range out.writes {
		if _, there := g.site.Find(p.Head.Address); !there && p.Head.Address.Kind == item.Page &&
			!p.KitAddress.IsZero() {
			pages = append(pages, p.Head)
		}
	}
	if len(pages) == 0 {
		return nil, nil
	}
	if n := len(pages); n > maxOverridePages {
		pages = pages[:maxOverridePages]
		g.note("Of %d new pages, the first %d were compared with the site's rules.", n, maxOverridePages)
	}
	over, err := after(g.site, g.parcel.Collection, out.writes, deletions, order)
	if err != nil {
		return nil, err
	}
	var found []StyleOverride
	for _, h := range pages {
		hits, err := styleOverrides(over, h, func(a item.Address) bool { return own[a] })
		if err != nil {
			return nil, err
		}
		found = append(found, hits...)
	}
	return found, nil
}

// maxPieceOverrides bounds how many pieces of a delivery are held against the site's rules.
const maxPieceOverrides = 24

// pieceOverrides finds which of the site's rules still reach the elements of what comes new,
// wherever it will stand: pages are looked at as they will be shown.
func pieceOverrides(g given, rows rowList, writes []PlannedWrite) ([]StyleOverride, error) {
	m := &overrider{given: g, rowList: rows, writes: writes}
	return m.all()
}

// overrider is the stage that holds pieces against the site's rules.
type overrider struct {
	given
	rowList
	writes []PlannedWrite
}

func (m *overrider) all() ([]StyleOverride, error) {
	var out []StyleOverride
	var pieces []PlannedWrite
	for _, p := range m.writes {
		switch k := p.Head.Address.Kind; {
		case p.KitAddress.IsZero() || m.rows[p.KitAddress] == nil || m.rows[p.KitAddress].Base != "":
		case k == item.Section || k == item.Block || k == item.Part:
			pieces = append(pieces, p)
		}
	}
	if len(pieces) == 0 || len(m.site.Sheets()) == 0 {
		return nil, nil
	}
	sheets, err := m.sheetsThatMeet()
	if err != nil {
		return nil, err
	}
	both := cascadeOf(sheets)
	for i, p := range pieces {
		if i == maxPieceOverrides {
			m.note("Of %d new pieces, the first %d were compared with the site's rules.", len(pieces),
				maxPieceOverrides)
			break
		}
		b, err := m.textOf(p)
		if err != nil {
			return nil, err
		}
		out = append(out,
			both.overrides(p.Head.Address, markup.Parse(b, p.Head.Meta.Context), nil)...)
	}
	return out, nil
}

// sheetsThatMeet are the site's stylesheets in their order, with those of the delivery
// behind.
func (m *overrider) sheetsThatMeet() ([]shownSheet, error) {
	var out []shownSheet
	replaced := map[item.Address]bool{}
	for _, p := range m.writes {
		replaced[p.Head.Address] = true
	}
	place := map[item.Address]int{}
	order, err := m.site.StyleOrder()
	if err != nil {
		return nil, err
	}
	for i, a := range order {
		place[a] = i + 1
	}
	came := map[item.Address]bool{}
	for _, o := range m.origins {
		came[o.Item] = true
	}
	for _, h := range m.site.Sheets() {
		if h.Address.Kind != item.Stylesheet || replaced[h.Address] || came[h.Address] {
			continue
		}
		b, err := item.Read(m.site, h)
		if err != nil {
			return nil, err
		}
		out = append(out, shownSheet{h.Address, b, true})
	}
	sort.SliceStable(out, func(i, j int) bool { return place[out[i].of] < place[out[j].of] })
	for _, p := range m.writes {
		if p.Head.Address.Kind == item.Stylesheet && !p.KitAddress.IsZero() {
			b, err := m.textOf(p)
			if err != nil {
				return nil, err
			}
			out = append(out, shownSheet{p.Head.Address, b, false})
		}
	}
	return out, nil
}
