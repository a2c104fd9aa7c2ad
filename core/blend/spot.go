package blend

import "strings"

// sameSpot brings together what both sides put at one place: whole nodes of both stand
// one behind the other, in an order that does not depend on the side; a tag that shuts
// comes first and one that opens last.
func (m *merger) sameSpot(g *region) ([]output, bool) {
	split := func(list []token) (shut, whole, open []token, ok bool) {
		i, k := 0, len(list)
		for i < k && list[i].what == shuts {
			i++
		}
		for k > i && list[k-1].what == opens {
			k--
		}
		depth := 0
		for _, t := range list[i:k] {
			switch {
			case t.what == opens:
				depth++
			case t.what == shuts:
				depth--
			case t.what == words && depth == 0:
				return nil, nil, nil, false // words have an order
			}
			if depth < 0 {
				return nil, nil, nil, false
			}
		}
		return list[:i], list[i:k], list[k:], depth == 0
	}
	shutS, wholeS, openS, okS := split(g.site)
	shutK, wholeK, openK, okK := split(g.kit)
	wordy := func(list []token) bool {
		for _, t := range list {
			if t.what != words {
				return false
			}
		}
		return len(list) > 0
	}
	tags := func(list []token) bool {
		for _, t := range list {
			if t.what != opens && t.what != shuts {
				return false
			}
		}
		return true
	}
	if !okS && wordy(g.site) && okK && tags(g.kit) && len(wholeK) == 0 {
		shutS, wholeS, openS, okS = nil, g.site, nil, true
	}
	if !okK && wordy(g.kit) && okS && tags(g.site) && len(wholeS) == 0 {
		shutK, wholeK, openK, okK = nil, g.kit, nil, true
	}
	if !okS || !okK || len(shutS) > 0 && len(shutK) > 0 || len(openS) > 0 && len(openK) > 0 {
		return nil, false
	}
	var out []output
	next := map[byte]int{'s': 0, 'k': 0} // each side's tokens come in their order
	emit := func(list []token, from byte) {
		all, first := g.site, g.siteAt
		if from == 'k' {
			all, first = g.kit, g.kitAt
		}
		for _, t := range list {
			for next[from] < len(all) && all[next[from]] != t {
				next[from]++
			}
			x := output{token: t, from: from, s: first + next[from], k: absent, b: absent}
			if from == 'k' {
				x.s, x.k = absent, first+next[from]
			}
			next[from]++
			out = append(out, x)
		}
	}
	emit(shutS, 's')
	emit(shutK, 'k')
	m.interleave(wholeS, wholeK, emit)
	emit(openS, 's')
	emit(openK, 'k')
	return out, true
}

// interleave gives the whole nodes of both sides, what is on both once.
func (m *merger) interleave(site, kit []token, emit func([]token, byte)) {
	a, ka := nodesOf(site, m.site)
	b, kb := nodesOf(kit, m.kit)
	same := commonEither(ka, kb)
	for _, p := range same {
		for i, t := range b[p[1]] {
			m.twins[t.n] = a[p[0]][i].n
		}
	}
	run := func(i0, i1, k0, k1 int) {
		first, second := a[i0:i1], b[k0:k1]
		fromFirst, fromSecond := byte('s'), byte('k')
		if strings.Join(kb[k0:k1], "\x00") < strings.Join(ka[i0:i1], "\x00") {
			first, second, fromFirst, fromSecond = second, first, fromSecond, fromFirst
		}
		for _, n := range first {
			emit(n, fromFirst)
		}
		for _, n := range second {
			emit(n, fromSecond)
		}
	}
	i, k := 0, 0
	for _, p := range same {
		run(i, p[0], k, p[1])
		emit(a[p[0]], 's')
		i, k = p[0]+1, p[1]+1
	}
	run(i, len(a), k, len(b))
}

// commonEither is common for lists of which neither is the first: the same whichever way
// round they are given.
func commonEither(a, b []string) [][2]int {
	turned := strings.Join(b, "\x00") < strings.Join(a, "\x00")
	if turned {
		a, b = b, a
	}
	same, ok := common(a, b)
	if !ok {
		return nil
	}
	if turned {
		for i, p := range same {
			same[i] = [2]int{p[1], p[0]}
		}
	}
	return same
}

// nodesOf cuts tokens into whole nodes, each with its content.
func nodesOf(list []token, s *side) (nodes [][]token, contents []string) {
	depth, from := 0, 0
	for i, t := range list {
		switch t.what {
		case opens:
			depth++
		case shuts:
			depth--
		default:
		}
		if depth == 0 {
			nodes = append(nodes, list[from:i+1])
			contents = append(contents, strings.Join(s.contents(list[from:i+1]), "\x03"))
			from = i + 1
		}
	}
	return nodes, contents
}
