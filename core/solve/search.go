package solve

import (
	"container/heap"
	"sort"

	"github.com/Masterminds/semver/v3"
)

// term says that a variable has one of some choices.
type term struct {
	v  int
	in set
}

// nogood is a conjunction of terms that cannot all hold.
type nogood struct {
	terms []term
	// demand is what it came from; a learned one came from two others.
	demand     *Demand
	key        string // of the demand
	one, other *nogood
	support    bool // a component is only there when a kit brings it
}

// variable is a kit or a component with its choices: its versions and, last, absent.
type variable struct {
	*choices
	component bool
	prefer    int // the choice to try first; -1: the highest
	domain    set
	nogoods   []*nogood // beside those of its choices
	opened    bool      // its other needs are among the nogoods
	steps     []int     // of the trail, that changed the domain
}

func (x *variable) n() int         { return len(x.versions) + 1 }
func (x *variable) absent() int    { return len(x.versions) }
func (x *variable) required() bool { return !x.domain.has(x.absent()) }

// step is one change of a domain.
type step struct {
	v      int
	before set
	reason *nogood // nil: a decision
	level  int
}

type solver struct {
	w          *World
	q          Question
	vars       []*variable
	components map[string]int
	trail      []step
	level      int
	queue      []int
	supports   []*nogood
	open       waiting
	stopped    error           // what Question.Stop said
	only       map[string]bool // when set, the demands that count; for explaining
}

func (w *World) solver(q Question, only map[string]bool) *solver {
	s := &solver{
		w:          w,
		q:          q,
		components: map[string]int{},
		only:       only,
		vars:       make([]*variable, len(w.byID), len(w.byID)+8),
	}
	room := make([]variable, len(w.byID))
	for i, k := range w.byID {
		room[i] = variable{choices: k, prefer: -1, domain: k.all}
		s.vars[i] = &room[i]
	}
	for name, at := range q.Installed {
		if k := w.kits[name]; k != nil {
			for i, v := range k.versions {
				if v.Original() == at {
					s.vars[k.id].prefer = i
				}
			}
		}
	}
	return s
}

func (s *solver) component(name string) int {
	if v, ok := s.components[name]; ok {
		return v
	}
	seen := map[string]bool{}
	x := &variable{choices: &choices{id: len(s.vars), name: name}, component: true, prefer: -1}
	add := func(text string) {
		if v, err := semver.StrictNewVersion(text); err == nil && !seen[v.String()] {
			seen[v.String()] = true
			x.versions = append(x.versions, v)
		}
	}
	for v := range s.w.brought[name] {
		add(v)
	}
	has := s.q.SiteComponents[name]
	add(has)
	sort.Slice(x.versions, func(i, j int) bool { return x.versions[i].LessThan(x.versions[j]) })
	x.all = full(x.n())
	x.domain = x.all
	v := x.id
	s.vars, s.components[name] = append(s.vars, x), v
	for i, version := range x.versions {
		if version.Original() == has {
			x.prefer = i
			continue // the site has it
		}
		// It is there only when a kit that brings it is.
		terms := []term{{v, only(x.n(), i)}}
		byKit := map[int]set{}
		for _, r := range s.w.brought[name][version.Original()] {
			k := s.w.kits[r.Kit].id
			if byKit[k] == nil {
				byKit[k] = newSet(s.vars[k].n())
			}
			byKit[k].add(r.at)
		}
		for _, k := range sortedInts(byKit) {
			terms = append(terms, term{k, s.vars[k].all.without(byKit[k])})
		}
		g := &nogood{terms: terms, support: true}
		s.supports = append(s.supports, g)
		s.add(g)
	}
	return v
}

