package css

import (
	"strings"

	"compactparcel/core/markup"
)

// positional are pseudo-classes that ask where an element stands among its siblings.
var positional = words(
	"first-child last-child only-child first-of-type last-of-type only-of-type nth-child nth-last-child " +
		"nth-of-type nth-last-of-type",
)

// placed tells whether a simple selector asks where its element stands: for the top
// element of a piece that is not the same elsewhere.
func (x Simple) placed() bool {
	if x.Type != ByPseudo {
		return false
	}
	if positional[x.Name] {
		return true
	}
	for _, a := range x.Args {
		for i, c := range a.Parts {
			if i > 0 && x.Name != "has" || c.Combinator == '+' || c.Combinator == '~' {
				return true
			}
			for _, y := range c.Simple {
				if x.Name != "has" && y.placed() {
					return true
				}
			}
		}
	}
	return false
}

func (c Compound) placed() bool {
	for _, x := range c.Simple {
		if x.placed() {
			return true
		}
	}
	return false
}

func (s Selector) placed() bool {
	for _, c := range s.Parts {
		if c.placed() {
			return true
		}
	}
	return false
}

// way is how a selector matches an element of a piece at home: with how many leading
// compounds outside it, and which compound asked for the place of a top element of the
// piece; -1 when none did.
type way struct{ outside, place int }

// top tells whether an element is one of the outermost of the piece.
func (p Subject) top(n *markup.Node) bool { return p.inside(n) && !p.inside(n.Parent) }

// ways gives the ways in which a selector matches the piece at home.
func (p Subject) ways(s Selector) (out map[way]bool, cut bool) {
	out = map[way]bool{}
	steps := 0
	for _, n := range subjects(p.Home, s, p.Switched) {
		if !p.inside(n) {
			continue
		}
		m := &matcher{may: p.Switched}
		m.splits(s.Parts, len(s.Parts)-1, n, p, way{len(s.Parts), -1}, func(w way) { out[w] = true })
		if steps += m.steps; steps > maxSelectorSteps {
			return out, true
		}
	}
	return out, false
}

// settles tells whether what a selector says by the place of a piece's top element can
// be settled once and for all: when the piece stands alike in all its homes.
func (c *subsetter) settles(s Selector, root string) bool {
	if s.Unknown || !s.placed() {
		return false
	}
	said := map[bool]bool{}
	for _, p := range c.pieces {
		if p.Home == nil || p.Root != root {
			continue
		}
		ways, _ := p.ways(s)
		placed := false
		for w := range ways {
			placed = placed || w.place >= 0
		}
		said[placed] = true
	}
	return len(said) == 1
}

// settled writes a compound without what it says of the place, as specific as it was
// and bound to the piece's top elements.
func (c *subsetter) settled(p Compound, roots string) string {
	src, at := c.sheet.Source, p.Start
	var b strings.Builder
	ids, classes, types := 0, 0, 0
	end := endOfCompound(src, p)
	for _, x := range p.Simple {
		if !x.placed() {
			continue
		}
		b.Write(src[at:x.Whole.Start])
		at = x.Whole.End
		i, cl, t := Selector{Parts: []Compound{{Simple: []Simple{x}}}}.Specificity()
		ids, classes, types = ids+i, classes+cl, types+t
	}
	b.Write(src[at:max(at, end)])
	b.WriteString(":where(" + roots + ")" + never(ids, classes, types))
	b.Write(src[max(at, end):p.End])
	return b.String()
}

// never makes up for a specificity by :not() of what is never there.
func never(ids, classes, types int) string {
	return strings.Repeat(":not(#cp-never)", ids) + strings.Repeat(":not(.cp-never)", classes) + strings.Repeat(
		":not(cp-never)", types)
}
