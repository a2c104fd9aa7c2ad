package blend

import (
	"slices"
	"sort"
	"strings"
)

// pairing says which node of one document is which of another, in document order.
type pairing struct {
	to, from []*node // by number; nil where there is none
}

func (p *pairing) pair(a, b *node) {
	p.to[a.num], p.from[b.num] = b, a
}

// likeEnough is the least likeness of two nodes among several that are taken for one.
const likeEnough = 0.5

// maxPairs bounds how many pairs of children are compared one by one.
const maxPairs = 20_000

// match finds a document's nodes in another: by id, by identical subtrees, by what they
// hold, then by likeness of kind, attributes, text and place.
func match(a, b *doc) *pairing {
	p := &pairing{to: make([]*node, len(a.nodes)), from: make([]*node, len(b.nodes))}
	p.pair(a.root, b.root)
	if a.lang == langMarkup {
		p.byID(a, b)
	}
	p.byHash(a, b)
	p.byWhatTheyHold(a, b)
	for _, n := range a.nodes {
		if to := p.to[n.num]; to != nil {
			p.below(n, to)
		}
	}
	return p
}

func (p *pairing) byID(a, b *doc) {
	ids := func(d *doc) map[string]*node {
		out := map[string]*node{}
		for _, n := range d.nodes {
			if n.id == "" {
				continue
			}
			if _, twice := out[n.kind+n.id]; twice {
				out[n.kind+n.id] = nil
				continue
			}
			out[n.kind+n.id] = n
		}
		return out
	}
	there := ids(b)
	for id, n := range ids(a) {
		if to := there[id]; n != nil && to != nil && to.shape == n.shape {
			p.pair(n, to)
		}
	}
}

// isDistinctive says that a node is known by its content wherever it stands.
func (n *node) isDistinctive() bool {
	return n.shape == holds && n.parent != nil && (n.size >= 3 && n.wordy()) && !strings.HasSuffix(n.kind, ":{") &&
		!strings.HasSuffix(n.kind, ":[")
}

// wordy tells whether a node holds any word or value; it is found out once.
func (n *node) wordy() bool {
	if n.worded == unknown {
		n.worded = no
		if n.holdsWords() {
			n.worded = yes
		}
	}
	return n.worded == yes
}

// answer is one that is worked out when it is first asked for.
type answer byte

const (
	unknown answer = iota
	no
	yes
)

func (n *node) holdsWords() bool {
	for _, k := range n.kids {
		if k.shape == word || k.shape == leaf && len(k.parts) > 0 || k.shape == holds && k.wordy() {
			return true
		}
	}
	return false
}

// byHash pairs what is the same, the largest first. What stands several times is paired
// when it does so equally often on both sides.
func (p *pairing) byHash(a, b *doc) {
	group := func(d *doc) map[uint64][]*node {
		out := map[uint64][]*node{}
		for _, n := range d.nodes {
			if n.isDistinctive() {
				out[n.hash] = append(out[n.hash], n)
			}
		}
		return out
	}
	here, there := group(a), group(b)
	order := slices.Clone(a.nodes)
	sort.SliceStable(order, func(i, j int) bool { return order[i].size > order[j].size })
	for _, n := range order {
		if p.to[n.num] != nil || !n.isDistinctive() || len(here[n.hash]) != len(there[n.hash]) {
			continue
		}
		for i, x := range here[n.hash] {
			p.whole(x, there[n.hash][i])
		}
	}
}

// whole pairs two nodes that are the same, with all below.
func (p *pairing) whole(a, b *node) {
	if p.to[a.num] != nil || p.from[b.num] != nil || a.kind != b.kind || a.shape != b.shape {
		return
	}
	p.pair(a, b)
	x, y := a.inner(), b.inner()
	for i := range x {
		if i < len(y) {
			p.whole(x[i], y[i])
		}
	}
}

