package plan

import (
	"fmt"
	"slices"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// SurroundRow is a new page of the kit that leaves parts of the site out, since at home it had
// these roles as its own or not at all.
type SurroundRow struct {
	Key       string       `json:"key"`
	Page      item.Address `json:"page"` // in the kit
	Own       []item.Role  `json:"own"`
	None      []item.Role  `json:"none"`
	Decision  Decision     `json:"decision"` // kit: as at home; site: with the site's parts
	DecidedBy DecidedBy    `json:"decidedBy"`
	Choices   []Choice     `json:"choices"`
}

// atHome says how a page of the kit had the roles of its surround: as its packing list says,
// and for one that was packed before that was noted, by the landmarks of its body.
func (in *inputs) atHome(h item.Head) (map[item.Role]item.AtHome, error) {
	if h.Address.Kind != item.Page || len(h.Meta.AtHome) > 0 {
		return h.Meta.AtHome, nil
	}
	f, err := in.facts(h)
	if err != nil {
		return nil, err
	}
	out := map[item.Role]item.AtHome{}
	for _, r := range f.Landmarks {
		out[r] = item.HadOwn
	}
	return out, nil
}

// readSurrounds works out for every page that comes new what it leaves out. T depends on it:
// the metadata, and with the site's parts also the text, are as decided.
func readSurrounds(g given) (surrounding, error) {
	m := &surrounder{given: g, surrounding: surrounding{
		leaving:   map[item.Address]map[item.Role]bool{},
		uncovered: map[item.Address]bool{},
	}}
	err := m.all()
	return m.surrounding, err
}

// surrounding is what pages that come new leave out.
type surrounding struct {
	surrounds []SurroundRow
	leaving   map[item.Address]map[item.Role]bool // by page of the kit
	uncovered map[item.Address]bool               // pages that lose landmarks of their own
}

// surrounder is the stage that works surroundings out.
type surrounder struct {
	given
	surrounding
}

func (m *surrounder) all() error {
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind != item.Page {
			continue
		}
		home, err := m.atHome(h)
		if err != nil {
			return err
		}
		if origin, came := m.origin(h); came {
			m.surroundAsBefore(h, home, origin)
			continue
		}
		row := SurroundRow{Key: Key(AboutSurround, h.Address.String()), Page: h.Address, Own: []item.Role{},
			None: []item.Role{}, Decision: ForKit, DecidedBy: ByRule}
		leave := map[item.Role]bool{}
		for _, r := range item.SurroundRoles {
			switch home[r] {
			case item.HadOwn:
				row.Own, leave[r] = append(row.Own, r), true
			case item.HadNone:
				row.None, leave[r] = append(row.None, r), true
			case item.HadPart:
			}
		}
		if len(leave) == 0 {
			continue
		}
		row.Choices = surroundChoices(row)
		if d, ok := m.decided(row.Key, about(fmt.Sprint(row.Own, row.None))); ok {
			if d.Decision != ForKit && d.Decision != ForSite {
				return &DecisionError{row.Key, "choose " + choiceWords(row.Choices), row.Choices}
			}
			row.Decision, row.DecidedBy = d.Decision, ByPerson
		}
		if row.Decision == ForKit {
			m.leaving[h.Address] = leave
		} else {
			m.uncovered[h.Address] = true
		}
		m.surrounds = append(m.surrounds, row)
	}
	return nil
}

// surroundAsBefore takes over what a page left out when it was delivered: that is no change of
// the kit's.
func (m *surrounder) surroundAsBefore(h item.Head, home map[item.Role]item.AtHome, origin Origin) {
	key := Key(AboutSurround, h.Address.String())
	if _, said := m.ask.Decisions[key]; said { // of the delivery of then, as answers repeat it
		m.used[key] = true
	}
	if d, ok := m.prior.Decisions[key]; ok && d.Decision == ForSite {
		m.uncovered[h.Address] = true
	}
	leave := map[item.Role]bool{}
	for _, r := range item.SurroundRoles {
		if origin.Meta != nil && origin.Meta.LeavesOut(r) && (home[r] == item.HadOwn || home[r] == item.HadNone) {
			leave[r] = true
		}
	}
	if len(leave) > 0 {
		m.leaving[h.Address] = leave
	}
}

func surroundChoices(row SurroundRow) []Choice {
	names := func(list []item.Role) string {
		var out []string
		for _, r := range list {
			out = append(out, string(r))
		}
		return joined(out)
	}
	asHome, withSite := "the page stands as at home", "the site's parts stand around it"
	if len(row.Own) > 0 {
		asHome += ", with its own " + names(row.Own)
		withSite += "; its own " + names(row.Own) + " is left out"
	}
	if len(row.None) > 0 {
		asHome += ", without " + names(row.None)
	}
	return []Choice{{Decision: ForKit, Effect: asHome}, {Decision: ForSite, Effect: withSite}}
}

