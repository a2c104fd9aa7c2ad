package css

import (
	"sort"
	"strings"

	"compactparcel/core/markup"
)

// free finds nested rules whose parents stand outside the pieces: they are carried
// as rules of their own.
func (c *subsetter) free(rules []*Rule, parents []Selector) {
	for _, r := range rules {
		if r.At != "" {
			c.free(r.Rules, parents)
			continue
		}
		var list []string
		for _, s := range r.Selectors {
			inner := s.Parts
			if len(inner) > 1 && len(inner[0].Simple) == 1 && inner[0].Simple[0].Type == ByParent {
				inner = inner[1:]
			}
			if s.Unknown || len(inner) == 0 || mentionsParent(inner) {
				continue
			}
			for _, p := range parents {
				if p.Unknown {
					continue
				}
				joined := append(append([]Compound{}, p.Parts...), inner...)
				if joined[len(p.Parts)].Combinator == 0 {
					joined[len(p.Parts)].Combinator = ' '
				}
				list = append(list, c.resolved(Selector{Span: s.Span, Parts: joined}, len(p.Parts))...)
			}
		}
		if list = unique(list); len(list) > 0 {
			c.freed[r] = strings.Join(list, ", ")
			c.noteAll(r.Decls)
		}
	}
}

func mentionsParent(parts []Compound) bool {
	for _, p := range parts {
		for _, x := range p.Simple {
			if x.Type == ByParent {
				return true
			}
			for _, a := range x.Args {
				if mentionsParent(a.Parts) {
					return true
				}
			}
		}
	}
	return false
}

// resolved gives a selector's texts for the ways in which it matches a piece only
// with the help of what stands around it: of at least so many compounds, or by the
// place in which a top element of the piece stands.
func (c *subsetter) resolved(s Selector, least int) []string {
	if s.Unknown {
		return nil
	}
	var out []string
	for _, p := range c.pieces {
		if p.Home == nil || p.Root == "" || len(subjects(p.Home, s, p.Switched)) == 0 {
			continue
		}
		ways, cut := p.ways(s)
		if cut {
			c.notes = append(
				c.notes,
				"the selector \""+short(
					s.Of(c.sheet.Source),
				)+"\" takes too long to match around the piece; some of what it says there stays behind",
			)
		}
		settles := c.settles(s, p.Root)
		for _, w := range sorted(ways) {
			if !settles {
				if w.place >= 0 && w.outside == 0 && least == 1 { // it goes on depending on the place
					out = append(out, c.bind(s, nil, []string{p.Root}))
				}
				w.place = -1
			}
			if w.outside >= len(s.Parts) || w.outside < least && (w.place < 0 || least > 1) {
				continue
			}
			if dropped := (Selector{Parts: s.Parts[:w.outside]}); !dropped.steady(p.Switched) {
				c.notes = append(
					c.notes,
					"the selector \""+string(
						s.Of(c.sheet.Source),
					)+"\" waits for a state of something outside the piece; its rule stays behind",
				)
				continue
			}
			out = append(out, c.without(s, w, p.Root))
		}
	}
	return out
}

func sorted(ways map[way]bool) []way {
	var out []way
	for w := range ways {
		out = append(out, w)
	}
	sort.Slice(out, func(i, j int) bool {
		return out[i].outside < out[j].outside || out[i].outside == out[j].outside && out[i].place < out[j].place
	})
	return out
}

// without writes a selector without its compounds outside the piece, and without what
// it says of the place of a top element: bound to the roots, and as specific as it was.
func (c *subsetter) without(s Selector, w way, roots string) string {
	var b strings.Builder
	for i := w.outside; i < len(s.Parts); i++ {
		p := s.Parts[i]
		if i > w.outside {
			b.Write(c.sheet.Source[s.Parts[i-1].End:p.Start])
		}
		text := string(p.Of(c.sheet.Source))
		at := endOfCompound(c.sheet.Source, p) - p.Start
		if i == w.place {
			text = c.settled(p, roots)
			at = strings.Index(text, ":where("+roots+")")
		}
		if i == w.outside && i > 0 {
			bound := ""
			if p.Combinator == ' ' {
				bound = ":where(" + within(roots) + ")"
			}
			if p.Combinator != ' ' && i != w.place {
				bound = ":where(" + roots + ")"
			}
			bound += never(Selector{Parts: s.Parts[:i]}.Specificity())
			text = text[:at] + bound + text[at:]
		}
		b.WriteString(text)
	}
	return b.String()
}

// endOfCompound is where something can be added to a compound: before a pseudo-element.
func endOfCompound(src []byte, p Compound) int {
	for _, x := range p.Simple {
		if x.Type == ByElement {
			at := x.At.Start
			for at > p.Start && src[at-1] == ':' {
				at--
			}
			return at
		}
	}
	return p.End
}

// within gives the roots and all that is in them.
func within(roots string) string {
	var out []string
	for _, r := range strings.Split(roots, ", ") {
		out = append(out, r, r+" *")
	}
	return strings.Join(out, ", ")
}

// ancestors gives the elements around a piece at its home, html first.
func ancestors(p Subject) []*markup.Node {
	var out []*markup.Node
	for _, n := range p.Home.All {
		if !p.inside(n) {
			continue
		}
		for up := n.Parent; up != nil && up.Tag != ""; up = up.Parent {
			out = append([]*markup.Node{up}, out...)
		}
		return out
	}
	return nil
}

// bind gives the selector's text, its subject bound to the pieces where it could
// hit strangers.
func (c *subsetter) bind(s Selector, parents []Selector, roots []string) string {
	text := string(s.Of(c.sheet.Source))
	if s.Unknown {
		c.notes = append(c.notes, "the selector \""+text+"\" is not understood; its rule is carried as it is")
		return text
	}
	if len(parents) > 0 {
		return text
	}
	for _, p := range s.Parts {
		for _, x := range p.Simple {
			// The engine's own classes stand on every site.
			if x.Type == ByClass && !strings.HasPrefix(x.Name, "cp-") || x.Type == ByID || x.Type == ByAttr ||
				x.Type == ByTag && strings.Contains(x.Name, "-") {
				return text
			}
		}
	}
	if len(roots) == 0 {
		c.notes = append(
			c.notes,
			"a whole page, or a piece whose outermost element has neither an id nor a class, is among the "+
				"pieces: rules for bare tags are carried as they are and will reach the pages "+
				"that list the stylesheet",
		)
		return text
	}
	at := endOfCompound(c.sheet.Source, s.Parts[len(s.Parts)-1])
	return string(c.sheet.Source[s.Start:at]) + ":where(" + within(strings.Join(roots, ", ")) + ")" + string(
		c.sheet.Source[at:s.End],
	)
}
