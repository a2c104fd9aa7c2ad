// Package solve finds versions of kits and components that hold together.
//
// Each kit and each component is a variable; its choices are its versions and being
// absent. What must not be is a list of nogoods: conjunctions of "this variable has one
// of these choices" that cannot all hold. The search propagates them, and learns from
// every conflict a nogood that rules its reason out for good (conflict-directed
// backjumping with nogood learning: Dechter, Constraint Processing, chapter 6). So it
// is complete: it finds a choice if there is one; and a failure comes with the demands
// that led to it.
package solve

import (
	"fmt"
	"sort"
	"sync"

	"github.com/Masterminds/semver/v3"
)

// Release is one version of a kit.
type Release struct {
	Kit, Version string
	// Needs says which other kits it needs, at which range of versions.
	Needs map[string]string
	// Wants are needs that may go unmet; where the kit is there, the range holds.
	Wants map[string]string
	// Components says which components it needs; WantsComponents which it would use.
	Components, WantsComponents map[string]string
	// Brings says which components it brings, at which version.
	Brings map[string]string
	// Engine is the range of page engines it works with; empty: all.
	Engine string
}

// World is what can be chosen from.
type World struct {
	kits map[string]*choices
	byID []*choices // kits, and names that somebody asks for and nobody has
	// brought says which releases bring a component.
	brought map[string]map[string][]*release // component → version → releases
	ranges  map[string]*semver.Constraints
	// A world can be asked by several goroutines: these guard what it remembers.
	rangesMu, withinMu sync.Mutex
}

// choices are a kit's or a component's versions, rising.
type choices struct {
	id       int
	name     string
	versions []*semver.Version
	releases []*release
	all      set
	needs    []*nogood // of other kits
	asked    []*nogood // by other kits
	// The same where both have less than 64 versions, laid out so that they are looked at
	// quickly: nearly all are.
	needsFew, askedFew []pair
	other              []other // needs of components, and of the engine
	ranges             map[string]set
}

// other is a need that depends on the site.
type other struct {
	kind, name, text string
	in               set // the versions that have it
}

type release struct {
	Release
	version *semver.Version
	at      int // among its kit's versions
}

// NewWorld prepares releases for solving. A release that cannot be read is an error.
func NewWorld(list []Release) (*World, error) {
	w := &World{
		kits:    map[string]*choices{},
		brought: map[string]map[string][]*release{},
		ranges:  map[string]*semver.Constraints{},
	}
	for _, r := range list {
		v, err := semver.StrictNewVersion(r.Version)
		if err != nil {
			return nil, fmt.Errorf("%s@%s: %w", r.Kit, r.Version, err)
		}
		for _, m := range []map[string]string{r.Needs, r.Wants, r.Components, r.WantsComponents} {
			for name, text := range m {
				if _, err := w.rangeOf(text); err != nil {
					return nil, fmt.Errorf("%s@%s: the range %q for %s: %w", r.Kit, r.Version, text, name, err)
				}
			}
		}
		if r.Engine != "" {
			if _, err := w.rangeOf(r.Engine); err != nil {
				return nil, fmt.Errorf("%s@%s: the engine's range %q: %w", r.Kit, r.Version, r.Engine, err)
			}
		}
		k := w.kits[r.Kit]
		if k == nil {
			k = w.declare(r.Kit)
		}
		k.releases = append(k.releases, &release{Release: r, version: v})
	}
	for _, k := range w.kits {
		sort.Slice(k.releases, func(i, j int) bool { return k.releases[i].version.LessThan(k.releases[j].version) })
		for i, r := range k.releases {
			if i > 0 && r.version.Equal(k.releases[i-1].version) {
				return nil, fmt.Errorf("%s@%s is there twice", r.Kit, r.Version)
			}
			r.at = i
			k.versions = append(k.versions, r.version)
			for c, v := range r.Brings {
				if _, err := semver.StrictNewVersion(v); err != nil {
					return nil, fmt.Errorf("%s@%s brings %s at %q: %w", r.Kit, r.Version, c, v, err)
				}
				if w.brought[c] == nil {
					w.brought[c] = map[string][]*release{}
				}
				w.brought[c][v] = append(w.brought[c][v], r)
			}
		}
	}
	for _, name := range sortedNames(w.kits) {
		w.kits[name].all = full(len(w.kits[name].versions) + 1)
	}
	for _, name := range sortedNames(w.kits) {
		w.link(w.kits[name])
	}
	return w, nil
}

func (w *World) declare(name string) *choices {
	k := &choices{id: len(w.byID), name: name}
	w.kits[name], w.byID = k, append(w.byID, k)
	return k
}

