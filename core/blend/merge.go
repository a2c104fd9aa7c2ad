package blend

import (
	"sort"
	"strconv"
	"strings"
)

// merger brings the changes of two sides together, stream by stream.
type merger struct {
	base      *doc
	site, kit *side
	apart     map[*node]bool // base nodes that are streams of their own: somebody moved them
	streams   map[*node]*flow
	twins     map[*node]*node // the kit's nodes that both sides put in alike: the site's
	order     []*flow
	choose    Resolve
	conflicts []*Conflict
	where     string   // what the document is part of
	list      []output // the result
}

// flow is one stream on all three sides: the whole document, or a node that moved.
type flow struct {
	top       *node
	base      []token
	site, kit []token
	toS, toK  []int
	regions   []*region
	only      byte // 's' or 'k' when the other side let go of the node
}

// region is a run of the base that at least one side changed.
type region struct {
	b0, b1    int
	site, kit []token // what stands there on the sides
	bySite    bool
	byKit     bool
	base      []token
	toS, toK  []int // which of the sides' tokens each of the base's is
	siteAt    int   // where the sides' runs begin
	kitAt     int
	out       []output
	kind      ConflictKind // the kind of conflict, or ""
	group     int          // regions of one group are decided together
}

// output is a token of the result.
type output struct {
	token
	from  byte  // 's' or 'k': whose text it is
	base  *node // of which both sides have a form
	s, k  int   // its places in the sides' streams, or absent
	b     int
	other *node // the kit's form of it
	top   *node // the stream that it stands in
	lead  *string
	text  string // as it was written
}

// absent is the place of a token in a stream that does not have it; -1 is the place before
// the first.
const absent = -2

// flowOf makes the streams of a base node, or of the whole document, and finds what
// changed in them.
func (m *merger) flowOf(top *node) *flow {
	siteTop, kitTop := m.site.pairs.to[top.num], m.kit.pairs.to[top.num]
	own := func(n *node) string { return strconv.Itoa(n.num) }
	f := &flow{top: top, base: stream(top, own, func(n *node) bool { return n != top && m.apart[n] })}
	streamOf := func(s *side, n *node) []token {
		if n == nil {
			return nil
		}
		return stream(n, s.label, func(x *node) bool {
			b := s.pairs.from[x.num]
			return x != n && b != nil && m.apart[b]
		})
	}
	f.site, f.kit = streamOf(m.site, siteTop), streamOf(m.kit, kitTop)
	switch {
	case siteTop == nil:
		f.only = 'k'
	case kitTop == nil:
		f.only = 's'
	default:
		f.toS, f.toK = align(f.base, f.site, m.site.moved), align(f.base, f.kit, m.kit.moved)
		f.regions = m.regions(f)
		for _, g := range f.regions {
			m.settle(g)
		}
	}
	return f
}

// result gives a stream's tokens, once its regions are settled.
func (f *flow) result() []output {
	var out []output
	switch f.only {
	case 'k':
		for i, t := range f.kit {
			out = append(out, output{token: t, from: 'k', s: absent, k: i, b: absent, top: f.top})
		}
		return out
	case 's':
		for i, t := range f.site {
			out = append(out, output{token: t, from: 's', s: i, k: absent, b: absent, top: f.top})
		}
		return out
	}
	at := 0
	plainTo := func(b int) {
		for ; at < b; at++ {
			out = append(
				out,
				output{
					token: f.site[f.toS[at]],
					from:  's',
					base:  f.base[at].n,
					other: f.kit[f.toK[at]].n,
					s:     f.toS[at],
					k:     f.toK[at],
					b:     at,
					top:   f.top,
				},
			)
		}
	}
	for _, g := range f.regions {
		plainTo(g.b0)
		for _, x := range g.out {
			x.top = f.top
			out = append(out, x)
		}
		at = g.b1
	}
	plainTo(len(f.base))
	return out
}

// content is equal for tokens that say the same, on whichever side they stand.
func (s *side) content(t token) string {
	switch t.what {
	case words:
		return "w" + t.label
	case moves:
		return t.label
	default:
	}
	if s.pairs.from[t.n.num] != nil {
		return t.label
	}
	if t.what == shuts {
		return "/" + t.n.kind
	}
	parts := make([]string, 0, len(t.n.parts))
	for _, p := range t.n.parts {
		parts = append(parts, p.name+"\x01"+plain(p))
	}
	sort.Strings(parts)
	return "<" + t.n.kind + "\x02" + strings.Join(parts, "\x02")
}

func (s *side) contents(list []token) []string {
	out := make([]string, len(list))
	for i, t := range list {
		out[i] = s.content(t)
	}
	return out
}

// settle finds what becomes of a region, or that it is a conflict.
func (m *merger) settle(g *region) {
	switch {
	case m.loses(g, g.toS, m.kit, g.toK) || m.loses(g, g.toK, m.site, g.toS):
		g.kind = Structure
	case !g.byKit:
		m.take(g, 's')
	case !g.bySite:
		m.take(g, 'k')
	default:
		m.both(g)
	}
}

