package plan

import (
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
)

// decider is the stage that decides about items, row by row, and names them on the site.
type decider struct {
	given
	rowList
	selection
	without   map[item.Address]string // items that are left out, and the need for which
	next      map[item.Address]bool   // what comes as another copy, as the next one of a series
	idle      map[item.Address]bool   // stylesheets that only pieces wear which stay out
	t         *transform
	deletions []item.Head
}

// decide fills the rows' decisions in. It gives T with the names of the items, and the items of
// the site that go.
func decide(g given, rows rowList, chosen selection, needs needing, under *transform) (*transform, []item.Head,
	error) {
	m := &decider{given: g, rowList: rows, selection: chosen, without: needs.without, t: under.clone()}
	maps.Copy(m.t.moved, needs.moved)
	if g.ask.Next {
		var err error
		if m.next, err = nextOf(g); err != nil {
			return nil, nil, err
		}
	}
	var cut []*Row // which follow the pieces that they are cut to
	for _, row := range rows.list {
		if h, ok := g.parcel.Find(row.Address); ok && h.Meta.Cut && row.Standing == New {
			cut = append(cut, row)
			continue
		}
		if err := m.decide(row); err != nil {
			return nil, nil, err
		}
	}
	if len(cut) > 0 {
		if err := m.findIdleSheets(); err != nil {
			return nil, nil, err
		}
	}
	for _, row := range cut {
		if err := m.decide(row); err != nil {
			return nil, nil, err
		}
	}
	return m.t, m.deletions, nil
}

// decide takes the person's decision, or the policy's default.
func (m *decider) decide(row *Row) error {
	info := row.Standing.Info()
	allowed := map[Decision]bool{}
	for _, d := range info.Choices {
		if d == Blend && row.Base == "" || d == Again && !copies(row.Address.Kind) ||
			d == Join && row.Address.Kind != item.Menu {
			continue
		}
		allowed[d] = true
		row.Choices = append(row.Choices, Choice{Decision: d, Effect: m.effectOf(row, d)})
	}
	key := Key(AboutItem, row.Address.String())
	d, by, ok := m.decisionOn(row, key)
	need, without := m.without[row.Address]
	switch {
	case without && ok && d.Decision != Skip && (d.Decision != Keep || row.Site == nil):
		return &DecisionError{
			key,
			fmt.Sprintf("what needs %s was decided to stay out, and this needs it: leave it out, too, or accept the "+
				"need", need),
			slices.DeleteFunc(slices.Clone(row.Choices), func(c Choice) bool {
				return c.Decision != Skip && (c.Decision != Keep || row.Site == nil)
			}),
		}
	case without:
		row.Decision, row.DecidedBy, row.Why = Skip, ByPerson, row.Why+"; left out, since it needs "+need
		if row.Site != nil {
			row.Decision = Keep
		}
	case ok && m.isExcluded(row.Address) && d.Decision != Skip:
		return &DecisionError{
			key,
			"it was not chosen, and no chosen item needs it",
			row.Choices,
		}
	case m.isExcluded(row.Address):
		row.Decision, row.DecidedBy, row.Why = Skip, ByPerson, row.Why+"; it was not chosen"
		if row.Site != nil {
			row.Decision = Keep
		}
	case ok:
		if err := m.apply(row, key, d, allowed); err != nil {
			return err
		}
		row.Decision, row.DecidedBy = d.Decision, by
	case m.next[row.Address] && allowed[Again]:
		row.Decision, row.DecidedBy, row.Why = Again, ByPerson, row.Why+"; the next one comes beside it"
	case m.idle[row.Address] && row.Standing == New:
		row.Decision, row.DecidedBy, row.Why = Skip, ByRule, row.Why+"; none of the pieces that it is cut to comes"
	default:
		switch row.Decision = m.byPolicy(row); {
		case row.Decision == Both:
			row.DecidedBy = ByRule
		case row.Decision != "":
			row.DecidedBy = ByPolicy
		default:
			m.question(key, AboutItem, fmt.Sprintf("%s: %s.", key, row.Why), row.Choices)
		}
	}
	m.name(row)
	return nil
}

// findIdleSheets finds the stylesheets of the kit that pieces wear, but none that comes or may come.
func (m *decider) findIdleSheets() error {
	uses := map[item.Address][]closure.Use{}
	for _, h := range m.parcel.Heads() {
		f, err := m.facts(h)
		if err != nil {
			return err
		}
		uses[h.Address] = closure.Uses(m.kit, h, f)
	}
	var reach func(from item.Address, to map[item.Address]bool)
	reach = func(from item.Address, to map[item.Address]bool) {
		for _, u := range uses[from] {
			if u.To.Kind == item.Stylesheet && !to[u.To] {
				to[u.To] = true
				reach(u.To, to)
			}
		}
	}
	worn, wanted := map[item.Address]bool{}, map[item.Address]bool{}
	for a := range uses {
		if !a.Kind.IsMarkup() {
			continue
		}
		reach(a, worn)
		if row := m.rows[a]; row == nil || row.Decision == "" || comesIn(row) {
			reach(a, wanted)
		}
	}
	m.idle = map[item.Address]bool{}
	for a := range worn {
		m.idle[a] = !wanted[a]
	}
	return nil
}

