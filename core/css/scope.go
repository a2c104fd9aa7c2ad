package css

import (
	"compactparcel/core/span"

	lex "github.com/tdewolff/parse/v2/css"
)

// Scope gives the selectors of an @scope rule's prelude (CSS Cascading and
// Inheritance Level 6, section 2.5): where it starts and where it ends.
func (s *Sheet) Scope(r *Rule) (start, limit []Selector) {
	var group []Token
	depth, lists := 0, [][]Selector{nil, nil}
	at := 0
	for _, t := range s.within(r.Prelude) {
		switch {
		case t.Type == lex.LeftParenthesisToken && depth == 0:
			depth, group = 1, nil
			continue
		case t.Type == lex.LeftParenthesisToken || t.Type == lex.FunctionToken:
			depth++
		case t.Type == lex.RightParenthesisToken:
			if depth--; depth == 0 {
				lists[at] = parseSelectors(s.Source, group)
				continue
			}
		case t.Type == lex.IdentToken && depth == 0 && string(t.Of(s.Source)) == "to":
			at = 1
		}
		if depth > 0 {
			group = append(group, t)
		}
	}
	return lists[0], lists[1]
}

// chooseScoped marks the rules of an @scope. One that starts outside the pieces is
// taken as if its rules stood bare: they reach the same elements in the pieces.
func (c *subsetter) chooseScoped(r *Rule) {
	start, _ := c.sheet.Scope(r)
	for _, s := range start {
		if _, inside := c.reaches(s, nil, false); inside {
			c.choose(r.Rules, start)
			return
		}
	}
	for _, s := range start {
		if len(c.resolvable(s)) > 0 {
			if c.unscoped == nil {
				c.unscoped = map[*Rule]bool{}
			}
			c.unscoped[r] = true
			c.notes = append(
				c.notes,
				"the scope \""+string(
					r.Prelude.Of(c.sheet.Source),
				)+"\" starts outside the piece; its rules are carried without it",
			)
			c.choose(r.Rules, nil)
			return
		}
	}
	if len(start) == 0 { // it starts at the element that holds the sheet
		c.choose(r.Rules, nil)
	}
}

// resolvable gives the elements around the pieces that a selector names.
func (c *subsetter) resolvable(s Selector) []span.Span {
	var out []span.Span
	for _, p := range c.pieces {
		if p.Home == nil {
			continue
		}
		for _, n := range ancestors(p) {
			if s.Fits(n, nil) {
				out = append(out, n.Start)
			}
		}
	}
	return out
}
