// Package making turns what a person says of a kit in the making — which items of which
// sources, which of those that come along are left, where blanks are, how pictures
// travel — into the packing list and the items as they would be sealed.
package making

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"sort"

	"compactparcel/core/capture"
	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/kit"
)

// Pick is one item put into a kit in the making, or one element of it.
type Pick struct {
	From    string       `json:"from"` // a site's name, "library", "kit NAME@VERSION" or "file NAME@VERSION"
	Address item.Address `json:"address"`
	// Element is a selector that names one element of the item: only that is taken.
	Element string `json:"element,omitempty"`
	// As is the address in the kit of a taken element: a block or a section.
	As item.Address `json:"as,omitzero"`
}

// Named is the address that the pick has in the kit.
func (p Pick) Named() item.Address {
	if p.Element != "" {
		return p.As
	}
	return p.Address
}

// Exclusion is an item that would come along and stays out: it becomes a need.
type Exclusion struct {
	Address item.Address `json:"address"`
	// Optional tells that the kit's pieces work without it.
	Optional bool `json:"optional,omitempty"`
}

// Draft is what a person says of a kit in the making.
type Draft struct {
	Title   string       `json:"title"`
	Summary string       `json:"summary"`
	Changes string       `json:"changes"`
	Terms   kit.Terms    `json:"terms"`
	Authors []kit.Author `json:"authors"`
	// Face is the item by which the kit is known at sight; zero: its home page.
	Face       item.Address          `json:"face,omitzero"`
	Picks      []Pick                `json:"picks"`
	Exclusions []Exclusion           `json:"exclusions,omitempty"`
	Marks      []BlankMark           `json:"marks,omitempty"`
	Fillins    map[string]kit.Fillin `json:"fillins"` // by name, in place of what was proposed
	// Media says how pictures travel, by address; "*" stands for all others.
	Media map[string]Treatment `json:"media,omitempty"`
	// Proposes are settings that the receiving site is offered, by address.
	Proposes map[string]any `json:"proposes,omitempty"`
	// Kits and Components are needs with versions.
	Kits       map[string]string            `json:"kits,omitempty"`
	Components map[string]kit.ComponentNeed `json:"components,omitempty"`
}

// Source is where picks come from.
type Source struct {
	Items item.Collection
	// Site tells that it is a site, whose head scripts and facts are its own.
	Site bool
	// Origins says of items that a kit brought which one that was, and its terms.
	Origins map[item.Address]string
	// Stop ends the work by its error: nobody waits for it any more. It may be nil.
	Stop func() error
	// Ran gives its pages as they are once their scripts have run; nil where none are run.
	Ran capture.Ran
	// Waiting is at how many widths pages are still to be run; Ran counts them.
	Waiting int
}

// Assembled is a kit in the making as it would be sealed.
type Assembled struct {
	List  *kit.PackingList
	Items *item.Set
	// Found are findings of the assembly itself; the check comes on top.
	Found    []kit.Finding
	Reasons  map[item.Address][]closure.Reason
	Weights  []capture.Weight
	Pictures []Picture
	Origins  []kit.Origin
	// Waiting is at how many widths pages of the sources are still to be run: what their scripts put on them is known
	// then.
	Waiting int
}

// GoneError tells of a source that is not there, or that nothing can be picked from now.
type GoneError struct{ Err error }

func (e *GoneError) Error() string { return e.Err.Error() }

// Unwrap gives the reason.
func (e *GoneError) Unwrap() error { return e.Err }

