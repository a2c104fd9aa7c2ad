package plan

import (
	"fmt"
	"io"
	"regexp"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/render"

	"github.com/Masterminds/semver/v3"
)

// NeedState says how a site meets a need. The set is closed.
type NeedState string

// The states of a need.
const (
	Met     NeedState = "met"
	Inside  NeedState = "inside"   // this kit brings it
	OnShelf NeedState = "on-shelf" // the library has a version that fits
	Missing NeedState = "missing"
	TooOld  NeedState = "too-old"
	TooNew  NeedState = "too-new"
)

// NeedStates lists all of them.
var NeedStates = []NeedState{Met, Inside, OnShelf, Missing, TooOld, TooNew}

// Words says the state for people.
func (s NeedState) Words() string {
	switch s {
	case Inside:
		return "in the kit"
	case OnShelf:
		return "on the shelf"
	case Met, Missing, TooOld, TooNew:
	}
	return strings.ReplaceAll(string(s), "-", " ")
}

// NeedRow is a need and how the site meets it.
type NeedRow struct {
	What     string    `json:"what"`
	State    NeedState `json:"state"`
	Optional bool      `json:"optional"`
	Message  string    `json:"message"`
	// Key is the key of the decision about it; empty when there is nothing to decide.
	Key      string   `json:"key,omitempty"`
	Decision Decision `json:"decision,omitempty"`
	// To is the item of the site that is used instead, of map.
	To        item.Address `json:"to,omitzero"`
	DecidedBy DecidedBy    `json:"decidedBy,omitempty"`
	Choices   []Choice     `json:"choices,omitempty"`
	// NeededBy are the kit's items that lean on it.
	NeededBy []item.Address `json:"neededBy,omitempty"`
	// Kit and Version name the kit of the shelf that would meet it.
	Kit     string `json:"kit,omitempty"`
	Version string `json:"version,omitempty"`
}

// Shelf is what the library holds beside the kit.
type Shelf interface {
	// Component gives the highest version of a component that fits a range, and what
	// holds it; ok is false when there is none.
	Component(name, fits string) (h item.Head, from string, ok bool, err error)
	Open(item.Head) (io.ReadCloser, error)
	// Kit gives the highest version of a kit that fits a range; "" when there is none.
	Kit(name, fits string) (string, error)
}

// needs says how the site meets what the kit declares, and takes the ways out that were
// decided: what is mapped, brought along or left out is known before the items are.
//
// Where only some of the kit's items come, its needs are those of these: what nothing leans on that comes is not
// asked for.
func needs(g given) (needing, error) {
	coming, err := chooseItems(g.inputs)
	if err != nil {
		return needing{}, err
	}
	m := &needer{
		given:   g,
		coming:  coming,
		needing: needing{moved: map[item.Address]item.Address{}, without: map[item.Address]string{}},
	}
	err = m.all()
	return m.needing, err
}

// needing is how needs are met.
type needing struct {
	needs   []NeedRow
	without map[item.Address]string       // items that are left out, and the need for which
	moved   map[item.Address]item.Address // what is mapped to the site's
	brought []PlannedWrite                // components from the library
}

// needer is the stage that holds the kit's needs against the site.
type needer struct {
	given
	needing
	coming selection
}

// leaners are the items that lean on something, of those that come; wanted is false where only some come and none of
// these does.
func (m *needer) leaners(on func(closure.Use) bool) (list []item.Address, wanted bool, err error) {
	list, err = m.kitUsers(on)
	if err != nil || m.coming == nil {
		return list, true, err
	}
	list = slices.DeleteFunc(list, m.coming.isExcluded)
	return list, len(list) > 0, nil
}

func (m *needer) all() error {
	list := m.parcel.List
	if c, err := semver.NewConstraint(list.Engine); err == nil {
		row := NeedRow{What: "engine " + list.Engine, State: Met, Message: "the page engine here is " + render.Engine}
		if v := semver.MustParse(render.Engine); !c.Check(v) {
			row.State = unfit(list.Engine, v)
			if err := m.resolveNeed(&row, "engine",
				fmt.Sprintf("The kit needs an engine %s; this one is %s.", list.Engine, render.Engine)); err != nil {
				return err
			}
		}
		m.needs = append(m.needs, row)
	}
	for _, n := range sortedKeys(list.Needs.Components) {
		if err := m.needComponent(n, list.Needs.Components[n].Range, list.Needs.Components[n].Optional); err != nil {
			return err
		}
	}
	for _, n := range sortedKeys(list.Needs.Kits) {
		if err := m.needKit(n, list.Needs.Kits[n]); err != nil {
			return err
		}
	}
	for _, n := range list.Needs.Items {
		if err := m.needItem(n.Address, n.Slug, n.Why, n.Optional); err != nil {
			return err
		}
	}
	return nil
}

