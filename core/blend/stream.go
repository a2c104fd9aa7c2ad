package blend

import "strconv"

// A document is compared as a stream of tokens: a tag that opens a node, one that shuts
// it, a leaf, a word. A node that one side moved is a stream of its own, and one token
// where it stands: so what is changed within it is carried along.
type token struct {
	n     *node
	what  tokenKind
	label string // equal for what is the same on two sides
}

type tokenKind byte

const (
	opens tokenKind = iota
	shuts
	leafs
	words
	moves // stands for a stream of its own
)

// side is one of the two documents that are blended into each other.
type side struct {
	*doc
	name  string
	pairs *pairing
	moved map[*node]bool // base nodes that this side moved
}

// label gives what a node is called in all streams: by the base's number where it has one.
func (s *side) label(n *node) string {
	if b := s.pairs.from[n.num]; b != nil {
		return strconv.Itoa(b.num)
	}
	return s.name + strconv.Itoa(n.num)
}

// stream gives a node's tokens; ref tells which nodes below are streams of their own.
func stream(top *node, label func(*node) string, ref func(*node) bool) []token {
	var out []token
	var walk func(n *node)
	walk = func(n *node) {
		switch n.shape {
		case word:
			out = append(out, token{n, words, n.parts[0].value})
			return
		case leaf:
			out = append(out, token{n, leafs, "l" + label(n)})
			return
		default:
		}
		if n.parent != nil {
			out = append(out, token{n, opens, "o" + label(n)})
		}
		for _, k := range n.kids {
			if k.shape != word && ref(k) {
				out = append(out, token{k, moves, "m" + label(k)})
				continue
			}
			walk(k)
		}
		out = append(out, token{n, shuts, "s" + label(n)})
	}
	walk(top)
	return out
}

// align says for each of the base's tokens which of a side's it is, or -1. What the side
// moved is not the same token: it left one place and came to another.
func align(base, other []token, moved map[*node]bool) []int {
	to := make([]int, len(base))
	at := make(map[string]int, len(other))
	for i, t := range other {
		if t.what != words {
			at[t.label] = i
		}
	}
	type anchor struct{ b, x int }
	var all []anchor
	for i, t := range base {
		to[i] = -1
		if t.what != words {
			if t.what == moves && moved[t.n] {
				continue
			}
			if x, ok := at[t.label]; ok && other[x].what == t.what {
				all = append(all, anchor{i, x})
			}
		}
	}
	// What moved is a stream of its own, so anchors rise; were one not to, it is no anchor.
	kept := all[:0]
	for _, a := range all {
		for len(kept) > 0 && kept[len(kept)-1].x >= a.x {
			kept = kept[:len(kept)-1]
		}
		kept = append(kept, a)
	}
	b, x := 0, 0
	for _, a := range append(kept, anchor{len(base), len(other)}) {
		between(base, other, to, b, a.b, x, a.x)
		if a.b < len(base) {
			to[a.b] = a.x
		}
		b, x = a.b+1, a.x+1
	}
	return to
}

// between aligns the words between two anchors.
func between(base, other []token, to []int, b0, b1, x0, x1 int) {
	pick := func(list []token, from, until int) (texts []string, at []int) {
		for i := from; i < until; i++ {
			if list[i].what == words {
				texts, at = append(texts, list[i].label), append(at, i)
			}
		}
		return texts, at
	}
	here, hereAt := pick(base, b0, b1)
	there, thereAt := pick(other, x0, x1)
	if len(here) == 0 || len(there) == 0 {
		return
	}
	lead := 0
	for lead < len(here) && lead < len(there) && here[lead] == there[lead] {
		to[hereAt[lead]] = thereAt[lead]
		lead++
	}
	trail := 0
	for trail < len(here)-lead && trail < len(there)-lead && here[len(here)-1-trail] == there[len(there)-1-trail] {
		to[hereAt[len(here)-1-trail]] = thereAt[len(there)-1-trail]
		trail++
	}
	same, ok := common(here[lead:len(here)-trail], there[lead:len(there)-trail])
	if !ok {
		return
	}
	for _, p := range same {
		to[hereAt[lead+p[0]]] = thereAt[lead+p[1]]
	}
}

// hunk is a run that differs: the base's tokens [b0, b1) became the side's [x0, x1).
type hunk struct{ b0, b1, x0, x1 int }

func hunks(to []int, other int) []hunk {
	var out []hunk
	b, x := 0, 0
	for i := 0; i <= len(to); i++ {
		t := other
		if i < len(to) {
			if to[i] < 0 {
				continue
			}
			t = to[i]
		}
		if i > b || t > x {
			out = append(out, hunk{b, i, x, t})
		}
		b, x = i+1, t+1
	}
	return out
}