// Assemble captures what was picked from its sources. A source that open cannot give by a
// *GoneError is a finding; any other failure is one of the whole.
func Assemble(name, version string, m Draft, open func(source string) (*Source, error)) (*Assembled, error) {
	a := &assembly{
		m:      m,
		out:    &Assembled{Items: item.NewSet(), Reasons: map[item.Address][]closure.Reason{}, Found: []kit.Finding{}},
		fills:  map[string]bool{},
		needs:  map[string]bool{},
		marked: map[int]bool{},
	}
	a.out.List = &kit.PackingList{
		Kit:      name,
		Version:  version,
		Title:    m.Title,
		Summary:  m.Summary,
		Changes:  m.Changes,
		Terms:    m.Terms,
		Authors:  m.Authors,
		Proposes: m.Proposes,
		Needs:    kit.Needs{Kits: m.Kits, Components: map[string]kit.ComponentNeed{}},
	}
	for n, c := range m.Components {
		a.out.List.Needs.Components[n] = c
	}
	from := map[string][]Pick{}
	var sources []string
	for _, p := range m.Picks {
		if from[p.From] == nil {
			sources = append(sources, p.From)
		}
		from[p.From] = append(from[p.From], p)
	}
	sort.Strings(sources)
	for _, s := range sources {
		src, err := open(s)
		var gone *GoneError
		if err != nil && !errors.As(err, &gone) {
			return nil, err
		}
		if err != nil {
			a.find(kit.Finding{Stops: true, Message: s + ": " + err.Error(), Remedy: "take out what came from there"})
			continue
		}
		if err := a.take(s, src, from[s]); err != nil {
			return nil, err
		}
	}
	a.stray()
	list := a.out.List
	if _, ok := a.out.Items.Find(m.Face); ok {
		list.Face = m.Face
	} else if !m.Face.IsZero() {
		a.find(kit.Finding{Address: m.Face, Message: "it was chosen to show the kit, and is not in it",
			Remedy: "choose another, or add it"})
	}
	if len(list.Needs.Components) == 0 {
		list.Needs.Components = nil
	}
	list.Settle()
	return a.out, nil
}

type assembly struct {
	m      Draft
	out    *Assembled
	fills  map[string]bool
	needs  map[string]bool
	marked map[int]bool
}

func (a *assembly) find(f kit.Finding) { a.out.Found = append(a.out.Found, f) }

// take captures from one source.
func (a *assembly) take(name string, src *Source, picks []Pick) error {
	over := item.NewOver(src.Items)
	order := capture.Order{KeepHeads: !src.Site, At: map[item.Address]capture.At{}, Stop: src.Stop,
		Ran: src.Ran}
	a.mark(over)
	for _, p := range picks {
		if _, ok := over.Find(p.Address); !ok {
			a.find(
				kit.Finding{
					Address: p.Address,
					Stops:   true,
					Message: name + " has it no more",
					Remedy:  "take it out of the kit, or put it back there",
				},
			)
			continue
		}
		if p.Element != "" {
			at, err := cut(over, p)
			var failed *item.ReadError
			if errors.As(err, &failed) {
				return err
			}
			if err != nil {
				a.find(
					kit.Finding{
						Address: p.As,
						Stops:   true,
						Message: fmt.Sprintf("it is an element of %s, and %v", p.Address, err),
						Remedy:  "pick the element again",
					},
				)
				continue
			}
			order.At[p.As] = at
		}
		order.Chosen = append(order.Chosen, p.Named())
	}
	a.mark(over)
	versions := map[item.Address]Exclusion{}
	for _, l := range a.m.Exclusions {
		order.Leave = append(order.Leave, l.Address)
		versions[l.Address] = l
	}
	t, err := capture.Take(over, order)
	if err != nil {
		return err
	}
	a.out.Waiting += src.Waiting
	if err := a.treat(t); err != nil {
		return err
	}
	a.out.Found = append(a.out.Found, t.Notes...)
	a.out.Weights = append(a.out.Weights, t.Weights...)
	a.items(t, src)
	for _, n := range t.Needs {
		a.need(n, versions, over)
	}
	for _, f := range t.Fillins {
		a.fillin(f)
	}
	a.out.List.LeavesOut = append(a.out.List.LeavesOut, t.LeavesOut...)
	if src.Site {
		o, err := originOf(name, src)
		if err != nil {
			return err
		}
		a.out.Origins = append(a.out.Origins, o)
	}
	return nil
}

