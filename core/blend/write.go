package blend

import (
	"slices"
	"strings"
)

// run blends two sides of m.base; nil when what comes out does not hold together.
func (m *merger) run(siteDoc, kitDoc *doc) []byte {
	m.site = &side{doc: siteDoc, name: "s", pairs: match(m.base, siteDoc)}
	m.kit = &side{doc: kitDoc, name: "k", pairs: match(m.base, kitDoc)}
	m.site.moved, m.kit.moved = m.site.pairs.movedIn(m.base), m.kit.pairs.movedIn(m.base)
	m.apart = map[*node]bool{}
	forced := map[*node]ConflictKind{} // nodes that somebody is to be asked about
	tops := []*node{m.base.root}
	for _, n := range m.base.nodes {
		inSite, inKit := m.site.pairs.to[n.num] != nil, m.kit.pairs.to[n.num] != nil
		if !m.site.moved[n] && !m.kit.moved[n] {
			continue
		}
		m.apart[n] = true
		tops = append(tops, n)
		if m.site.moved[n] && !inKit || m.kit.moved[n] && !inSite {
			forced[n] = Place
		}
	}
	m.streams, m.twins = map[*node]*flow{}, map[*node]*node{}
	for _, n := range tops {
		f := m.flowOf(n)
		m.streams[n] = f
		m.order = append(m.order, f)
	}
	mentions := m.mentions()
	// What the changes exclude shows only in the whole, with all conflicts decided for the
	// one side, for the other, and as they are.
	all := []Resolve{func(*Conflict) Decision { return ForSite }, func(*Conflict) Decision { return ForKit }, m.choose}
	for again := true; again; {
		m.link(mentions, forced)
		before := len(forced)
		ways := all
		if len(forced) == 0 && !m.disputed() {
			ways = all[2:] // nothing to decide, so one way is all ways
		}
		for _, choose := range ways {
			m.conflicts = m.conflicts[:0]
			m.decide(forced, choose)
			list, wrong := m.whole()
			m.list = list
			for n, kind := range wrong {
				if forced[n] == "" && len(mentions[n]) > 0 {
					forced[n] = kind
				}
			}
		}
		again = len(forced) > before
	}
	return m.write(m.list)
}

// disputed tells whether any region is a conflict.
func (m *merger) disputed() bool {
	for _, f := range m.order {
		for _, g := range f.regions {
			if g.kind != "" {
				return true
			}
		}
	}
	return false
}

// whole puts the streams together, and tells which nodes stand nowhere, twice, or not
// within each other.
func (m *merger) whole() (list []output, wrong map[*node]ConflictKind) {
	wrong = map[*node]ConflictKind{}
	count := map[*node]int{}
	var lay func(n *node)
	lay = func(n *node) {
		for _, x := range m.streams[n].result() {
			if x.what != moves {
				list = append(list, x)
				continue
			}
			b := m.baseOf(x)
			if count[b]++; count[b] > 1 {
				wrong[b] = Place
				if m.member(b) {
					wrong[b] = order
				}
				continue
			}
			first := len(list)
			lay(b)
			if first < len(list) { // it stands as on the side that put it there
				lead := m.leadOf(&x)
				list[first].lead = &lead
			}
		}
	}
	lay(m.base.root)
	// What was moved each into the other is reached from nowhere.
	inside := map[*node][]*node{}
	for _, f := range m.order {
		if f.top == m.base.root || count[f.top] > 0 {
			continue
		}
		for _, x := range f.result() {
			if x.what == moves {
				inside[f.top] = append(inside[f.top], m.baseOf(x))
			}
		}
	}
	for n := range inside {
		seen := map[*node]bool{}
		for next := slices.Clone(inside[n]); len(next) > 0; next = next[1:] {
			if next[0] == n {
				wrong[n] = Place
			}
			if !seen[next[0]] {
				seen[next[0]] = true
				next = append(next, inside[next[0]]...)
			}
		}
	}
	for n := range m.tornApart(list) {
		wrong[n] = Structure
	}
	return list, wrong
}

func (m *merger) baseOf(x output) *node {
	if b := m.site.pairs.fromNode(x.n, m.site.doc); b != nil {
		return b
	}
	return m.kit.pairs.fromNode(x.n, m.kit.doc)
}

// fromNode gives the base's node of a node, when it is of this document.
func (p *pairing) fromNode(n *node, d *doc) *node {
	if n.num < len(d.nodes) && d.nodes[n.num] == n {
		return p.from[n.num]
	}
	return nil
}

// member tells that the order among a node's neighbours has no meaning.
func (m *merger) member(n *node) bool {
	return m.base.lang == langJSON && strings.HasSuffix(strings.TrimRight(n.kind, "{["), ":")
}