// inner gives the children that are no words.
func (n *node) inner() []*node {
	var out []*node
	for _, k := range n.kids {
		if k.shape != word {
			out = append(out, k)
		}
	}
	return out
}

// byWhatTheyHold pairs nodes whose children were paired, from below.
func (p *pairing) byWhatTheyHold(a, b *doc) {
	for i := len(a.nodes) - 1; i > 0; i-- {
		n := a.nodes[i]
		if p.to[n.num] != nil || n.shape != holds {
			continue
		}
		votes := map[*node]int{}
		var best *node
		for _, k := range n.inner() {
			to := p.to[k.num]
			if to == nil {
				continue
			}
			up := to.parent
			if up == nil || up.kind != n.kind || p.from[up.num] != nil {
				continue
			}
			votes[up] += k.size
			if best == nil || votes[up] > votes[best] || votes[up] == votes[best] && up.num < best.num {
				best = up
			}
		}
		if best != nil && 2*votes[best] > max(n.size, best.size)/2 {
			p.pair(n, best)
		}
	}
}

// below pairs what is left among the children of two nodes that are one; those within
// wrappers that only one side has count as children.
func (p *pairing) below(a, b *node) {
	here, there := unmatchedDescendants(a, p.to), unmatchedDescendants(b, p.from)
	type candidate struct {
		a, b  *node
		like  float64
		apart int
	}
	kinds := func(list []*node) map[string]int {
		out := map[string]int{}
		for _, n := range list {
			out[n.kind]++
		}
		return out
	}
	inHere, inThere := kinds(here), kinds(there)
	var all []candidate
	if len(here)*len(there) > maxPairs {
		for i := range min(len(here), len(there)) {
			all = append(all, candidate{here[i], there[i], 1, 0})
		}
	} else {
		for i, x := range here {
			for j, y := range there {
				if x.kind != y.kind || x.shape != y.shape {
					continue
				}
				like := likeness(x, y)
				least := likeEnough
				if inHere[x.kind] == 1 && inThere[x.kind] == 1 {
					least = 0.2
					if strings.HasSuffix(strings.TrimRight(x.kind, "{["), ":") || onlyOnce[x.kind] || textual[x.kind] {
						least = 0
					}
				}
				if like >= least {
					all = append(all, candidate{x, y, like, max(i-j, j-i)})
				}
			}
		}
	}
	sort.SliceStable(all, func(i, j int) bool {
		if all[i].like != all[j].like {
			return all[i].like > all[j].like
		}
		return all[i].apart < all[j].apart
	})
	for _, c := range all {
		if p.to[c.a.num] == nil && p.from[c.b.num] == nil && c.a.kind == c.b.kind {
			if c.a.hash == c.b.hash {
				p.whole(c.a, c.b)
			} else {
				p.pair(c.a, c.b)
			}
		}
	}
}

var onlyOnce = map[string]bool{
	"html":             true,
	"head":             true,
	"body":             true,
	"title":            true,
	"main":             true,
	"mark":             true,
	"text of script":   true,
	"text of style":    true,
	"text of pre":      true,
	"text of textarea": true,
}

// textual elements hold little but text: the only one of its kind is the same one, however
// it was reworded.
var textual = map[string]bool{
	"h1":         true,
	"h2":         true,
	"h3":         true,
	"h4":         true,
	"h5":         true,
	"h6":         true,
	"p":          true,
	"a":          true,
	"b":          true,
	"strong":     true,
	"em":         true,
	"i":          true,
	"small":      true,
	"figcaption": true,
	"summary":    true,
	"legend":     true,
	"label":      true,
	"button":     true,
	"caption":    true,
	"cite":       true,
}

// unmatchedDescendants gives the nodes below one that are not paired, down to those that are.
func unmatchedDescendants(n *node, paired []*node) []*node {
	var out []*node
	for _, k := range n.kids {
		if k.shape == word || paired[k.num] != nil {
			continue
		}
		out = append(out, k)
		if k.shape == holds && len(out) < 400 {
			out = append(out, unmatchedDescendants(k, paired)...)
		}
	}
	return out
}

