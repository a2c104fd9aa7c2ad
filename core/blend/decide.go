package blend

import (
	"slices"
	"strings"
)

// order says of a group of regions that only the order of members differs, which has no
// meaning: the site's stays, and nobody is asked.
const order ConflictKind = "order"

// weight says which kind of conflict a group is called by.
var weight = map[ConflictKind]int{"": 0, order: 1, Text: 2, Structure: 3, Place: 4}

// mentions gives, for each node, the regions in which one of its tags stands, or the
// token that stands for its stream.
func (m *merger) mentions() map[*node][]*region {
	out := map[*node][]*region{}
	add := func(n *node, g *region) {
		if list := out[n]; len(list) == 0 || list[len(list)-1] != g {
			out[n] = append(list, g)
		}
	}
	for _, f := range m.order {
		for _, g := range f.regions {
			for _, t := range g.base {
				if t.what != words && t.what != leafs {
					add(t.n, g)
				}
			}
			for _, s := range []*side{m.site, m.kit} {
				list := g.site
				if s == m.kit {
					list = g.kit
				}
				for _, t := range list {
					if t.what == words || t.what == leafs {
						continue
					}
					add(t.n, g)
					if b := s.pairs.from[t.n.num]; b != nil {
						add(b, g)
					}
				}
			}
		}
	}
	return out
}

// link makes one conflict of regions over which a node reaches: were its one tag the
// site's and its other the kit's, it would be torn apart, or stand twice. forced are nodes
// whose regions are conflicts although each by itself is none.
func (m *merger) link(mentions map[*node][]*region, forced map[*node]ConflictKind) {
	n := 0
	for _, f := range m.order {
		for _, g := range f.regions {
			g.group = n
			n++
		}
	}
	up := make([]int, n)
	for i := range up {
		up[i] = i
	}
	var find func(int) int
	find = func(i int) int {
		if up[i] != i {
			up[i] = find(up[i])
		}
		return up[i]
	}
	for node, kind := range forced {
		for _, g := range mentions[node] {
			if weight[kind] > weight[g.kind] {
				g.kind = kind
			}
		}
	}
	for again := true; again; {
		again = false
		for _, list := range mentions {
			worst := ConflictKind("")
			for _, g := range list {
				if weight[g.kind] > weight[worst] {
					worst = g.kind
				}
			}
			if worst == "" || len(list) < 2 {
				continue
			}
			for _, g := range list {
				if g.kind != worst {
					g.kind, again = worst, true
				}
				if a, b := find(list[0].group), find(g.group); a != b {
					up[max(a, b)], again = min(a, b), true
				}
			}
		}
	}
	for _, f := range m.order {
		for _, g := range f.regions {
			g.group = find(g.group)
		}
	}
}

// decide settles the conflicts: the person's choice, or the site's side until there is one.
func (m *merger) decide(forced map[*node]ConflictKind, choose Resolve) {
	groups := map[int][]*region{}
	var ids []int
	for _, f := range m.order {
		for _, g := range f.regions {
			if g.kind == "" {
				continue
			}
			if groups[g.group] == nil {
				ids = append(ids, g.group)
			}
			groups[g.group] = append(groups[g.group], g)
		}
	}
	for _, id := range ids {
		from := byte('s')
		if m.decideGroup(groups[id], forced, choose) == ForKit {
			from = 'k'
		}
		for _, g := range groups[id] {
			m.take(g, from)
		}
	}
}

func (m *merger) decideGroup(list []*region, forced map[*node]ConflictKind, choose Resolve) Decision {
	kind := order
	for _, g := range list {
		if weight[g.kind] > weight[kind] {
			kind = g.kind
		}
	}
	c := &Conflict{Kind: kind}
	switch kind {
	case order:
		return ForSite
	case Place:
		var moved []*node
		for n, why := range forced {
			if why == Place &&
				slices.ContainsFunc(
					list,
					func(g *region) bool {
						return slices.ContainsFunc(g.base,
							func(t token) bool { return t.n == n })
					},
				) {
				moved = append(moved, n)
			}
		}
		slices.SortFunc(moved, func(a, b *node) int { return a.num - b.num })
		for i, n := range moved {
			if i == 0 {
				c.Where, c.Line = m.under(n.path()), m.lineOf(n)
			} else {
				c.Base, c.Site, c.Kit = c.Base+"\n", c.Site+"\n", c.Kit+"\n"
			}
			c.Base += m.base.text(n)
			c.Site += m.site.standing(m.site.pairs.to[n.num])
			c.Kit += m.kit.standing(m.kit.pairs.to[n.num])
		}
		for _, g := range list { // what hangs on the place is told as well
			if !slices.ContainsFunc(
				slices.Concat(g.base, g.site, g.kit),
				func(t token) bool { return t.what != moves },
			) {
				continue
			}
			c.Base += "\n" + m.base.show(g.base)
			c.Site += "\n" + m.site.show(g.site)
			c.Kit += "\n" + m.kit.show(g.kit)
		}
		if len(moved) > 0 {
			return m.addBy(c, choose)
		}
		c = &Conflict{Kind: Structure}
	default:
	}
	for i, g := range list {
		if i > 0 {
			c.Base, c.Site, c.Kit = c.Base+" … ", c.Site+" … ", c.Kit+" … "
		}
		c.Base += m.base.show(g.base)
		c.Site += m.site.show(g.site)
		c.Kit += m.kit.show(g.kit)
	}
	c.Where, c.Line = m.place(list[0])
	return m.addBy(c, choose)
}

func (m *merger) lineOf(n *node) int {
	if to := m.site.pairs.to[n.num]; to != nil {
		return 1 + strings.Count(string(m.site.src[:to.open.Start]), "\n")
	}
	return 1
}

// standing says where a node stands on a side.
func (s *side) standing(n *node) string {
	if n == nil {
		return "removed"
	}
	var before *node
	for _, k := range n.parent.kids {
		if k == n {
			break
		}
		before = k
	}
	in := ""
	if up := n.parent.path(); up != "" {
		in = " in " + up
	}
	if before == nil {
		return "first" + in
	}
	text := strings.Join(strings.Fields(s.text(before)), " ")
	if r := []rune(text); len(r) > 80 {
		text = string(r[:79]) + "…"
	}
	return "behind " + text + in
}