// toldSurrounds are those of the pages that come in, as far as there is a part that they leave
// out.
func toldSurrounds(in *inputs, s surrounding, rows rowList) []SurroundRow {
	var out []SurroundRow
	parts := map[item.Role]bool{}
	for _, list := range [][]item.Head{in.site.Parts(), in.parcel.Heads()} {
		for _, h := range list {
			if h.Address.Kind == item.Part && !h.Meta.Off {
				parts[h.Meta.Role] = true
			}
		}
	}
	without := func(r item.Role) bool { return !parts[r] }
	for _, s := range s.surrounds {
		s.Own, s.None = slices.DeleteFunc(s.Own, without), slices.DeleteFunc(s.None, without)
		if row := rows.rows[s.Page]; row != nil && comesIn(row) && len(s.Own)+len(s.None) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// withoutLandmarks leaves a page's own banner and contentinfo out.
func withoutLandmarks(src []byte, context string, roles ...item.Role) ([]byte, error) {
	tree := markup.Parse(src, context)
	var gone []*markup.Node
	if slices.Contains(roles, item.Header) {
		gone = append(gone, tree.Banners()...)
	}
	if slices.Contains(roles, item.Footer) {
		gone = append(gone, tree.Contentinfos()...)
	}
	slices.SortFunc(gone, func(a, b *markup.Node) int { return a.Start.Start - b.Start.Start })
	var edits []span.Edit
	for _, n := range gone {
		if !n.Closed || holdsMain(n) { // what it holds is nobody's guess, or the page itself
			continue
		}
		if len(edits) == 0 || n.Start.Start >= edits[len(edits)-1].End { // not within one that goes
			edits = append(edits, span.Edit{Span: n.Outer()})
		}
	}
	return span.Apply(src, edits)
}

func holdsMain(n *markup.Node) bool {
	return n.Tag == "main" || slices.ContainsFunc(n.Children, holdsMain)
}

// ownTarget is the target of a seat that pages of the site have with landmarks of their own.
const ownTarget = "own"

// ownLandmarks are the site's pages on which a part of the kit would stand, were it not that
// they have the role as their own element.
func (m *seater) ownLandmarks(part item.Head) []item.Head {
	var out []item.Head
	for _, page := range m.site.Pages() {
		spot := render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
		if page.Meta.AtHome[part.Meta.Role] == item.HadOwn && page.Meta.LeavesOut(part.Meta.Role) &&
			appearsAt(part, spot) {
			out = append(out, page)
		}
	}
	return out
}

// ownSeat settles whether a part of the kit takes the place of landmarks that the site's pages
// have as their own.
func (m *seater) ownSeat(part item.Head, taken map[item.Address][]item.Role) error {
	pages := m.ownLandmarks(part)
	if len(pages) == 0 {
		return nil
	}
	seat := Seat{Role: part.Meta.Role, Target: ownTarget, Kit: part.Address, Pages: len(pages)}
	seat.Key = Key(AboutSeat, string(seat.Role), ownTarget)
	seat.Choices = []Choice{
		{Decision: ForSite, Effect: fmt.Sprintf("%d pages keep the %s of their own; the kit's stands on others",
			len(pages),
			seat.Role)},
		{Decision: ForKit, Effect: fmt.Sprintf("the kit's stands on %d pages, and their own %s is left out",
			len(pages),
			seat.Role)},
	}
	if err := m.settleSeat(&seat); err != nil {
		return err
	}
	m.seats = append(m.seats, seat)
	if seat.Decision == ForKit {
		for _, page := range pages {
			taken[page.Address] = append(taken[page.Address], seat.Role)
		}
	}
	return nil
}

// takePlaces writes the site's pages without the landmarks whose places the kit's parts take,
// each page once for all of its roles.
func (m *seater) takePlaces(taken map[item.Address][]item.Role, written map[item.Address]bool) error {
	for _, page := range m.site.Pages() {
		roles := taken[page.Address]
		if len(roles) == 0 || written[page.Address] {
			continue
		}
		b, err := item.Read(m.site, page)
		if err != nil {
			return err
		}
		if b, err = withoutLandmarks(b, page.Meta.Context, roles...); err != nil {
			return fmt.Errorf("%s: %w", page.Address, err)
		}
		m.addPrecondition(page.Address)
		page.ID = ""
		f := facts.Brief(page.Address.Kind, page.Meta.Context, b)
		for _, r := range roles {
			if !slices.Contains(f.Landmarks, r) { // else it could not be left out, and stands alone
				page.Meta = page.Meta.Taking(r)
			}
		}
		page.Doc, page.Bytes, page.NormalizedDigest = item.DigestOf(b), int64(len(b)), f.NormalizedDigest
		m.writes = append(m.writes, PlannedWrite{Head: page, Content: b})
	}
	return nil
}
