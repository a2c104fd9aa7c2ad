package css

import (
	"compactparcel/core/markup"
	"fmt"
	"sort"
	"strconv"
	"strings"

	lex "github.com/tdewolff/parse/v2/css"
)

// writeFrame writes the host frame: in a layer of its own, declared first, so that
// every rule of the pieces themselves outweighs it. Lengths that were relative to
// the type size of an element around a piece stay relative to that size: it is kept
// in a custom property for each depth.
func (c *carrier) writeFrame(b *strings.Builder) {
	sized := map[string][]int{} // root → depths that set the type size, ascending
	for _, f := range c.framing {
		for _, d := range f.decls {
			if list := sized[f.root]; d.Name == "font-size" && (len(list) == 0 || list[len(list)-1] != f.depth) {
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
			case strings.HasPrefix(d.Name, "--"):
				if c.props[d.Name] {
					text = append(text, string(d.Of(c.sheet.Source)))
				}
			default:
				text = append(text, c.framed(d, f.depth, sized[f.root]))
			}
		}
		if len(text) == 0 {
			continue
		}
		line := ":where(" + f.root + ") { " + strings.Join(text, "; ") + "; }"
		for i := len(f.around) - 1; i >= 0; i-- {
			if g := f.around[i]; g.At != "layer" { // the frame has its own
				line = string(c.sheet.Source[g.Start:g.Body.Start]) + " " + line + " }"
			}
		}
		lines = append(lines, line)
	}
	if lines = unique(lines); len(lines) > 0 {
		b.WriteString("@layer cp-frame {\n  " + strings.Join(lines, "\n  ") + "\n}\n")
	}
}

// framed writes an inherited declaration of an element around a piece as it must
// stand on the piece's root.
func (c *carrier) framed(d Decl, depth int, sized []int) string {
	text := string(d.Of(c.sheet.Source))
	if len(sized) < 2 && d.Name == "font-size" || len(sized) == 0 || d.Name == "font" {
		return text // nothing deeper changes what it is relative to
	}
	at := -1 // the nearest depth whose type size the value is relative to
	for _, s := range sized {
		if s < depth || s == depth && d.Name != "font-size" {
			at = s
		}
	}
	if d.Name != "font-size" && at == sized[len(sized)-1] {
		return text
	}
	size := "16px" // the initial size
	if at >= 0 {
		size = fmt.Sprintf("var(--cp-size-%d)", at)
	}
	var value strings.Builder
	for _, t := range c.sheet.within(d.Value) {
		v := string(t.Of(c.sheet.Source))
		percent := t.Type == lex.PercentageToken && (d.Name == "font-size" || d.Name == "line-height")
		switch {
		case t.Type == lex.DimensionToken && strings.HasSuffix(strings.ToLower(v), "em") && !strings.HasSuffix(strings.ToLower(v), "rem"):
			fmt.Fprintf(&value, "calc(%s * %s)", v[:len(v)-2], size)
		case percent:
			share, _ := strconv.ParseFloat(strings.TrimSuffix(v, "%"), 64) // the lexer found a number
			fmt.Fprintf(&value, "calc(%s * %s)", strconv.FormatFloat(share/100, 'f', -1, 64), size)
		default:
			value.WriteString(v)
		}
	}
	if d.Name == "font-size" {
		own := fmt.Sprintf("--cp-size-%d", depth)
		return own + ": " + value.String() + "; font-size: var(" + own + ")"
	}
	return d.Name + ": " + value.String()
}

// frameRule is a rule on what stands around a piece.
type frameRule struct {
	root   string // of the piece
	depth  int    // of the element it is about, html being 0
	weight [3]int // its selector's specificity
	order  int
	rule   *Rule
	around []*Rule
	decls  []Decl
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
func (c *carrier) frameRules() {
	for _, p := range c.pieces {
		if p.Root == "" || p.Tree.Document {
			continue
		}
		around := []*markup.Node{c.body.Parent, c.body}
		if p.Home != nil {
			around = ancestors(p)
		}
		order := 0
		c.sheet.Walk(func(r *Rule, groups []*Rule) {
			order++
			if r.At != "" || len(r.Selectors) == 0 || len(groups) > 0 && groups[len(groups)-1].At == "" {
				return
			}
			var ds []Decl
			for _, d := range r.Decls {
				if inherited[d.Name] || strings.HasPrefix(d.Name, "--") && c.rootProps[r] == nil {
					ds = append(ds, d)
				}
			}
			for depth, n := range around {
				for _, s := range r.Selectors {
					if len(ds) == 0 || s.Unknown || !s.steady() || !s.Fits(n, nil) {
						continue
					}
					i, cl, t := s.Specificity()
					c.framing = append(c.framing, frameRule{p.Root, depth, [3]int{i, cl, t}, order, r, groups, ds})
				}
			}
		})
	}
	sort.SliceStable(c.framing, func(i, j int) bool {
		a, b := c.framing[i], c.framing[j]
		if a.depth != b.depth {
			return a.depth < b.depth
		}
		if a.weight != b.weight {
			return a.weight[0] < b.weight[0] || a.weight[0] == b.weight[0] && (a.weight[1] < b.weight[1] || a.weight[1] == b.weight[1] && a.weight[2] < b.weight[2])
		}
		return a.order < b.order
	})
	for _, f := range c.framing {
		for _, d := range f.decls {
			if !strings.HasPrefix(d.Name, "--") {
				c.noteAll([]Decl{d})
			}
		}
	}
}
