package css

import (
	"fmt"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/span"

	lex "github.com/tdewolff/parse/v2/css"
)

// writeFrame writes the host frame: in a layer of its own, declared first, so that
// every rule of the pieces themselves outweighs it. Lengths that were relative to
// the type size of an element around a piece stay relative to that size: it is kept
// in a custom property for each depth.
func (c *subsetter) writeFrame(b *strings.Builder) {
	sized := map[string][]int{} // root → depths that set the type size, ascending
	for _, f := range c.framing {
		for _, d := range f.decls {
			if list := sized[f.root]; f.inner == "" && f.sizeIn(d) != nil &&
				(len(list) == 0 || list[len(list)-1] != f.depth) {
				sized[f.root] = append(list, f.depth)
			}
		}
	}
	var lines []string
	for _, p := range c.pieces {
		if depths := sized[p.Root]; len(depths) > 1 { // each is the next outer one's until a rule says otherwise
			outer := "16px" // the initial size
			var text []string
			for _, d := range depths {
				text = append(text, fmt.Sprintf("--cp-size-%d: %s", d, outer))
				outer = fmt.Sprintf("var(--cp-size-%d)", d)
			}
			lines = append(lines, ":where("+p.Root+") { "+strings.Join(text, "; ")+"; }")
		}
	}
	for _, f := range c.framing {
		var text []string
		for _, d := range f.decls {
			switch {
			case d.Name == "display": // the box around it lays out its children, and their margins stay in
				text = append(text, "display: "+f.inLayout(d))
			case strings.HasPrefix(d.Name, "--"):
				if c.props[d.Name] {
					text = append(text, string(d.Of(f.sheet.Source)))
				}
			default:
				if rem := f.rem(d); c.rems && rem != "" {
					text = append(text, "--cp-rem: "+rem)
				}
				text = append(text, f.framed(d, sized[f.root], c.own[f.root].scale))
			}
		}
		if len(text) == 0 {
			continue
		}
		reach := f.root
		if f.inner != "" {
			reach = innerOf(f.root, f.inner)
		}
		line := ":where(" + reach + ") { " + strings.Join(text, "; ") + "; }"
		for i := len(f.around) - 1; i >= 0; i-- {
			if g := f.around[i]; g.At != "layer" { // the frame has its own
				line = string(f.sheet.Source[g.Start:g.Body.Start]) + " " + line + " }"
			}
		}
		lines = append(lines, line)
	}
	for _, root := range sortedKeys(c.own) {
		if back := c.own[root].back(c.framed[root]); len(back) > 0 && c.frames(root) {
			lines = append(lines, ":where("+root+") { "+strings.Join(back, "; ")+"; }")
		}
	}
	if lines = unique(lines); len(lines) > 0 {
		b.WriteString("@layer cp-frame {\n  " + strings.Join(lines, "\n  ") + "\n}\n")
	}
}

// framed writes an inherited declaration of an element around a piece as it must
// stand on the piece's root. scale is how much larger the browser makes the root's type
// by itself, as that of a heading; 0 when it does not.
func (f frameRule) framed(d Decl, sized []int, scale float64) string {
	text := string(d.Of(f.sheet.Source))
	size := f.sizeIn(d)
	if size == nil && d.Name == "font" || len(sized) == 0 || size != nil && len(sized) < 2 && scale == 0 {
		return text // nothing deeper changes what it is relative to
	}
	at := -1 // the nearest depth whose type size the value is relative to
	for _, s := range sized {
		if s < f.depth || s == f.depth && size == nil {
			at = s
		}
	}
	if size == nil && scale == 0 && at == sized[len(sized)-1] {
		return text
	}
	base := "16px" // the initial size
	if at >= 0 {
		base = fmt.Sprintf("var(--cp-size-%d)", at)
	}
	if size == nil {
		return d.Name + ": " + f.relative(f.sheet.within(d.Value), base, d.Name == "line-height")
	}
	own := fmt.Sprintf("--cp-size-%d", f.depth)
	out := own + ": " + f.relative(size, base, true) + "; font-size: var(" + own + ")"
	if scale != 0 {
		out = own + ": " + f.relative(size, base, true) + "; font-size: calc(" + strconv.FormatFloat(scale, 'f', -1,
			64) + " * var(" + own + "))"
	}
	if d.Name == "font" {
		return text + "; " + out
	}
	return out
}

