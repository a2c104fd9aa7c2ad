package repeat

import (
	"sort"
	"strings"
	"sync"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
	"compactparcel/core/workers"
)

// Limits of what is remembered while looking.
const (
	maxGroups = 20_000  // shapes that stand on two pages or more
	maxValues = 4 << 20 // digests of values, 8 bytes each
	minSize   = 4       // elements that a band has at least
)

type finder struct {
	c      item.Collection
	heads  []item.Head
	groups []*group
	runs   []*run
	taken  map[item.Address]bool
}

func find(c item.Collection) (*finder, error) {
	f := &finder{c: c, heads: documents(c), taken: map[item.Address]bool{}}
	for _, h := range c.Heads() {
		f.taken[h.Address] = true
	}
	counts, err := f.count()
	if err != nil {
		return nil, err
	}
	all, runs, err := f.pick(counts)
	if err != nil {
		return nil, err
	}
	for _, r := range runs {
		f.runs = append(f.runs, r...)
	}
	for _, g := range all {
		sort.Slice(g.occ, func(i, j int) bool {
			return g.occ[i].doc < g.occ[j].doc || g.occ[i].doc == g.occ[j].doc && g.occ[i].at.Start < g.occ[j].at.Start
		})
		if g.settle() {
			f.groups = append(f.groups, g)
		}
	}
	sort.Slice(f.groups, func(i, j int) bool {
		a, b := f.groups[i], f.groups[j]
		if len(a.occ) != len(b.occ) {
			return len(a.occ) > len(b.occ)
		}
		if a.order != b.order {
			return a.order < b.order
		}
		return a.shape < b.shape
	})
	f.roles()
	f.names()
	f.runs = mergeRuns(f.runs, f.taken)
	return f, nil
}

// count is the first reading: how often each shape stands.
func (f *finder) count() (*sketch, error) {
	counts := &sketch{}
	var mu sync.Mutex
	err := workers.Each(len(f.heads), func(_, i int) error {
		d, err := open(f.c, f.heads[i])
		if err != nil {
			return err
		}
		seen := map[shape]bool{}
		for n, s := range shapes(d.tree) {
			if !seen[s.shape] && candidate(n, s.size) {
				seen[s.shape] = true
			}
		}
		mu.Lock()
		defer mu.Unlock()
		for s := range seen {
			counts.add(s)
		}
		return nil
	})
	return counts, err
}

// pick is the second reading: the largest that repeat, and runs of blocks.
func (f *finder) pick(counts *sketch) (map[shape]*group, [][]*run, error) {
	all := map[shape]*group{}
	values := 0
	runs := make([][]*run, len(f.heads))
	var mu sync.Mutex
	err := workers.Each(len(f.heads), func(_, i int) error {
		d, err := open(f.c, f.heads[i])
		if err != nil {
			return err
		}
		p := &picker{doc: d, index: i, counts: counts, sizes: shapes(d.tree)}
		p.measure()
		for _, top := range d.tree.Root.Children {
			p.pick(top)
		}
		runs[i] = findRuns(d, i, p.sizes)
		mu.Lock()
		defer mu.Unlock()
		for _, x := range p.found {
			if values += len(x.occ[0].values); values > maxValues {
				return nil
			}
			if g := all[x.shape]; g != nil {
				g.occ = append(g.occ, x.occ...)
				if g.occ[len(g.occ)-1].doc < g.occ[0].doc { // the first page names it
					last := len(g.occ) - 1
					g.occ[0], g.occ[last] = g.occ[last], g.occ[0]
					g.order, g.role, g.named = x.order, x.role, x.named.shared(g.named)
				} else {
					g.named = g.named.shared(x.named)
				}
			} else if len(all) < maxGroups {
				all[x.shape] = x
			}
		}
		return nil
	})
	return all, runs, err
}

// bands are the elements that can be a part or a section.
var bands = map[string]bool{
	"header":     true,
	"footer":     true,
	"nav":        true,
	"aside":      true,
	"section":    true,
	"article":    true,
	"form":       true,
	"div":        true,
	"table":      true,
	"ul":         true,
	"ol":         true,
	"dl":         true,
	"figure":     true,
	"center":     true,
	"details":    true,
	"blockquote": true,
}

var landmarks = map[string]bool{"header": true, "footer": true, "nav": true, "aside": true}

// candidate tells whether an element could be held once: a band of some size that
// is not the page's own content.
func candidate(n *markup.Node, size int) bool {
	if !n.Own || !n.Closed || n.Space != "" || !bands[n.Tag] || size < minSize && !landmarks[n.Tag] {
		return false
	}
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == "template" || up.Tag == "svg" || up.Tag == "select" || strings.HasPrefix(up.Tag, "cp-") {
			return false
		}
	}
	return true
}

// picker takes, from the top of a page down, the largest elements that repeat.
type picker struct {
	doc    *document
	index  int
	counts *sketch
	sizes  map[*markup.Node]sized
	best   map[*markup.Node]int  // the highest count below an element
	own    map[*markup.Node]bool // holds the page's own content
	found  []*group              // each with one occurrence
	order  int
}

func (p *picker) measure() {
	p.best, p.own = map[*markup.Node]int{}, map[*markup.Node]bool{}
	all := p.doc.tree.All
	for i := len(all) - 1; i >= 0; i-- {
		n := all[i]
		count := 0
		if candidate(n, p.sizes[n].size) {
			count = p.counts.count(p.sizes[n].shape)
		}
		up := n.Parent
		p.best[up] = max(p.best[up], p.best[n], count)
		if n.Tag == "main" || n.Value("role") == "main" || p.own[n] || n.Tag == "h1" && !within(n, "header") {
			p.own[up] = true
		}
		if n.Tag == "main" {
			p.own[n] = true
		}
	}
}