func sortedInts[V any](m map[int]V) []int {
	out := make([]int, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Ints(out)
	return out
}

// add brings a nogood in; it may be true already.
func (s *solver) add(g *nogood) {
	for _, t := range g.terms {
		s.vars[t.v].nogoods = append(s.vars[t.v].nogoods, g)
	}
	if len(g.terms) > 0 {
		s.queue = append(s.queue, g.terms[0].v)
	}
}

// counts tells whether a demand is looked at.
func (s *solver) counts(key string) bool { return s.only == nil || key == "" || s.only[key] }

// demand forbids that the asker has some of its choices while the other is outside a
// range. soft lets the other be absent.
func (s *solver) demand(asker []term, x *variable, d *Demand, soft bool) {
	key := d.key()
	if !s.counts(key) {
		return
	}
	wrong := x.all.without(x.within(s.w, d.Range))
	if soft {
		wrong = wrong.without(only(x.n(), x.absent()))
	}
	s.add(&nogood{terms: append(asker, term{x.id, wrong}), demand: d, key: key})
}

// begin sets up what is asked for; a kit that is nowhere is a failure at once.
func (s *solver) begin() *nogood {
	for _, name := range sortedNames(s.q.Want) {
		d := &Demand{By: "you", What: name, Range: s.q.Want[name], Kind: "kit"}
		k := s.w.kits[name]
		if k == nil {
			if s.counts(d.key()) {
				return &nogood{demand: d, key: d.key()}
			}
			continue
		}
		s.demand(nil, s.vars[k.id], d, false)
	}
	return nil
}

func sortedNames[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// reveal brings in what the versions of a kit need of the site, once it must be there.
func (s *solver) reveal(x *variable) {
	if x.opened || x.component {
		return
	}
	x.opened = true
	for _, o := range x.other {
		d := &Demand{By: x.who(o.in), What: o.name, Range: o.text, Kind: "component"}
		asker := []term{{x.id, o.in}}
		if o.kind != "engine" {
			s.demand(asker, s.vars[s.component(o.name)], d, o.kind == "use")
			continue
		}
		d.Kind, d.Have = "engine", []string{s.q.Engine}
		c, err := s.w.rangeOf(o.text)
		if e, bad := semver.NewVersion(s.q.Engine); err == nil && bad == nil && !c.Check(e) && s.counts(d.key()) {
			s.add(&nogood{terms: asker, demand: d, key: d.key()})
		}
	}
}

// set narrows a domain down and notes why.
func (s *solver) set(v int, to set, reason *nogood) {
	x := s.vars[v]
	x.steps = append(x.steps, len(s.trail))
	s.trail = append(s.trail, step{v, x.domain, reason, s.level})
	x.domain = to
	s.queue = append(s.queue, v)
	s.watch(v)
}

// watch puts a variable that must be there among those to decide.
func (s *solver) watch(v int) {
	if x := s.vars[v]; x.required() {
		if n := x.domain.size(); n > 1 {
			heap.Push(&s.open, undecided{n, v})
		}
	}
}

// propagate narrows domains until nothing follows any more; a nogood that holds
// wholly is a conflict.
func (s *solver) propagate() *nogood {
	for len(s.queue) > 0 {
		v := s.queue[len(s.queue)-1]
		s.queue = s.queue[:len(s.queue)-1]
		x := s.vars[v]
		if x.required() {
			s.reveal(x)
			for i := range x.needsFew {
				if c := s.lookPair(&x.needsFew[i]); c != nil {
					return c
				}
			}
			for _, g := range x.needs {
				if c := s.look(g); c != nil {
					return c
				}
			}
		}
		for i := range x.askedFew {
			if c := s.lookPair(&x.askedFew[i]); c != nil {
				return c
			}
		}
		for _, g := range x.asked {
			if s.vars[g.terms[0].v].required() {
				if c := s.look(g); c != nil {
					return c
				}
			}
		}
		for i := len(x.nogoods) - 1; i >= 0; i-- { // the latest learned first
			if c := s.look(x.nogoods[i]); c != nil {
				return c
			}
		}
	}
	return nil
}

// look narrows the one variable that keeps a nogood from holding; it gives the nogood
// when it holds already.
func (s *solver) look(g *nogood) *nogood {
	left := -1
	for k, t := range g.terms {
		d := s.vars[t.v].domain
		if d.within(t.in) {
			continue
		}
		if left >= 0 || !d.meets(t.in) {
			return nil
		}
		left = k
	}
	if !s.counts(g.key) {
		return nil
	}
	if left < 0 {
		s.queue = s.queue[:0]
		return g
	}
	t := g.terms[left]
	s.set(t.v, s.vars[t.v].domain.without(t.in), g)
	return nil
}

// lookPair is look for a pair; one whose asker may be absent says nothing yet.
func (s *solver) lookPair(p *pair) *nogood {
	asker, other := s.vars[p.asker], s.vars[p.other]
	a, b := asker.domain[0], other.domain[0]
	if a>>uint(asker.absent())&1 == 1 {
		return nil
	}
	switch always, wrong := a&^p.when == 0, b&^p.wrong == 0; {
	case always && wrong:
		if s.counts(p.g.key) {
			s.queue = s.queue[:0]
			return p.g
		}
	case always && b&p.wrong != 0:
		if s.counts(p.g.key) {
			s.set(p.other, set{b &^ p.wrong}, p.g)
		}
	case wrong && a&p.when != 0:
		if s.counts(p.g.key) {
			s.set(p.asker, set{a &^ p.when}, p.g)
		}
	}
	return nil
}

// learn turns a conflict into a nogood by which the search goes back; nil when there
// is nothing to go back to.
func (s *solver) learn(g *nogood) (learned *nogood, back int, failed *nogood) {
	for {
		// The last step that made one of the terms true, and the level that would do
		// without it.
		last, at := -1, -1
		for k, t := range g.terms {
			if i := s.satisfied(t); i > last {
				last, at = i, k
			}
		}
		if last < 0 {
			return nil, 0, g // true from the start
		}
		st := s.trail[last]
		before := 0
		for k, t := range g.terms {
			if k == at {
				// What of this variable was narrowed before belongs to it as well.
				if i := s.narrowed(t, last); i >= 0 {
					before = max(before, s.trail[i].level)
				}
				continue
			}
			if i := s.satisfied(t); i >= 0 {
				before = max(before, s.trail[i].level)
			}
		}
		if st.level == 0 {
			return nil, 0, s.toRoot(g)
		}
		if st.reason == nil || before < st.level {
			return g, before, nil
		}
		g = s.resolve(g, st.reason, st.v)
	}
}

// toRoot resolves a conflict that holds without any decision down to nothing.
func (s *solver) toRoot(g *nogood) *nogood {
	for {
		last := -1
		for _, t := range g.terms {
			if i := s.satisfied(t); i > last {
				last = i
			}
		}
		if last < 0 || s.trail[last].reason == nil {
			return g
		}
		g = s.resolve(g, s.trail[last].reason, s.trail[last].v)
	}
}

// satisfied gives the step that made a term true; -1 when it was from the start.
func (s *solver) satisfied(t term) int {
	x := s.vars[t.v]
	for k, i := range x.steps {
		if s.trail[i].before.within(t.in) {
			return -1
		}
		after := x.domain
		if k+1 < len(x.steps) {
			after = s.trail[x.steps[k+1]].before
		}
		if after.within(t.in) {
			return i
		}
	}
	return -1
}

// narrowed gives the last step before another by which a variable was narrowed; -1
// when there was none.
func (s *solver) narrowed(t term, before int) int {
	steps := s.vars[t.v].steps
	for k := len(steps) - 1; k >= 0; k-- {
		if steps[k] < before {
			return steps[k]
		}
	}
	return -1
}

// resolve gives what follows from two nogoods by way of one variable.
func (s *solver) resolve(a, b *nogood, v int) *nogood {
	sets := map[int]set{}
	for _, g := range []*nogood{a, b} {
		for _, t := range g.terms {
			old, ok := sets[t.v]
			switch {
			case !ok:
				sets[t.v] = t.in
			case t.v == v:
				sets[t.v] = old.or(t.in)
			default:
				sets[t.v] = old.and(t.in)
			}
		}
	}
	out := &nogood{one: a, other: b}
	for _, k := range sortedInts(sets) {
		if k == v && s.vars[k].all.within(sets[k]) {
			continue
		}
		out.terms = append(out.terms, term{k, sets[k]})
	}
	return out
}

// goBack takes back all steps above a level.
func (s *solver) goBack(level int) {
	for len(s.trail) > 0 && s.trail[len(s.trail)-1].level > level {
		st := s.trail[len(s.trail)-1]
		s.trail = s.trail[:len(s.trail)-1]
		x := s.vars[st.v]
		x.domain, x.steps = st.before, x.steps[:len(x.steps)-1]
		s.watch(st.v)
	}
	s.level = level
	s.queue = s.queue[:0]
}

// search finds a choice, or the nogood that says why there is none.
func (s *solver) search() *nogood {
	if g := s.begin(); g != nil {
		return g
	}
	for {
		if g := s.propagate(); g != nil {
			learned, back, failed := s.learn(g)
			if failed != nil {
				return failed
			}
			s.goBack(back)
			s.add(learned)
			for _, t := range learned.terms {
				s.queue = append(s.queue, t.v)
			}
			continue
		}
		if s.q.Stop != nil {
			if s.stopped = s.q.Stop(); s.stopped != nil {
				return nil
			}
		}
		v := s.next()
		if v < 0 {
			if !s.support() {
				return nil
			}
			continue
		}
		x := s.vars[v]
		pick := x.prefer
		if pick < 0 || !x.domain.has(pick) {
			pick = x.domain.highest()
		}
		s.level++
		s.set(v, only(x.n(), pick), nil)
	}
}

// support decides which kit brings a component that must be there, where several could
// and none is there yet; false when nothing is left to decide.
func (s *solver) support() bool {
	for _, g := range s.supports {
		best := -1
		for k, t := range g.terms {
			d := s.vars[t.v].domain
			if d.within(t.in) {
				continue
			}
			if k == 0 || !d.meets(t.in) { // the component is another, or a kit brings it
				best = -1
				break
			}
			if best < 0 || s.vars[t.v].prefer >= 0 && s.vars[g.terms[best].v].prefer < 0 {
				best = k
			}
		}
		if best > 0 {
			t := g.terms[best]
			s.level++
			s.set(t.v, s.vars[t.v].domain.without(t.in), nil)
			return true
		}
	}
	return false
}

// next gives the variable to decide: of those that must be there, the one with the
// fewest choices left; -1 when all are decided.
func (s *solver) next() int {
	for len(s.open) > 0 {
		top := heap.Pop(&s.open).(undecided)
		if x := s.vars[top.v]; x.required() && x.domain.size() == top.choices && top.choices > 1 {
			return top.v
		}
	}
	return -1
}

// undecided is a variable that must be there and has several choices.
type undecided struct{ choices, v int }

// waiting holds them, the one with the fewest choices first. Entries that no longer
// hold stay until they come up.
type waiting []undecided

func (w waiting) Len() int { return len(w) }
func (w waiting) Less(i, j int) bool {
	return w[i].choices < w[j].choices || w[i].choices == w[j].choices && w[i].v < w[j].v
}
func (w waiting) Swap(i, j int) { w[i], w[j] = w[j], w[i] }
func (w *waiting) Push(x any)   { *w = append(*w, x.(undecided)) }
func (w *waiting) Pop() any {
	old := *w
	x := old[len(old)-1]
	*w = old[:len(old)-1]
	return x
}