// relative writes a value whose lengths in em, and percentages, are those of a base.
func (f frameRule) relative(tokens []Token, base string, percent bool) string {
	var value strings.Builder
	for _, t := range tokens {
		v := string(t.Of(f.sheet.Source))
		low := strings.ToLower(v)
		switch {
		case t.Type == lex.DimensionToken && strings.HasSuffix(low, "em") && !strings.HasSuffix(low, "rem"):
			fmt.Fprintf(&value, "calc(%s * %s)", v[:len(v)-2], base)
		case percent && t.Type == lex.PercentageToken:
			share, _ := strconv.ParseFloat(strings.TrimSuffix(v, "%"), 64) // the lexer found a number
			fmt.Fprintf(&value, "calc(%s * %s)", strconv.FormatFloat(share/100, 'f', -1, 64), base)
		default:
			value.WriteString(v)
		}
	}
	return value.String()
}

var sizeWords = words("xx-small x-small small medium large x-large xx-large xxx-large smaller larger")

// sizeIn gives the tokens of the type size in a declaration of font-size or font; nil
// when there is none.
func (f frameRule) sizeIn(d Decl) []Token {
	toks := f.sheet.within(d.Value)
	switch d.Name {
	case "font-size":
		return toks
	case "font":
		depth := 0
		for i, t := range toks {
			switch {
			case t.Type == lex.FunctionToken:
				depth++
				if depth == 1 { // clamp(), calc() and the like
					for k := i; k < len(toks); k++ {
						if toks[k].Type == lex.RightParenthesisToken {
							if depth--; depth == 0 {
								return toks[i : k+1]
							}
						} else if k > i && (toks[k].Type == lex.FunctionToken ||
							toks[k].Type == lex.LeftParenthesisToken) {
							depth++
						}
					}
					return nil
				}
			case t.Type == lex.DimensionToken,
				t.Type == lex.PercentageToken,
				t.Type == lex.IdentToken && sizeWords[strings.ToLower(string(t.Of(f.sheet.Source)))]:
				return toks[i : i+1]
			}
		}
	}
	return nil
}

// frameRule is a rule on what stands around a piece.
type frameRule struct {
	root   string // of the piece
	inner  string // of what in the piece, as ":any-link"; empty for the roots
	depth  int    // of the element it is about, html being 0
	weight [3]int // its selector's specificity
	from   int    // the sheet's place among the sheets
	order  int
	sheet  *Sheet
	rule   *Rule
	around []*Rule
	decls  []Decl
}

// inLayout says as a display what it means for a piece that the box around it is laid
// out as a declaration says: children of a flex or grid box keep their margins to
// themselves (CSS Display Module Level 3, section 2.7).
func (f frameRule) inLayout(d Decl) string {
	v := strings.ToLower(string(d.Value.Of(f.sheet.Source)))
	if strings.Contains(v, "flex") || strings.Contains(v, "grid") {
		return "flow-root"
	}
	return "revert-layer"
}

// innerOf gives a selector for what stands in the roots.
func innerOf(roots, inner string) string {
	var out []string
	for _, r := range strings.Split(roots, ", ") {
		out = append(out, r+inner, r+" "+inner)
	}
	return strings.Join(out, ", ")
}

// isFrame tells whether the subject is html, body or :root without further demands.
func isFrame(s Selector) bool {
	if s.Unknown {
		return false
	}
	for _, p := range s.Parts {
		for _, x := range p.Simple {
			if !(x.Type == ByTag && (x.Name == "html" || x.Name == "body") || x.Type == ByPseudo && x.Name == "root") {
				return false
			}
		}
	}
	return true
}

// frameRules collects what the pieces inherit: for each the rules on the elements
// around it, the outer before the inner, the weaker before the stronger.
func (c *subsetter) frameRules() {
	for _, p := range c.pieces {
		if p.Root == "" || p.Tree.Document {
			continue
		}
		body := bodyAround(nil)
		around := []*markup.Node{body.Parent, body}
		if p.Home != nil {
			around = ancestors(p)
		}
		names := namesOf(around)
		for _, f := range c.sheet.framers() {
			ds := f.decls
			if c.rootProps[f.rule] != nil && !c.rems {
				ds = f.plain
			}
			if len(ds) == 0 && len(f.layout) == 0 {
				continue
			}
			for _, s := range f.rule.Selectors {
				if s.Unknown || !names.hold(s.Parts[len(s.Parts)-1]) || !s.steady(p.Switched) {
					continue
				}
				for depth, n := range around {
					if s.Fits(n, nil) {
						i, cl, t := s.Specificity()
						decls := ds
						if depth == len(around)-1 && p.Home != nil {
							decls = append(ds[:len(ds):len(ds)], f.layout...)
						}
						if len(decls) > 0 {
							c.framing = append(
								c.framing,
								frameRule{
									root:   p.Root,
									depth:  depth,
									weight: [3]int{i, cl, t},
									from:   c.order,
									order:  f.order,
									sheet:  c.sheet,
									rule:   f.rule,
									around: f.around,
									decls:  decls,
								},
							)
						}
					}
				}
			}
		}
	}
}