// decisionOn gives the decision on an item's row: of now, or of an earlier delivery.
func (m *decider) decisionOn(row *Row, key string) (Decided, DecidedBy, bool) {
	if d, ok := m.ask.Decisions[key]; ok {
		m.used[key], m.subjects[key] = true, row.SubjectDigest
		if d.SubjectDigest != "" && d.SubjectDigest != row.SubjectDigest {
			m.note("the decision about %s is asked again: what it decided has changed since", key)
			return d, ByPerson, false
		}
		return d, ByPerson, true
	}
	d, ok := m.prior.Decisions[key]
	if ok = ok && row.Standing == Taken && (d.Decision == Map || d.Decision == Keep); ok && d.Decision == Map {
		_, ok = m.site.Find(d.To)
	}
	return d, ByPrior, ok
}

// apply holds a person's decision against what can be decided.
func (m *decider) apply(row *Row, key string, d Decided, allowed map[Decision]bool) error {
	if !allowed[d.Decision] {
		var words []string
		for _, c := range row.Choices {
			words = append(words, string(c.Decision))
		}
		return &DecisionError{key, fmt.Sprintf("it is %q here, which allows %s", row.Standing,
			strings.Join(words, ", ")), row.Choices}
	}
	if d.Side != "" && d.Decision != Blend {
		return &DecisionError{key, "only a blend can be decided for one side", row.Choices}
	}
	if d.Decision != Map {
		return nil
	}
	h, ok := m.site.Find(d.To)
	if !ok || d.To.Kind != row.Address.Kind {
		return &DecisionError{key, fmt.Sprintf("map needs another %s of the site, as in map:%s/NAME",
			one(row.Address.Kind), row.Address.Kind), row.Choices}
	}
	row.Becomes = h.Address
	m.addPrecondition(h.Address)
	return nil
}

// name works out what a decided item is called on the site.
func (m *decider) name(row *Row) {
	switch row.Decision {
	case Both, Again:
		row.Becomes = m.freeName(row.Address)
		m.preconditions[row.Becomes] = ""
	case Take:
		if row.Site == nil {
			row.Becomes = row.Address
			if _, there := m.site.Find(row.Address); there { // deleted here, and the name used anew
				row.Becomes = m.freeName(row.Address)
				m.preconditions[row.Becomes] = ""
			}
		}
	case Remove:
		if h, ok := m.site.Find(row.Becomes); ok {
			m.deletions = append(m.deletions, h)
		}
	case Skip:
		if row.Site == nil {
			row.Becomes = item.Address{}
		}
	default:
	}
	if !row.Becomes.IsZero() && row.Standing != Withdrawn {
		m.t.moved[row.Address] = row.Becomes
	}
}

// copies tells whether a site may want several copies of items of a kind.
func copies(k item.Kind) bool {
	switch k {
	case item.Page, item.Section, item.Block, item.Form, item.Menu, item.Record:
		return true
	default:
	}
	return false
}

func (in *inputs) effectOf(row *Row, d Decision) string {
	switch d {
	case Both:
		return fmt.Sprintf("the kit's comes in as %s, and all of the kit follows; the site's stays as it is",
			in.freeName(row.Address))
	case Again:
		return fmt.Sprintf("another copy comes in as %s; the earlier one stays as it is", in.freeName(row.Address))
	case Blend:
		return "what changed here and what changed in the kit are brought together; where both changed the same " +
			"thing you are asked"
	case Join:
		return fmt.Sprintf("the kit's entries that lead elsewhere come behind those of the site's %s, which the "+
			"kit's "+
			"pieces use", row.Becomes)
	case Keep:
		switch row.Standing {
		case Taken:
			return fmt.Sprintf("the kit's pieces use the site's %s; the kit's stays out", row.Becomes)
		case Withdrawn:
			return "it stays on the site and belongs to the site from now on"
		default:
		}
		return "the site's stays as it is"
	case Take:
		if row.Site == nil {
			return fmt.Sprintf("it comes in as %s", row.Address)
		}
		return fmt.Sprintf("the kit's replaces the site's %s everywhere it is used; undo brings it back", row.Becomes)
	case Map:
		return fmt.Sprintf("you name another %s of the site, and the kit's pieces use it", one(row.Address.Kind))
	case Remove:
		return fmt.Sprintf("%s is removed from the site; undo brings it back", row.Becomes)
	default:
	}
	return "it does not come in; what refers to it keeps the reference"
}

// freeName proposes a name that neither side uses.
func (in *inputs) freeName(a item.Address) item.Address {
	ext := ""
	if a.Kind == item.Media {
		ext = path.Ext(a.Key)
	}
	stem := strings.TrimSuffix(a.Key, ext)
	for n := 2; ; n++ {
		b := item.Address{Kind: a.Kind, Key: fmt.Sprintf("%s-%d%s", stem, n, ext)}
		_, onSite := in.site.Find(b)
		_, inKit := in.parcel.Find(b)
		if !onSite && !inKit {
			return b
		}
	}
}
