package css

import (
	"strings"

	"compactparcel/core/markup"
)

var structural = words("root scope empty first-child last-child only-child first-of-type last-of-type only-of-type")

// Fits tells whether a selector can match an element: states (hover, focus …)
// count as possible and pseudo-elements as present. parents are the selectors of
// the rule around a nested rule; a selector that is not understood always fits.
func (s Selector) Fits(n *markup.Node, parents []Selector) bool {
	return s.mayFit(n, parents, nil)
}

// mayFit is Fits where some classes can come to stand on any element.
func (s Selector) mayFit(n *markup.Node, parents []Selector, may map[string]bool) bool {
	if s.Unknown {
		return true
	}
	m := &matcher{parents: parents, may: may}
	return m.from(s.Parts, len(s.Parts)-1, n)
}

// Specificity is that of Selectors Level 4, section 17.
func (s Selector) Specificity() (ids, classes, types int) {
	for _, c := range s.Parts {
		for _, x := range c.Simple {
			switch x.Type {
			case ByID:
				ids++
			case ByClass, ByAttr:
				classes++
			case ByTag, ByElement:
				types++
			case ByPseudo:
				if x.Name == "where" {
					continue
				}
				if x.Name != "is" && x.Name != "not" && x.Name != "has" {
					classes++
				}
				var bi, bc, bt int
				for _, a := range x.Args {
					i, c, t := a.Specificity()
					if i > bi || i == bi && (c > bc || c == bc && t > bt) {
						bi, bc, bt = i, c, t
					}
				}
				ids, classes, types = ids+bi, classes+bc, types+bt
			default:
			}
		}
	}
	return
}

type matcher struct {
	parents []Selector
	may     map[string]bool // classes that any element can come to have
	// unplaced are elements of which nobody knows where they will stand.
	unplaced map[*markup.Node]bool
	steps    int
}

// maxSteps bounds the work for one element; a selector that needs more fits.
const maxSteps = 20000

func (m *matcher) from(parts []Compound, i int, n *markup.Node) bool {
	if m.steps++; m.steps > maxSteps {
		return true
	}
	if n == nil || n.Tag == "" || !m.compound(parts[i], n) {
		return false
	}
	if i == 0 {
		return parts[0].Combinator == 0 || parts[0].Combinator == ' ' && m.parents == nil
	}
	switch parts[i].Combinator {
	case '>':
		return m.from(parts, i-1, n.Parent)
	case '+':
		return n.Index > 0 && m.from(parts, i-1, n.Parent.Children[n.Index-1])
	case '~':
		for k := n.Index - 1; k >= 0; k-- {
			if m.from(parts, i-1, n.Parent.Children[k]) {
				return true
			}
		}
		return false
	}
	for up := n.Parent; up != nil; up = up.Parent {
		if m.from(parts, i-1, up) {
			return true
		}
	}
	return false
}

// splits finds the ways in which a selector matches an element of a piece.
func (m *matcher) splits(parts []Compound, i int, n *markup.Node, p Subject, w way, found func(way)) {
	if m.steps++; m.steps > maxSteps || n == nil || n.Tag == "" || !m.compound(parts[i], n) {
		return
	}
	if p.inside(n) {
		w.outside = i
		if parts[i].placed() && p.top(n) {
			w.place = i
		}
	}
	if i == 0 {
		found(w)
		return
	}
	switch parts[i].Combinator {
	case '>':
		m.splits(parts, i-1, n.Parent, p, w, found)
	case '+':
		if n.Index > 0 {
			m.splits(parts, i-1, n.Parent.Children[n.Index-1], p, w, found)
		}
	case '~':
		for k := n.Index - 1; k >= 0; k-- {
			m.splits(parts, i-1, n.Parent.Children[k], p, w, found)
		}
	default:
		for up := n.Parent; up != nil; up = up.Parent {
			m.splits(parts, i-1, up, p, w, found)
		}
	}
}

func (m *matcher) compound(c Compound, n *markup.Node) bool {
	for _, s := range c.Simple {
		if !m.simple(s, n) {
			return false
		}
	}
	return true
}

func (m *matcher) any(list []Selector, n *markup.Node) bool {
	for _, s := range list {
		if s.Unknown || m.from(s.Parts, len(s.Parts)-1, n) {
			return true
		}
	}
	return false
}

func (m *matcher) simple(s Simple, n *markup.Node) bool {
	switch s.Type {
	case ByTag:
		return strings.EqualFold(n.Tag, s.Name)
	case ByID:
		return n.Value("id") == s.Name
	case ByClass:
		if m.may[s.Name] {
			return true
		}
		for _, c := range n.Classes() {
			if c == s.Name {
				return true
			}
		}
		return false
	case ByAttr:
		return attribute(s, n)
	case ByParent:
		if m.parents == nil {
			return n.Tag == "html"
		}
		up := &matcher{may: m.may, steps: m.steps}
		return up.any(m.parents, n)
	case ByPseudo:
		if m.unplaced[n] && s.placed() {
			return false
		}
		return m.pseudo(s, n)
	default:
	}
	return true
}

// switched are attributes that scripts, the browser or the page engine set as
// things change; an element may come to have them.
var switched = words(
	"open hidden aria-current aria-expanded aria-selected aria-pressed aria-hidden aria-checked data-state data-open",
)