func within(n *markup.Node, tag string) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == tag {
			return true
		}
	}
	return false
}

func (p *picker) pick(n *markup.Node) {
	s := p.sizes[n]
	p.order++
	if candidate(n, s.size) && !p.own[n] {
		count, best := p.counts.count(s.shape), p.best[n]
		if count >= 2 && (best <= count || landmarks[n.Tag] && best <= 4*count) && p.stands(n, s) {
			p.take(n, s)
			return
		}
	}
	for _, c := range n.Children {
		p.pick(c)
	}
}

// stands tells whether the element's text, read by itself, is the same element:
// not so in broken markup.
func (p *picker) stands(n *markup.Node, s sized) bool {
	alone := markup.Parse(n.Outer().Of(p.doc.src), "div")
	if len(alone.Root.Children) != 1 || alone.Root.HasText {
		return false
	}
	return shapes(alone)[alone.Root.Children[0]].shape == s.shape
}

func (p *picker) take(n *markup.Node, s sized) {
	g := &group{shape: s.shape, tag: n.Tag, order: p.order, role: roleOf(n), named: calledBy(n)}
	line, _ := span.Line(p.doc.src, n.Start.Start)
	o := occurrence{doc: p.index, at: n.Outer(), line: line}
	for _, x := range slots(p.doc.src, n) {
		v := shape(fnvOffset).add(x.value)
		if !x.has && x.attr != "" {
			v = 0
		}
		o.values = append(o.values, v)
	}
	g.occ = []occurrence{o}
	p.found = append(p.found, g)
}

// settle works out how alike a group is; false means that it is none.
func (g *group) settle() bool {
	docs := map[int]bool{}
	width := 0
	for _, o := range g.occ {
		docs[o.doc] = true
		width = max(width, len(o.values))
	}
	if len(docs) < 2 || len(docs) != len(g.occ) {
		return false // several on one page are a run of blocks
	}
	for _, o := range g.occ {
		if len(o.values) != width {
			return false // two shapes of one digest
		}
	}
	equal, all := 0, 0
	for k := range width {
		counts := map[shape]int{}
		best := g.occ[0].values[k]
		for _, o := range g.occ {
			counts[o.values[k]]++
		}
		for _, o := range g.occ { // the first of the most common, so that the answer is one
			if counts[o.values[k]] > counts[best] {
				best = o.values[k]
			}
		}
		g.common = append(g.common, best)
		equal, all = equal+counts[best], all+len(g.occ)
	}
	g.like = 1
	if all > 0 {
		g.like = float64(equal) / float64(all)
	}
	return g.like >= least
}

// roleOf guesses the role that an element has from its tag, its ARIA role and its
// names; "" for a section.
func roleOf(n *markup.Node) item.Role {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == "article" || up.Tag == "section" || up.Tag == "main" {
			return ""
		}
	}
	names := strings.FieldsFunc(
		strings.ToLower(n.Value("id")+" "+n.Value("class")),
		func(r rune) bool { return r == ' ' || r == '-' || r == '_' },
	)
	called := func(words string) bool {
		for _, w := range names {
			if strings.Contains(" "+words+" ", " "+w+" ") {
				return true
			}
		}
		return false
	}
	switch {
	case n.Tag == "header" || n.Value("role") == "banner":
		return item.Header
	case n.Tag == "footer" || n.Value("role") == "contentinfo":
		return item.Footer
	case n.Tag == "aside" || n.Value("role") == "complementary":
		return item.Aside
	case n.Tag == "nav" || n.Tag == "form" || n.Tag == "section":
		return ""
	case called("header head masthead banner topbar"):
		return item.Header
	case called("footer foot bottom colophon imprint"):
		return item.Footer
	}
	return ""
}

// roles lets a page have at most one part of each role: the group that stands on
// most pages comes first, and one that shares a page with it is a section.
func (f *finder) roles() {
	has := map[item.Role]map[int]bool{}
	for _, g := range f.groups {
		if g.role == "" {
			continue
		}
		if has[g.role] == nil {
			has[g.role] = map[int]bool{}
		}
		for _, o := range g.occ {
			if has[g.role][o.doc] {
				g.role = ""
				break
			}
		}
		if g.role == "" {
			continue
		}
		for _, o := range g.occ {
			has[g.role][o.doc] = true
		}
	}
}

// names gives each group the address of the item that it would become.
func (f *finder) names() {
	for _, g := range f.groups {
		kind, key := item.Section, g.named.name()
		if g.role != "" {
			kind, key = item.Part, "site-"+string(g.role)
		} else if key == "" {
			key = g.tag
		}
		g.address = free(item.Address{Kind: kind, Key: key}, f.taken)
	}
}

// free gives an address that is not taken, and takes it.
func free(a item.Address, taken map[item.Address]bool) item.Address {
	base := a.Key
	for n := 2; taken[a]; n++ {
		a.Key = base + "-" + string(rune('0'+n%10))
		if n > 9 {
			a.Key = base + "-" + item.DigestOf([]byte{byte(n), byte(n >> 8)}).Short()[:6]
		}
	}
	taken[a] = true
	return a
}
