package css

import (
	"sort"
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Piece is one piece of markup whose styles are wanted.
type Piece struct {
	Tree *markup.Tree
	// Root says in a selector what the piece's top elements are; empty when they
	// carry neither an id nor a class.
	Root string
}

// PieceOf prepares a piece for Carry. The piece stands in html and body.
func PieceOf(tree *markup.Tree) Piece {
	p := Piece{Tree: tree}
	var roots []string
	for _, n := range tree.Root.Children {
		switch {
		case n.Value("id") != "":
			roots = append(roots, "#"+EscapeIdent(n.Value("id")))
		case len(n.Classes()) > 0:
			roots = append(roots, "."+EscapeIdent(n.Classes()[0]))
		default:
			roots = append(roots, "")
		}
	}
	for _, r := range roots {
		if r == "" {
			return p
		}
	}
	p.Root = strings.Join(unique(roots), ", ")
	return p
}

func unique(in []string) []string {
	seen := map[string]bool{}
	var out []string
	for _, s := range in {
		if !seen[s] {
			seen[s] = true
			out = append(out, s)
		}
	}
	return out
}

// Carried is the part of a stylesheet that some pieces use.
type Carried struct {
	CSS []byte
	// Kept and All count style rules.
	Kept, All int
	// Notes tell what could not be made exact, for people.
	Notes []string
}

// inherited are the properties that a piece takes from around it.
var inherited = words("color font font-family font-size font-style font-weight font-stretch font-variant font-feature-settings font-kerning line-height letter-spacing word-spacing text-align text-indent text-transform text-rendering direction writing-mode hyphens quotes list-style list-style-type cursor accent-color color-scheme caret-color tab-size white-space visibility -webkit-font-smoothing text-wrap overflow-wrap")

// Carry gives the rules that the pieces use, in cascade order and in their
// source text, with the at-rules around them, the fonts and animations they
// name and the custom properties they read. Three things are changed so that a
// piece looks elsewhere as it did at home and hits nothing there:
//
//   - a selector of a list that matches nothing in the pieces is left out;
//   - a rule on html, body or :root becomes the host frame: its inherited
//     properties stand on the pieces' roots, at no specificity;
//   - a selector whose subject is only a type or "*" is bound to the pieces by
//     :where(), which leaves its specificity as it was.
func Carry(sheet *Sheet, pieces []Piece) Carried {
	c := &carrier{sheet: sheet, pieces: pieces, props: map[string]bool{}, fonts: map[string]bool{}, animations: map[string]bool{}}
	bound := true
	var roots []string
	for _, p := range pieces {
		if p.Root == "" && len(p.Tree.Root.Children) > 0 {
			bound = false
		}
		if p.Root != "" {
			roots = append(roots, p.Root)
		}
	}
	if bound && len(roots) > 0 {
		c.roots = strings.Join(unique(roots), ", ")
	} else {
		c.notes = append(c.notes, "a piece's outermost element has neither an id nor a class, so rules for bare tags are carried as they are and will reach the receiving pages")
	}
	c.body = &markup.Node{Tag: "body", Parent: &markup.Node{Tag: "html", Parent: &markup.Node{}}}
	c.body.Parent.Parent.Children = []*markup.Node{c.body.Parent}
	c.body.Parent.Children = []*markup.Node{c.body}
	for _, p := range pieces {
		for _, n := range p.Tree.Root.Children {
			if !p.Tree.Document {
				n.Parent = c.body
			}
		}
		for _, n := range p.Tree.All {
			if a, ok := n.Attr("style"); ok {
				for _, r := range ParseDeclarations([]byte(a.Value)).Refs() {
					c.note(r)
				}
			}
		}
	}
	c.choose(sheet.Rules, nil)
	c.lean()
	out := Carried{Notes: c.notes}
	var b strings.Builder
	c.write(&b, sheet.Rules, 0)
	out.CSS = []byte(b.String())
	sheet.Walk(func(r *Rule, _ []*Rule) {
		if r.At == "" && r.HasBody {
			out.All++
		}
	})
	out.Kept = len(c.kept)
	return out
}

type carrier struct {
	sheet      *Sheet
	pieces     []Piece
	roots      string
	body       *markup.Node
	kept       map[*Rule]string // style rule → its selector list, rewritten
	frames     map[*Rule][]Decl // rules of the host frame → the declarations that stay
	rootProps  map[*Rule][]Decl
	props      map[string]bool
	fonts      map[string]bool
	animations map[string]bool
	notes      []string
}

func (c *carrier) note(r Ref) {
	switch r.Space {
	case Prop:
		if !r.Defines {
			c.props[r.Name] = true
		}
	case Font:
		c.fonts[strings.ToLower(r.Name)] = true
	case Animation:
		c.animations[r.Name] = true
	}
}

// choose marks the style rules to keep.
func (c *carrier) choose(rules []*Rule, parents []Selector) {
	if c.kept == nil {
		c.kept, c.frames, c.rootProps = map[*Rule]string{}, map[*Rule][]Decl{}, map[*Rule][]Decl{}
	}
	for _, r := range rules {
		switch {
		case r.At == "font-face" || strings.HasSuffix(r.At, "keyframes") || r.At == "property":
			continue
		case r.At != "":
			c.choose(r.Rules, parents)
			continue
		}
		var list []string
		frame := false
		for _, s := range r.Selectors {
			if len(parents) == 0 && isFrame(s) {
				frame = true
				continue
			}
			if c.reaches(s, parents) {
				list = append(list, c.bind(s, parents))
			}
		}
		if frame {
			c.frame(r)
		}
		if len(list) == 0 {
			continue
		}
		c.kept[r] = strings.Join(list, ", ")
		for _, ref := range (&Sheet{Source: c.sheet.Source, Tokens: c.sheet.Tokens, Decls: r.Decls}).Refs() {
			c.note(ref)
		}
		c.choose(r.Rules, r.Selectors)
	}
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

func (c *carrier) frame(r *Rule) {
	for _, d := range r.Decls {
		switch {
		case strings.HasPrefix(d.Name, "--"):
			c.rootProps[r] = append(c.rootProps[r], d)
		case inherited[d.Name]:
			c.frames[r] = append(c.frames[r], d)
			for _, ref := range (&Sheet{Source: c.sheet.Source, Tokens: c.sheet.Tokens, Decls: []Decl{d}}).Refs() {
				c.note(ref)
			}
		}
	}
}

func (c *carrier) reaches(s Selector, parents []Selector) bool {
	for _, p := range c.pieces {
		for _, n := range p.Tree.All {
			if s.Fits(n, parents) {
				return true
			}
		}
	}
	return false
}

// bind gives the selector's text, its subject bound to the pieces where it could
// hit strangers.
func (c *carrier) bind(s Selector, parents []Selector) string {
	text := string(s.Of(c.sheet.Source))
	if s.Unknown {
		c.notes = append(c.notes, "the selector \""+text+"\" is not understood; its rule is carried as it is")
		return text
	}
	if c.roots == "" || len(parents) > 0 {
		return text
	}
	for _, p := range s.Parts {
		for _, x := range p.Simple {
			if x.Type == ByClass || x.Type == ByID || x.Type == ByAttr || x.Type == ByTag && strings.Contains(x.Name, "-") {
				return text
			}
		}
	}
	// A pseudo-element must stay last: the binding goes before it.
	subject := s.Parts[len(s.Parts)-1]
	at := s.End
	for _, x := range subject.Simple {
		if x.Type == ByElement {
			at = x.At.Start
			for at > s.Start && c.sheet.Source[at-1] == ':' {
				at--
			}
			break
		}
	}
	roots := strings.Split(c.roots, ", ")
	var within []string
	for _, r := range roots {
		within = append(within, r, r+" *")
	}
	bound := ":where(" + strings.Join(within, ", ") + ")"
	return string(c.sheet.Source[s.Start:at]) + bound + string(c.sheet.Source[at:s.End])
}

// lean follows custom properties through the definitions that will be kept.
func (c *carrier) lean() {
	for changed := true; changed; {
		changed = false
		for _, ds := range c.rootProps {
			for _, d := range ds {
				if !c.props[d.Name] {
					continue
				}
				for _, ref := range (&Sheet{Source: c.sheet.Source, Tokens: c.sheet.Tokens, Decls: []Decl{d}}).Refs() {
					if ref.Space == Prop && !ref.Defines && !c.props[ref.Name] {
						c.props[ref.Name], changed = true, true
					}
					if ref.Space == Font {
						c.fonts[strings.ToLower(ref.Name)] = true
					}
				}
			}
		}
	}
}

func (c *carrier) write(b *strings.Builder, rules []*Rule, depth int) {
	pad := strings.Repeat("  ", depth)
	for _, r := range rules {
		src := c.sheet.Source
		switch {
		case r.At == "font-face":
			for _, d := range r.Decls {
				if d.Name == "font-family" && c.fonts[strings.ToLower(strings.Trim(string(d.Value.Of(src)), `"' `))] {
					b.WriteString(pad + string(r.Of(src)) + "\n")
				}
			}
		case strings.HasSuffix(r.At, "keyframes"):
			if c.animations[strings.Trim(string(r.Prelude.Of(src)), `"'`)] {
				b.WriteString(pad + string(r.Of(src)) + "\n")
			}
		case r.At == "property":
			if c.props[string(r.Prelude.Of(src))] {
				b.WriteString(pad + string(r.Of(src)) + "\n")
			}
		case r.At != "" && !r.HasBody: // @import, @layer a, b; @charset, @namespace
			b.WriteString(pad + string(r.Of(src)) + "\n")
		case r.At != "":
			var inner strings.Builder
			c.write(&inner, r.Rules, depth+1)
			if inner.Len() > 0 {
				b.WriteString(pad + string(src[r.Start:r.Body.Start]) + "\n" + inner.String() + pad + "}\n")
			}
		default:
			c.writeStyle(b, r, depth)
		}
	}
}

func (c *carrier) writeStyle(b *strings.Builder, r *Rule, depth int) {
	pad, src := strings.Repeat("  ", depth), c.sheet.Source
	var props []string
	for _, d := range c.rootProps[r] {
		if c.props[d.Name] {
			props = append(props, string(d.Of(src)))
		}
	}
	if len(props) > 0 {
		b.WriteString(pad + ":root { " + strings.Join(props, "; ") + "; }\n")
	}
	if ds := c.frames[r]; len(ds) > 0 && c.roots != "" {
		var text []string
		for _, d := range ds {
			text = append(text, string(d.Of(src)))
		}
		b.WriteString(pad + ":where(" + c.roots + ") { " + strings.Join(text, "; ") + "; }\n")
	}
	list, ok := c.kept[r]
	if !ok {
		return
	}
	if len(r.Rules) == 0 {
		b.WriteString(pad + list + " " + string(src[r.Body.Start-1:r.End]) + "\n")
		return
	}
	// Nested rules: what stands in the body is kept in order, without the rules
	// that the pieces do not use.
	type part struct {
		at   span.Span
		rule *Rule
	}
	var parts []part
	for _, d := range r.Decls {
		parts = append(parts, part{at: d.Span})
	}
	for _, n := range r.Rules {
		parts = append(parts, part{at: n.Span, rule: n})
	}
	sort.SliceStable(parts, func(i, j int) bool { return parts[i].at.Start < parts[j].at.Start })
	b.WriteString(pad + list + " {\n")
	for _, p := range parts {
		if p.rule == nil {
			b.WriteString(pad + "  " + string(p.at.Of(src)) + ";\n")
			continue
		}
		if p.rule.At != "" && len(p.rule.Rules) == 0 { // @media with bare declarations
			b.WriteString(pad + "  " + string(p.at.Of(src)) + "\n")
			continue
		}
		c.write(b, []*Rule{p.rule}, depth+1)
	}
	b.WriteString(pad + "}\n")
}