// loses tells whether one side removed a node that the other changed in itself.
func (m *merger) loses(g *region, one []int, other *side, there []int) bool {
	for i, t := range g.base {
		if (t.what == opens || t.what == leafs) && one[i] < 0 && there[i] >= 0 &&
			changed(t.n, other.pairs.to[t.n.num]) {
			return true
		}
	}
	return false
}

func changed(a, b *node) bool {
	if len(a.parts) != len(b.parts) {
		return true
	}
	for _, p := range a.parts {
		q, ok := b.part(p.name)
		if !ok || plain(p) != plain(q) {
			return true
		}
	}
	return false
}

// take makes one side's run the region's. What both sides have of it still takes both
// sides' changes of the node itself.
func (m *merger) take(g *region, from byte) {
	g.out = g.out[:0]
	list, at, to := g.site, g.siteAt, g.toS
	if from == 'k' {
		list, at, to = g.kit, g.kitAt, g.toK
	}
	both := make([]int, len(list)) // of which base token the run's are, on both sides; plus 1
	for b, p := range to {
		if g.toS[b] >= 0 && g.toK[b] >= 0 && p >= at && p < at+len(list) {
			both[p-at] = b + 1
		}
	}
	for i, t := range list {
		if both[i] > 0 {
			g.out = append(g.out, m.shared(g, both[i]-1))
			continue
		}
		x := output{token: t, from: from, s: at + i, k: absent, b: absent}
		if from == 'k' {
			x.s, x.k = absent, at+i
		}
		g.out = append(g.out, x)
	}
}

// shared is a token of the base that both sides have.
func (m *merger) shared(g *region, b int) output {
	s, k := g.toS[b], g.toK[b]
	return output{
		token: g.site[s-g.siteAt],
		from:  's',
		base:  g.base[b].n,
		other: g.kit[k-g.kitAt].n,
		s:     s,
		k:     k,
		b:     g.b0 + b,
	}
}

// both settles a region that both sides changed.
func (m *merger) both(g *region) {
	cs, ck := m.site.contents(g.site), m.kit.contents(g.kit)
	lead := 0
	for lead < len(cs) && lead < len(ck) && cs[lead] == ck[lead] {
		lead++
	}
	trail := 0
	for trail < len(cs)-lead && trail < len(ck)-lead && cs[len(cs)-1-trail] == ck[len(ck)-1-trail] {
		trail++
	}
	for i := range lead {
		m.twins[g.kit[i].n] = g.site[i].n
	}
	for i := range trail {
		m.twins[g.kit[len(ck)-1-i].n] = g.site[len(cs)-1-i].n
	}
	switch {
	case lead == len(cs) && lead == len(ck):
		m.take(g, 's')
		return
	case g.b0 == g.b1:
		if out, ok := m.sameSpot(g); ok {
			g.out = out
			return
		}
	case own(g.toS, g.siteAt+lead, g.siteAt+len(cs)-trail) && within(g.toS, g.toK):
		m.take(g, 'k')
		return
	case own(g.toK, g.kitAt+lead, g.kitAt+len(ck)-trail) && within(g.toK, g.toS):
		m.take(g, 's')
		return
	case own(g.toS, g.siteAt, g.siteAt+len(cs)) && own(g.toK, g.kitAt, g.kitAt+len(ck)):
		for b := range g.base { // both only removed: what neither did stays
			if g.toS[b] >= 0 && g.toK[b] >= 0 {
				g.out = append(g.out, m.shared(g, b))
			}
		}
		return
	}
	g.kind = Text
	for _, list := range [][]token{g.site, g.kit, g.base} {
		for _, t := range list {
			if t.what != words {
				g.kind = Structure
			}
		}
	}
}

// own tells whether a side's tokens [from, until) are all the base's.
func own(to []int, from, until int) bool {
	n := 0
	for _, x := range to {
		if x >= from && x < until {
			n++
		}
	}
	return n == until-from
}

// within tells whether all that one side removed the other removed as well.
func within(one, other []int) bool {
	for i, x := range one {
		if x < 0 && other[i] >= 0 {
			return false
		}
	}
	return true
}

// place names where a region lies, and its line in the site's text.
func (m *merger) place(g *region) (string, int) {
	for _, list := range [][]token{g.site, g.base, g.kit} {
		for _, t := range list {
			n := t.n
			if n.shape == word || t.what == shuts {
				n = n.parent
			}
			if n == nil {
				continue
			}
			line := 1
			if len(g.site) > 0 {
				line = 1 + strings.Count(string(m.site.src[:g.site[0].n.open.Start]), "\n")
			}
			return m.under(n.path()), line
		}
	}
	return m.under(""), 1
}

func (m *merger) under(path string) string {
	if m.where != "" && path != "" {
		return m.where + " > " + path
	}
	return m.where + path
}

// show gives the text of some tokens as it stands in their source.
func (d *doc) show(list []token) string {
	var b strings.Builder
	for i, t := range list {
		lead, text := t.n.lead, string(t.n.open.Of(d.src))
		switch t.what {
		case shuts:
			lead, text = t.n.tail, string(t.n.endTag.Of(d.src))
		case moves:
			text = d.text(t.n)
		default:
		}
		if i > 0 {
			b.WriteString(string(lead.Of(d.src)))
		}
		b.WriteString(text)
	}
	return b.String()
}