// gatherFrames puts all that frames a piece into the last sheet that has any of it, so
// that it is in one order: the outer before the inner, the weaker before the stronger.
func gatherFrames(all []*subsetter) {
	byRoot := map[string][]frameRule{}
	var roots []string
	type place struct {
		home *markup.Tree
		in   span.Span
	}
	said := map[place]bool{}
	for i, c := range all {
		for _, p := range c.pieces {
			if at := (place{p.Home, p.In}); !said[at] {
				said[at] = true
				c.framing = append(c.framing, markupFrames(p, i)...)
			}
		}
	}
	for _, c := range all {
		for _, f := range c.framing {
			if byRoot[f.root] == nil {
				roots = append(roots, f.root)
			}
			byRoot[f.root] = append(byRoot[f.root], f)
		}
		c.framing = nil
	}
	for _, root := range roots {
		last := 0
		for _, f := range byRoot[root] {
			last = max(last, f.from)
		}
		all[last].framing = append(all[last].framing, byRoot[root]...)
	}
	for _, c := range all {
		sort.SliceStable(c.framing, func(i, j int) bool {
			a, b := c.framing[i], c.framing[j]
			if a.depth != b.depth {
				return a.depth < b.depth
			}
			if a.weight != b.weight {
				return a.weight[0] < b.weight[0] ||
					a.weight[0] == b.weight[0] &&
						(a.weight[1] < b.weight[1] || a.weight[1] == b.weight[1] && a.weight[2] < b.weight[2])
			}
			if a.from != b.from {
				return a.from < b.from
			}
			return a.order < b.order
		})
		for _, f := range c.framing {
			for _, d := range f.decls {
				if !strings.HasPrefix(d.Name, "--") {
					for _, ref := range (&Sheet{Source: f.sheet.Source, Tokens: f.sheet.Tokens,
						Decls: []Decl{d}}).Refs() {
						c.note(ref)
					}
				}
			}
		}
	}
}

// framer is a style rule that may be inherited from, with the declarations that are:
// decls with custom properties, plain without.
type framer struct {
	rule         *Rule
	around       []*Rule
	order        int
	decls, plain []Decl
	layout       []Decl // display
}

// framers lists the sheet's framers, in its order; it is made once.
func (s *Sheet) framers() []framer {
	s.framing.Do(func() {
		order := 0
		s.Walk(func(r *Rule, groups []*Rule) {
			order++
			if r.At != "" || len(r.Selectors) == 0 || len(groups) > 0 && groups[len(groups)-1].At == "" {
				return
			}
			f := framer{rule: r, around: groups, order: order}
			for _, d := range r.Decls {
				custom := strings.HasPrefix(d.Name, "--")
				if inherited[d.Name] || custom {
					f.decls = append(f.decls, d)
				}
				if d.Name == "display" {
					f.layout = append(f.layout, d)
				}
				if inherited[d.Name] && !custom {
					f.plain = append(f.plain, d)
				}
			}
			if len(f.decls)+len(f.layout) > 0 {
				s.framed = append(s.framed, f)
			}
		})
	})
	return s.framed
}

// names are the tags, ids and classes of some elements.
type names map[string]bool

func namesOf(nodes []*markup.Node) names {
	out := names{}
	for _, n := range nodes {
		out[strings.ToLower(n.Tag)] = true
		out["#"+n.Value("id")] = true
		for _, c := range n.Classes() {
			out["."+c] = true
		}
	}
	return out
}

// hold tells whether a compound may fit one of the elements.
func (x names) hold(c Compound) bool {
	for _, one := range c.Simple {
		switch {
		case one.Type == ByTag && !x[strings.ToLower(one.Name)],
			one.Type == ByID && !x["#"+one.Name],
			one.Type == ByClass && !x["."+one.Name]:
			return false
		}
	}
	return true
}