// link makes nogoods of what the versions of a kit need.
func (w *World) link(k *choices) {
	type need struct{ kind, name, text string }
	groups := map[need]set{}
	var order []need
	for i, r := range k.releases {
		note := func(kind string, m map[string]string) {
			for _, name := range sortedNames(m) {
				n := need{kind, name, m[name]}
				if groups[n] == nil {
					groups[n] = newSet(len(k.versions) + 1)
					order = append(order, n)
				}
				groups[n].add(i)
			}
		}
		note("kit", r.Needs)
		note("want", r.Wants)
		note("component", r.Components)
		note("use", r.WantsComponents)
		if r.Engine != "" {
			note("engine", map[string]string{"the page engine": r.Engine})
		}
	}
	for _, n := range order {
		if n.kind != "kit" && n.kind != "want" {
			k.other = append(k.other, other{n.kind, n.name, n.text, groups[n]})
			continue
		}
		to := w.kits[n.name]
		if to == nil {
			to = w.declare(n.name)
			to.all = full(1)
		}
		wrong := to.all.without(to.within(w, n.text))
		if n.kind == "want" { // it may be absent
			wrong = wrong.without(only(len(to.versions)+1, len(to.versions)))
		}
		d := &Demand{By: k.who(groups[n]), What: n.name, Range: n.text, Kind: "kit"}
		g := &nogood{terms: []term{{k.id, groups[n]}, {to.id, wrong}}, demand: d, key: d.key()}
		if len(k.all) == 1 && len(to.all) == 1 {
			few := pair{k.id, to.id, groups[n][0], wrong[0], g}
			k.needsFew, to.askedFew = append(k.needsFew, few), append(to.askedFew, few)
			continue
		}
		k.needs, to.asked = append(k.needs, g), append(to.asked, g)
	}
}

// pair is a nogood of two terms whose sets are one word each: the asker has one of some
// choices while the other has a wrong one.
type pair struct {
	asker, other int
	when, wrong  uint64
	g            *nogood
}

// within gives the versions in a range; absent is none of them.
func (k *choices) within(w *World, text string) set {
	w.withinMu.Lock()
	defer w.withinMu.Unlock()
	if out, ok := k.ranges[text]; ok {
		return out
	}
	out := newSet(len(k.versions) + 1)
	if k.ranges == nil {
		k.ranges = map[string]set{}
	}
	if c, err := w.rangeOf(text); err == nil {
		for i, version := range k.versions {
			if c.Check(version) {
				out.add(i)
			}
		}
	}
	k.ranges[text] = out
	return out
}

// who names the versions of a kit that ask for something.
func (k *choices) who(in set) string {
	first, last, n := -1, -1, 0
	for i := range k.versions {
		if in.has(i) {
			if first < 0 {
				first = i
			}
			last = i
			n++
		}
	}
	switch {
	case n == 1:
		return k.name + "@" + k.versions[first].Original()
	case n == len(k.versions):
		return "every version of " + k.name
	default:
		return k.name + "@" + k.versions[first].Original() + " to " + k.versions[last].Original()
	}
}

func (w *World) rangeOf(text string) (*semver.Constraints, error) {
	w.rangesMu.Lock()
	defer w.rangesMu.Unlock()
	if c, ok := w.ranges[text]; ok {
		return c, nil
	}
	c, err := semver.NewConstraint(text)
	if err == nil {
		w.ranges[text] = c
	}
	return c, err
}

// CheckRange holds a range of versions against the grammar.
func CheckRange(text string) error {
	if _, err := semver.NewConstraint(text); err != nil {
		return fmt.Errorf("%q is not a range of versions: write it as in ^1.2, \">=1.0 <3\" or \"~1.4 || ^2\"", text)
	}
	return nil
}

// Question is what is asked of a world.
type Question struct {
	// Want says which kits must be there, at which range.
	Want map[string]string
	// Installed are the kits, SiteComponents the components that the site has.
	Installed, SiteComponents map[string]string
	// Engine is the version of the site's page engine; empty: any.
	Engine string
	// Stop ends the search by its error: nobody waits for the answer any more. It may be nil.
	Stop func() error
}

// Answer is a choice in which every demand holds.
type Answer struct {
	Kits       map[string]string // kit → version; those that nobody needs are not in it
	Components map[string]string // component → version
	// Unmet are wants for which nothing fits or is there.
	Unmet []Demand
}

// Demand is one thing that somebody asks for.
type Demand struct {
	By    string `json:"by"`    // who asks: "you", the site, a kit with its version
	What  string `json:"what"`  // the kit or component
	Range string `json:"range"` // of its versions
	Kind  string `json:"kind"`  // kit, component, engine
	// Have are the versions that there are.
	Have []string `json:"have,omitempty"`
}

func mustVersion(text string) *semver.Version {
	v, err := semver.NewVersion(text)
	if err != nil {
		return semver.New(0, 0, 0, "", "") // it was read before
	}
	return v
}