func attribute(s Simple, n *markup.Node) bool {
	if switched[s.Name] {
		return true
	}
	a, ok := n.Attr(s.Name)
	if !ok {
		return false
	}
	v, want := a.Value, s.Value
	if s.Fold || strings.EqualFold(s.Name, "type") || strings.EqualFold(s.Name, "dir") {
		v, want = strings.ToLower(v), strings.ToLower(want)
	}
	switch s.Op {
	case "=":
		return v == want
	case "~=":
		for _, w := range strings.Fields(v) {
			if w == want {
				return true
			}
		}
		return false
	case "|=":
		return v == want || strings.HasPrefix(v, want+"-")
	case "^=":
		return want != "" && strings.HasPrefix(v, want)
	case "$=":
		return want != "" && strings.HasSuffix(v, want)
	case "*=":
		return want != "" && strings.Contains(v, want)
	}
	return true
}

func (m *matcher) pseudo(s Simple, n *markup.Node) bool {
	switch s.Name {
	case "is", "where", "-webkit-any", "-moz-any", "matches":
		return m.any(s.Args, n)
	case "not":
		for _, a := range s.Args {
			if a.steady(m.may) && m.from(a.Parts, len(a.Parts)-1, n) {
				return false
			}
		}
		return true
	case "has":
		return m.has(s.Args, n)
	case "root":
		return n.Tag == "html"
	case "scope":
		return n.Parent == nil || n.Parent.Parent == nil ||
			m.parents != nil && (&matcher{may: m.may, steps: m.steps}).any(m.parents, n)
	case "empty":
		return n.Empty()
	case "first-child":
		return n.Index == 0
	case "last-child":
		return n.Index == len(n.Parent.Children)-1
	case "only-child":
		return len(n.Parent.Children) == 1
	case "first-of-type":
		return m.position(n, false, sameTag(n)) == 1
	case "last-of-type":
		return m.position(n, true, sameTag(n)) == 1
	case "only-of-type":
		return m.position(n, false, sameTag(n)) == 1 && m.position(n, true, sameTag(n)) == 1
	case "nth-child", "nth-last-child":
		counts := func(*markup.Node) bool { return true }
		if s.Args != nil {
			if !m.any(s.Args, n) {
				return false
			}
			counts = func(x *markup.Node) bool { return m.any(s.Args, x) }
		}
		return inSeries(m.position(n, s.Name == "nth-last-child", counts), s.A, s.B)
	case "nth-of-type", "nth-last-of-type":
		return inSeries(m.position(n, s.Name == "nth-last-of-type", sameTag(n)), s.A, s.B)
	}
	return true // a state, or lang and dir: possible
}

// steady tells that a selector's answer cannot change with the moment, so that
// its negation can be trusted. Classes in may come and go.
func (s Selector) steady(may map[string]bool) bool {
	if s.Unknown {
		return false
	}
	for _, c := range s.Parts {
		for _, x := range c.Simple {
			if x.Type == ByElement || x.Type == ByClass && may[x.Name] || x.Type == ByAttr && switched[x.Name] ||
				x.Type == ByPseudo && (isState(x.Name) || x.Name == "lang" || x.Name == "dir" || x.Name == "state") {
				return false
			}
			for _, a := range x.Args {
				if !a.steady(may) {
					return false
				}
			}
		}
	}
	return true
}

func sameTag(n *markup.Node) func(*markup.Node) bool {
	return func(x *markup.Node) bool { return x.Tag == n.Tag }
}

// position counts, from 1, the siblings that count up to n, from either end.
func (m *matcher) position(n *markup.Node, last bool, counts func(*markup.Node) bool) int {
	pos := 0
	for _, x := range n.Parent.Children {
		if (!last && x.Index <= n.Index || last && x.Index >= n.Index) && counts(x) {
			pos++
		}
		m.steps++
	}
	return pos
}

func inSeries(pos, a, b int) bool {
	if a == 0 {
		return pos == b
	}
	return (pos-b)%a == 0 && (pos-b)/a >= 0
}

// has tells whether one of the relative selectors finds something from n.
func (m *matcher) has(args []Selector, n *markup.Node) bool {
	for _, a := range args {
		if a.Unknown || m.relative(a.Parts, n) {
			return true
		}
	}
	return false
}

func (m *matcher) relative(parts []Compound, from *markup.Node) bool {
	if m.steps++; m.steps > maxSteps {
		return true
	}
	if len(parts) == 0 {
		return true
	}
	var try func(n *markup.Node, deep bool) bool
	try = func(n *markup.Node, deep bool) bool {
		if m.steps++; m.steps > maxSteps {
			return true
		}
		if m.compound(parts[0], n) && m.relative(parts[1:], n) {
			return true
		}
		if deep {
			for _, c := range n.Children {
				if try(c, true) {
					return true
				}
			}
		}
		return false
	}
	switch parts[0].Combinator {
	case '+', '~':
		for _, x := range from.Parent.Children {
			if x.Index > from.Index && (parts[0].Combinator == '~' || x.Index == from.Index+1) && try(x, false) {
				return true
			}
		}
	default:
		for _, c := range from.Children {
			if try(c, parts[0].Combinator == ' ') {
				return true
			}
		}
	}
	return false
}