func sortedKeys[V any](in map[string]V) []string {
	out := make([]string, 0, len(in))
	for k := range in {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

func (m *needer) needComponent(n, fits string, optional bool) error {
	a := item.Address{Kind: item.Component, Key: n}
	row := NeedRow{What: n + " " + fits, Optional: optional, State: Missing, Message: "the site has no such component"}
	c, err := semver.NewConstraint(fits)
	if err != nil {
		return fmt.Errorf("the kit's need of %s: %w", n, err)
	}
	leaners, wanted, err := m.leaners(func(u closure.Use) bool { return u.To == a })
	if err != nil || !wanted {
		return err
	}
	site, onSite := m.site.Find(a)
	if onSite {
		row.State, row.Message = Met, "the site has version "+site.Meta.Version
		if v, err := semver.NewVersion(site.Meta.Version); err != nil || !c.Check(v) {
			row.State = unfit(fits, v)
		}
	}
	if h, ok := m.parcel.Find(a); ok && row.State != Met {
		if v, err := semver.NewVersion(h.Meta.Version); err == nil && c.Check(v) {
			row.State, row.Message = Inside, "the kit brings version "+h.Meta.Version
		}
	}
	var ways []Choice
	var shelf item.Head
	if row.State != Met && row.State != Inside && m.parcel.Shelf != nil {
		h, from, ok, err := m.parcel.Shelf.Component(n, fits)
		if err != nil {
			return err
		}
		if ok {
			shelf = h
			row.Message += fmt.Sprintf("; %s has version %s", from, h.Meta.Version)
			if onSite {
				users, err := m.usersInWords(a)
				if err != nil {
					return err
				}
				ways = append(ways, Choice{Decision: Raise, Effect: fmt.Sprintf(
					"the site's %s becomes version %s from %s, on %s", a, h.Meta.Version, from, users)})
			} else {
				row.State = OnShelf
				ways = append(ways, Choice{Decision: Bring,
					Effect: fmt.Sprintf("version %s comes along from %s", h.Meta.Version, from)})
			}
		}
	}
	if row.State == Met || row.State == Inside {
		m.needs = append(m.needs, row)
		return nil
	}
	row.NeededBy = leaners
	if err := m.resolveNeed(&row, n, fmt.Sprintf("The component %s %s is needed; %s.", n, fits, row.Message),
		ways...); err != nil {
		return err
	}
	if row.Decision == Bring || row.Decision == Raise {
		b, err := item.Read(shelfReader{m.parcel.Shelf}, shelf)
		if err != nil {
			return err
		}
		shelf.ID = ""
		m.addPrecondition(a)
		m.brought = append(m.brought, PlannedWrite{Head: shelf, Content: b})
	}
	m.needs = append(m.needs, row)
	return nil
}

type shelfReader struct{ Shelf }

func (shelfReader) Heads() []item.Head                  { return nil }
func (shelfReader) OfKind(...item.Kind) []item.Head     { return nil }
func (shelfReader) Find(item.Address) (item.Head, bool) { return item.Head{}, false }
func (shelfReader) PageAt(string) (item.Address, bool)  { return item.Address{}, false }
func (shelfReader) KeptAt(string) (item.Address, bool)  { return item.Address{}, false }

// usersInWords names the items that use one of the site's.
func (in *inputs) usersInWords(a item.Address) (string, error) {
	users, err := in.site.UsedBy(a)
	if err != nil || len(users) == 0 {
		return "no page yet", err
	}
	var names []string
	for i, u := range users {
		if i == 4 {
			names = append(names, fmt.Sprintf("%d more", len(users)-i))
			break
		}
		names = append(names, u.String())
	}
	return strings.Join(names, ", "), nil
}

func (m *needer) needKit(n, fits string) error {
	row := NeedRow{What: "kit " + n + " " + fits, State: Missing, Message: "it has not been delivered here",
		Optional: m.coming != nil} // which of the kit's items lean on another kit is not said: told, and not asked
	came, err := m.site.Origins(n)
	if err != nil {
		return err
	}
	c, err := semver.NewConstraint(fits)
	if err != nil {
		return fmt.Errorf("the kit's need of the kit %s: %w", n, err)
	}
	for _, o := range came {
		row.Message = "version " + o.Version + " was delivered here"
		v, err := semver.NewVersion(o.Version)
		if err == nil && c.Check(v) {
			row.State = Met
			break
		}
		row.State = unfit(fits, v)
	}
	if row.State != Met {
		if m.parcel.Shelf != nil {
			v, err := m.parcel.Shelf.Kit(n, fits)
			if err != nil {
				return err
			}
			if v != "" {
				if row.State == Missing {
					row.State = OnShelf
				}
				row.Kit, row.Version = n, v
				row.Message += fmt.Sprintf("; the shelf has %s %s: deliver that first", n, v)
			}
		}
		if err := m.resolveNeed(&row, "kit:"+n,
			fmt.Sprintf("The kit %s %s is needed; %s.", n, fits, row.Message)); err != nil {
			return err
		}
	}
	m.needs = append(m.needs, row)
	return nil
}

func (m *needer) needItem(address, slug, why string, optional bool) error {
	row := NeedRow{What: address, Optional: optional, State: Missing, Message: why}
	if slug != "" {
		row.What = slug
	}
	a, err := item.ParseAddress(address)
	named := err == nil
	leaners, wanted, err := m.leaners(func(u closure.Use) bool {
		return named && u.To == a || slug != "" && u.Slug == slug
	})
	if err != nil || !wanted {
		return err
	}
	if named {
		if _, ok := m.site.Find(a); ok {
			row.State = Met
		} else if _, ok := m.parcel.Find(a); ok {
			row.State = Inside
		}
	}
	if slug != "" {
		row.State = Missing
		if _, ok := m.pageAt(slug); ok {
			row.State = Met
		}
	}
	if row.State != Missing {
		m.needs = append(m.needs, row)
		return nil
	}
	row.NeededBy = leaners
	var ways []Choice
	if named && slug == "" && a.Kind != item.Setting {
		ways = append(
			ways,
			Choice{Decision: Map, Effect: fmt.Sprintf("you name another %s of the site, and the kit's pieces use it",
				one(a.Kind))},
		)
	}
	if err := m.resolveNeed(&row, row.What,
		fmt.Sprintf("%s is needed and the site does not have it (%s).", row.What, why), ways...); err != nil {
		return err
	}
	if row.Decision == Map && named {
		m.moved[a] = row.To
		m.addPrecondition(m.moved[a])
	}
	m.needs = append(m.needs, row)
	return nil
}

// resolveNeed asks how a need that is not met shall be met; what is optional is only told,
// unless somebody decides.
func (m *needer) resolveNeed(row *NeedRow, name, says string, ways ...Choice) error {
	row.Key = Key(AboutNeed, name)
	row.Choices = append(ways, Choice{Decision: Accept, Effect: "the delivery goes on without it"})
	if row.Optional {
		row.Choices[len(row.Choices)-1].Effect = "the delivery goes on without it; what the kit shows in its " +
			"place is shown"
	}
	if len(row.NeededBy) > 0 {
		var names []string
		for _, a := range row.NeededBy {
			names = append(names, a.String())
		}
		row.Choices = append(row.Choices,
			Choice{Decision: Leave, Effect: "what needs it stays out: " + strings.Join(names, ", ")})
	}
	facts := []string{row.What, string(row.State)}
	for _, c := range row.Choices {
		facts = append(facts, c.Written())
	}
	d, ok := m.decided(row.Key, about(facts...))
	if ok {
		fits := false
		for _, c := range row.Choices {
			fits = fits || c.Decision == d.Decision
		}
		_, asked := m.ask.Decisions[row.Key]
		if d.Decision == Map && fits {
			h, there := m.site.Find(d.To)
			a, _ := item.ParseAddress(row.What)
			if !there || h.Address.Kind != a.Kind {
				if asked {
					return &DecisionError{
						row.Key,
						fmt.Sprintf("map needs a %s of the site, as in map:%s/NAME", a.Kind, a.Kind),
						row.Choices,
					}
				}
				fits = false
			}
		}
		switch {
		case fits:
			row.Decision, row.To, row.DecidedBy = d.Decision, d.To, ByPerson
			if !asked {
				row.DecidedBy = ByPrior
			}
		case asked:
			return &DecisionError{row.Key, fmt.Sprintf("a need is not met by %q", d.Decision), row.Choices}
		}
	}
	switch {
	case row.Decision == Leave:
		for _, a := range row.NeededBy {
			m.without[a] = row.What
		}
	case row.Decision != "" || row.Optional:
	case m.ask.Policy.asksNothing():
		row.Decision, row.DecidedBy = Accept, ByPolicy
	default:
		m.question(row.Key, AboutNeed, says, row.Choices)
	}
	return nil
}

// kitUsers lists the kit's items that lean on something, and those that cannot stand
// without these.
func (in *inputs) kitUsers(on func(closure.Use) bool) ([]item.Address, error) {
	uses := map[item.Address][]closure.Use{}
	for _, h := range in.parcel.Heads() {
		f, err := in.facts(h)
		if err != nil {
			return nil, err
		}
		uses[h.Address] = closure.Uses(in.kit, h, f)
	}
	leaning := map[item.Address]bool{}
	for again := true; again; {
		again = false
		for a, list := range uses {
			for _, u := range list {
				if !leaning[a] && (on(u) || leaning[u.To] && !u.Soft) {
					leaning[a], again = true, true
				}
			}
		}
	}
	out := make([]item.Address, 0, len(leaning))
	for a := range leaning {
		out = append(out, a)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Less(out[j]) })
	return out, nil
}

var versionIn = regexp.MustCompile(`\d+(\.\d+){0,2}`)

// unfit says whether a version that is not in a range lies below or above it.
func unfit(fits string, v *semver.Version) NeedState {
	if v == nil {
		return TooOld
	}
	above := true
	for _, s := range versionIn.FindAllString(fits, -1) {
		if w, err := semver.NewVersion(s); err == nil && v.LessThan(w) {
			above = false
		}
	}
	if above {
		return TooNew
	}
	return TooOld
}
