package solve

import (
	"fmt"
	"sort"
	"strings"
)

// Solve finds versions for all that is wanted and for all that those need: an
// installed version that fits, else the highest. A *Failure says why there are none.
func (w *World) Solve(q Question) (*Answer, error) {
	s := w.solver(q, nil)
	g := s.search()
	if s.stopped != nil {
		return nil, s.stopped
	}
	if g != nil {
		return nil, w.explain(q, g)
	}
	return s.answer(), nil
}

func (s *solver) answer() *Answer {
	a := &Answer{Kits: map[string]string{}, Components: map[string]string{}}
	for _, x := range s.vars {
		if !x.required() {
			continue
		}
		version := x.versions[x.domain.highest()].Original()
		if x.component {
			a.Components[x.name] = version
		} else {
			a.Kits[x.name] = version
		}
	}
	for _, name := range sortedNames(a.Kits) {
		for _, r := range s.w.kits[name].releases {
			if r.Version != a.Kits[name] {
				continue
			}
			for _, want := range sortedNames(r.Wants) {
				if _, ok := a.Kits[want]; !ok {
					a.Unmet = append(a.Unmet,
						Demand{By: name + "@" + r.Version, What: want, Range: r.Wants[want], Kind: "kit"})
				}
			}
			for _, want := range sortedNames(r.WantsComponents) {
				have, ok := a.Components[want]
				if !ok {
					have, ok = s.q.SiteComponents[want]
				}
				if ok {
					c, err := s.w.rangeOf(r.WantsComponents[want])
					ok = err == nil && c.Check(mustVersion(have))
				}
				if !ok {
					a.Unmet = append(
						a.Unmet,
						Demand{
							By:    name + "@" + r.Version,
							What:  want,
							Range: r.WantsComponents[want],
							Kind:  "component",
						},
					)
				}
			}
		}
	}
	return a
}

// Failure is the short chain of demands that cannot hold together.
type Failure struct{ Chain []Demand }

func (f *Failure) Error() string {
	var b strings.Builder
	b.WriteString("these demands cannot all be met:")
	for _, d := range f.Chain {
		b.WriteString("\n  " + d.Message())
	}
	return b.String()
}

// Message tells a demand in words.
func (d Demand) Message() string {
	if d.By == "you" {
		return fmt.Sprintf("you ask for %s %s%s", d.What, d.Range, d.have())
	}
	if d.Kind == "engine" {
		return fmt.Sprintf("%s works with the page engine %s, and the site has %s", d.By, d.Range,
			strings.Join(d.Have, ", "))
	}
	what := d.What
	if d.Kind == "component" {
		what = "the component " + what
	}
	return fmt.Sprintf("%s needs %s %s%s", d.By, what, d.Range, d.have())
}

func (d Demand) have() string {
	if d.Kind == "engine" {
		return ""
	}
	if len(d.Have) == 0 {
		return ", and there is none"
	}
	return " (there is " + shortList(d.Have) + ")"
}

func shortList(list []string) string {
	if len(list) > 4 {
		return list[0] + ", " + list[1] + ", … " + list[len(list)-1]
	}
	return strings.Join(list, ", ")
}

func (d Demand) key() string { return d.By + "\x00" + d.Kind + "\x00" + d.What + "\x00" + d.Range }

// explain finds the demands from which a failure followed, leaves out those without
// which it fails as well, and puts them in the order in which one leads to the next.
func (w *World) explain(q Question, g *nogood) *Failure {
	leaves := map[string]Demand{}
	seen := map[*nogood]bool{}
	var collect func(g *nogood)
	collect = func(g *nogood) {
		if g == nil || seen[g] {
			return
		}
		seen[g] = true
		if g.demand != nil {
			leaves[g.demand.key()] = *g.demand
		}
		collect(g.one)
		collect(g.other)
	}
	collect(g)
	fails := func(keys map[string]bool) bool { return w.solver(q, keys).search() != nil }
	keep := map[string]bool{}
	for k := range leaves {
		keep[k] = true
	}
	names := sortedNames(keep)
	if len(names) <= 400 && fails(keep) {
		for _, k := range names {
			delete(keep, k)
			if !fails(keep) {
				keep[k] = true
			}
		}
	}
	var chain []Demand
	for _, k := range sortedNames(keep) {
		d := leaves[k]
		d.Have = w.have(q, d)
		chain = append(chain, d)
	}
	return &Failure{order(chain)}
}

// have lists the versions that there are of what a demand asks for.
func (w *World) have(q Question, d Demand) []string {
	var out []string
	switch d.Kind {
	case "engine":
		return d.Have
	case "kit":
		if k := w.kits[d.What]; k != nil {
			for _, v := range k.versions {
				out = append(out, v.Original())
			}
		}
	case "component":
		seen := map[string]bool{}
		for v := range w.brought[d.What] {
			seen[v] = true
		}
		if v, ok := q.SiteComponents[d.What]; ok {
			seen[v] = true
		}
		out = sortedNames(seen)
		sort.Slice(out, func(i, j int) bool { return mustVersion(out[i]).LessThan(mustVersion(out[j])) })
	}
	return out
}

// order puts the demands so that each stands behind one that asked for its asker, one
// chain after the other.
func order(in []Demand) []Demand {
	var out []Demand
	used := make([]bool, len(in))
	var follow func(what string)
	follow = func(what string) {
		for i, d := range in {
			if !used[i] && asker(d.By) == what {
				used[i] = true
				out = append(out, d)
				follow(d.What)
			}
		}
	}
	follow("you")
	for i, d := range in { // of a circle: as they come
		if !used[i] {
			used[i] = true
			out = append(out, d)
			follow(d.What)
		}
	}
	return out
}

// asker gives the kit's name from who asks.
func asker(by string) string {
	by = strings.TrimPrefix(by, "every version of ")
	name, _, _ := strings.Cut(by, "@")
	return name
}