// likeness of two nodes of one kind, from 0 to 1.
func likeness(a, b *node) float64 {
	if a.hash == b.hash {
		return 1
	}
	parts := func(n *node) []string {
		var out []string
		for _, p := range n.parts {
			if p.how == set {
				for _, v := range strings.Fields(p.value) {
					out = append(out, p.name+"="+v)
				}
				continue
			}
			out = append(out, p.name+"="+plain(p))
		}
		return out
	}
	pa, pb := parts(a), parts(b)
	var like float64
	switch {
	case a.id != "" && a.id == b.id:
		return 0.99
	case len(a.bag()) == 0 && len(b.bag()) == 0:
		like = 0.9
		if len(pa)+len(pb) > 0 {
			like = dice(pa, pb)
		}
	case len(pa)+len(pb) == 0:
		like = dice(a.bag(), b.bag())
	default:
		like = 0.6*dice(a.bag(), b.bag()) + 0.4*dice(pa, pb)
	}
	if a.id != "" && b.id != "" {
		like *= 0.7
	}
	return like
}

// dice is twice what two bags share, by what they hold (Dice 1945).
func dice(a, b []string) float64 {
	if len(a)+len(b) == 0 {
		return 0
	}
	count := make(map[string]int, len(a))
	for _, w := range a {
		count[w]++
	}
	shared := 0
	for _, w := range b {
		if count[w] > 0 {
			count[w]--
			shared++
		}
	}
	return 2 * float64(shared) / float64(len(a)+len(b))
}

// movedIn gives the nodes of a that stand elsewhere in b: below another node, or in
// another order than most of their neighbours.
func (p *pairing) movedIn(a *doc) map[*node]bool {
	out := map[*node]bool{}
	among := map[*node][]*node{}
	var order []*node
	for _, n := range a.nodes[1:] {
		to := p.to[n.num]
		if to == nil {
			continue
		}
		up, upThere := n.parent, to.parent
		for p.to[up.num] == nil {
			up = up.parent
		}
		for p.from[upThere.num] == nil {
			upThere = upThere.parent
		}
		if p.to[up.num] != upThere {
			out[n] = true
			continue
		}
		if among[up] == nil {
			order = append(order, up)
		}
		among[up] = append(among[up], n)
	}
	for _, up := range order {
		list := among[up]
		stay := heaviestRun(list, func(n *node) int { return p.to[n.num].num })
		for i, n := range list {
			if !stay[i] {
				out[n] = true
			}
		}
	}
	return out
}

// heaviestRun marks a longest increasing subsequence, by weight (with a Fenwick tree).
func heaviestRun(list []*node, place func(*node) int) []bool {
	places := make([]int, len(list))
	for i, n := range list {
		places[i] = place(n)
	}
	sorted := slices.Clone(places)
	slices.Sort(sorted)
	best := make([]int, len(list)+1) // Fenwick: index of the heaviest run's last node, plus 1
	weight, before := make([]int, len(list)), make([]int, len(list))
	last := -1
	for i, n := range list {
		rank := sort.SearchInts(sorted, places[i]) + 1
		before[i] = -1
		for r := rank - 1; r > 0; r -= r & -r {
			if k := best[r] - 1; k >= 0 && (before[i] < 0 || weight[k] > weight[before[i]]) {
				before[i] = k
			}
		}
		weight[i] = n.size
		if before[i] >= 0 {
			weight[i] += weight[before[i]]
		}
		for r := rank; r <= len(list); r += r & -r {
			if k := best[r] - 1; k < 0 || weight[i] > weight[k] {
				best[r] = i + 1
			}
		}
		if last < 0 || weight[i] > weight[last] {
			last = i
		}
	}
	out := make([]bool, len(list))
	for ; last >= 0; last = before[last] {
		out[last] = true
	}
	return out
}