// tornApart gives the nodes whose tags do not stand within each other.
func (m *merger) tornApart(list []output) map[*node]bool {
	var open []*node
	torn := map[*node]bool{}
	name := func(x output) *node {
		if x.base != nil {
			return x.base
		}
		if twin := m.twins[x.n]; twin != nil {
			return twin
		}
		return x.n
	}
	for _, x := range list {
		switch x.what {
		case opens:
			open = append(open, name(x))
		case shuts:
			if x.n.parent == nil {
				continue
			}
			if len(open) > 0 && open[len(open)-1] == name(x) {
				open = open[:len(open)-1]
				continue
			}
			torn[x.n] = true
			if x.base != nil {
				torn[x.base] = true
			}
			for i := len(open) - 1; i >= 0; i-- {
				if open[i] == name(x) {
					for _, n := range open[i+1:] {
						torn[n] = true
					}
					open = append(open[:i], open[i+1:]...)
					break
				}
			}
		default:
		}
	}
	for _, n := range open {
		torn[n] = true
	}
	return torn
}

// write puts the tokens together to a text: each as it stands in its source, with what
// stands before it there.
func (m *merger) write(list []output) []byte {
	var b strings.Builder
	var last *output
	for i := range list {
		x := &list[i]
		m.between(&b, last, x)
		d := m.site
		if x.from == 'k' {
			d = m.kit
		}
		switch {
		case x.what == shuts:
			x.text = string(x.n.endTag.Of(d.src))
		case x.base != nil && x.what != words:
			x.text = m.open(*x)
		default:
			x.text = string(x.n.open.Of(d.src))
		}
		b.WriteString(x.text)
		last = x
	}
	return []byte(b.String())
}

// leadOf gives what stands before a token in its source.
func (m *merger) leadOf(x *output) string {
	d := m.site
	if x.from == 'k' {
		d = m.kit
	}
	return before(x.what, x.n, d.doc)
}

func before(what tokenKind, n *node, d *doc) string {
	if what == shuts {
		return string(n.tail.Of(d.src))
	}
	return string(n.lead.Of(d.src))
}

// between writes what stands between two tokens: that of the side on which they stand
// side by side, and what their language demands.
func (m *merger) between(b *strings.Builder, last, x *output) {
	lead := m.leadOf(x)
	start := output{s: -1, k: -1, b: -1, top: m.base.root, base: m.base.root}
	if last == nil {
		last = &start
	}
	switch {
	case x.lead != nil:
		lead = *x.lead
	case last.top != x.top || x.base == nil:
	case last.base != nil && x.b == last.b+1 && x.s == last.s+1 && x.k == last.k+1:
		lead = m.gap(x, lead)
	case x.what != shuts && x.k >= 0 && x.k == last.k+1 && x.s != last.s+1:
		lead = before(x.what, x.other, m.kit.doc)
	}
	text := b.String()
	switch m.base.lang {
	case langSheet:
		if last != &start && last.what == leafs && x.what != shuts && !strings.HasSuffix(text, ";") &&
			!strings.HasSuffix(text, "}") &&
			!strings.HasSuffix(text, "*/") {
			b.WriteByte(';')
		}
	case langJSON:
		if last != &start && last.what != opens && x.what != shuts {
			b.WriteByte(',')
		}
	case langLines:
		if text != "" && !strings.HasSuffix(text, "\n") && x.what == words {
			b.WriteByte('\n')
		}
	case langMarkup:
		if last != &start && last.what == words && x.what == words && lead == "" {
			lead = " "
		}
	}
	b.WriteString(lead)
}

// gap gives what stands between two tokens that all three have side by side: whether there
// is anything is a change like others.
func (m *merger) gap(x *output, site string) string {
	was, theirs := before(x.what, x.base, m.base), before(x.what, x.other, m.kit.doc)
	if (was == "") == (site == "") && (theirs == "") != (was == "") {
		return theirs
	}
	return site
}

// sound tells whether a text reads as it was put together.
func sound(d *doc, m *merger) bool {
	if d == nil || m.list == nil {
		return false
	}
	again := stream(d.root, func(n *node) string { return "" }, func(*node) bool { return false })
	if len(again) != len(m.list) {
		return false
	}
	bare := func(s string) string { return strings.TrimRight(strings.TrimSpace(s), "; \t\r\n\f") }
	for i, t := range again {
		x, text := m.list[i], string(t.n.open.Of(d.src))
		if t.what == shuts {
			text = string(t.n.endTag.Of(d.src))
		}
		if t.what != x.what || t.n.shape != x.n.shape || t.what != words && t.n.kind != x.n.kind ||
			bare(text) != bare(x.text) {
			return false
		}
	}
	return true
}
