package css

import (
	"compactparcel/core/markup"
)

// Contest is a pair of rules of which the later one wins, by nothing but its place.
type Contest struct {
	Selector, Other string
	Property        string
}

// Contests finds a rule of this sheet and one of the others that may decide the same property of an element,
// where neither outweighs the other: to change their order could change what is seen. Rules for states, widths
// and pseudo-elements count as the others do, so that it may find more than there is, and never less.
func (s *Sheet) Contests(tree *markup.Tree, others ...[]byte) (Contest, bool) {
	mine := &Cascade{sheets: []*Sheet{s}, layers: &layer{}}
	type claim struct {
		weight    [3]int
		important bool
		name      string
		selector  Selector
	}
	claims := map[*markup.Node][]claim{}
	mine.eachRule(func(_ int, _ *Sheet, r *Rule, in context) {
		for _, sel := range r.Selectors {
			w := in.specificity(sel)
			for _, n := range subjects(tree, sel, nil) {
				if !sel.Fits(n, in.parents) {
					continue
				}
				for _, d := range r.Decls {
					claims[n] = append(claims[n], claim{w, d.Important, d.Name, sel})
				}
			}
		}
	})
	var out Contest
	found := false
	theirs := NewCascade(others...)
	theirs.eachRule(func(_ int, o *Sheet, r *Rule, in context) {
		if found || in.layer != theirs.layers && !hasImportant(r) {
			return // what is in no layer outweighs it
		}
		for _, sel := range r.Selectors {
			w := in.specificity(sel)
			for _, n := range subjects(tree, sel, nil) {
				if len(claims[n]) == 0 || !sel.Fits(n, in.parents) {
					continue
				}
				for _, c := range claims[n] {
					for _, d := range r.Decls {
						if c.weight == w && c.important == d.Important &&
							(family(c.name) == family(d.Name) || c.name == "all" || d.Name == "all") &&
							c.selector.pseudoElement() == sel.pseudoElement() {
							out = Contest{string(c.selector.Of(s.Source)), string(sel.Of(o.Source)), c.name}
							found = true
							return
						}
					}
				}
			}
		}
	})
	return out, found
}

func hasImportant(r *Rule) bool {
	for _, d := range r.Decls {
		if d.Important {
			return true
		}
	}
	return false
}

// pseudoElement names the pseudo-element that a selector is about; empty for the element itself.
func (s Selector) pseudoElement() string {
	for _, p := range s.Parts {
		for _, x := range p.Simple {
			if x.Type == ByElement {
				return x.Name
			}
		}
	}
	return ""
}

// Confined writes a selector so that only elements that one of a class holds, or that have it, are its
// subject; its weight stays (Selectors Level 4, section 17: :where() counts nothing). It is "" for one that is
// not understood.
func (s Selector) Confined(src []byte, class string) string {
	if s.Unknown || len(s.Parts) == 0 {
		return ""
	}
	last := s.Parts[len(s.Parts)-1]
	at := last.End
	for _, x := range last.Simple {
		if x.Type == ByElement && x.Whole.Start < at {
			at = x.Whole.Start
		}
	}
	return string(src[s.Start:at]) + ":where(." + class + ", ." + class + " *)" + string(src[at:s.End])
}