func (a *assembly) items(t *capture.Taken, src *Source) {
	list := a.out.List
	for _, h := range t.Items.Heads() {
		if old, ok := a.out.Items.Find(h.Address); ok {
			if old.State() != h.State() {
				a.find(
					kit.Finding{
						Address: h.Address,
						Stops:   true,
						Message: "two sources have different items of this name",
						Remedy:  "exclude one of them, or rename it in its source",
					},
				)
			}
			continue
		}
		a.out.Items.PutFile(h, func() (io.ReadCloser, error) { return t.Items.Open(h) })
		list.Items = append(
			list.Items,
			kit.Entry{
				Kind:             h.Address.Kind,
				Key:              h.Address.Key,
				SHA256:           h.Doc,
				NormalizedDigest: h.NormalizedDigest,
				Bytes:            h.Bytes,
				Meta:             h.Meta,
				Uses:             t.Uses[h.Address],
			},
		)
		if came, ok := src.Origins[h.Address]; ok {
			a.find(
				kit.Finding{
					Address: h.Address,
					Message: "it came with " + came + ", whose terms also apply to it here",
					Remedy:  "ask its authors, exclude it and need their kit, or name them in the credit",
				},
			)
		}
	}
	for _, e := range t.Closure.Items {
		a.out.Reasons[e.Address] = append(a.out.Reasons[e.Address], e.Reasons...)
	}
	have := map[item.Address]bool{}
	for _, x := range list.StyleOrder {
		have[x] = true
	}
	for _, x := range t.StyleOrder {
		if !have[x] {
			list.StyleOrder = append(list.StyleOrder, x)
		}
	}
}

// need declares what is lacking: a component by a range of versions, all else by name.
func (a *assembly) need(n kit.ItemNeed, left map[item.Address]Exclusion, src item.Collection) {
	at, _ := item.ParseAddress(n.Address)
	l, byHand := left[at]
	n.Optional = n.Optional || byHand && l.Optional
	if at.Kind == item.Component {
		if _, declared := a.out.List.Needs.Components[at.Key]; !declared {
			c := kit.ComponentNeed{Range: ">=0.0.0", Optional: n.Optional}
			if h, ok := src.Find(at); ok && kit.CheckVersion(h.Meta.Version) == nil {
				c.Range = "^" + h.Meta.Version
			}
			a.out.List.Needs.Components[at.Key] = c
		}
		return
	}
	if key := n.Address + " " + n.Slug; !a.needs[key] {
		a.needs[key] = true
		a.out.List.Needs.Items = append(a.out.List.Needs.Items, n)
	}
}

// fillin declares a blank as it was proposed or as the person says.
func (a *assembly) fillin(f kit.Fillin) {
	if a.fills[f.Name] {
		return
	}
	a.fills[f.Name] = true
	if own, ok := a.m.Fillins[f.Name]; ok {
		own.Name = f.Name
		if own.Sample == "" {
			own.Sample = f.Sample
		}
		f = own
	}
	a.out.List.Fillins = append(a.out.List.Fillins, f)
}

// stray finds what a person said of items that are not there.
func (a *assembly) stray() {
	for i, m := range a.m.Marks {
		if _, ok := a.out.Items.Find(m.In); !ok {
			a.find(
				kit.Finding{
					Address: m.In,
					Message: fmt.Sprintf("the blank %s is marked in it, and it is not in the kit", m.Bind),
					Remedy:  "put it in, or take the mark back",
				},
			)
		} else if !a.marked[i] {
			a.find(
				kit.Finding{
					Address: m.In,
					Stops:   true,
					Message: fmt.Sprintf("the blank %s could not be marked", m.Bind),
					Remedy:  "mark its place again",
				},
			)
		}
	}
	for _, key := range slices.Sorted(maps.Keys(a.m.Proposes)) {
		at, err := item.ParseAddress(key)
		if err != nil || at.Kind != item.Setting {
			a.find(
				kit.Finding{
					Stops:   true,
					Message: fmt.Sprintf("it proposes %q, which is no setting", key),
					Remedy:  "name a setting, as in setting/home",
				},
			)
			continue
		}
		if !(item.Meta{}).IsPortable(at.Key) && at.Key != "home" {
			a.find(
				kit.Finding{
					Address: at,
					Stops:   true,
					Message: "it is proposed, and it is site-only",
					Remedy:  "propose settings that may travel",
				},
			)
		}
		if text, ok := a.m.Proposes[key].(string); ok {
			if to, err := item.ParseAddress(text); err == nil {
				if _, in := a.out.Items.Find(to); !in {
					a.find(
						kit.Finding{
							Address: at,
							Stops:   true,
							Message: fmt.Sprintf("it is proposed as %s, which is not in the kit", to),
							Remedy:  "put that in, or propose another",
						},
					)
				}
			}
		}
	}
}
