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
	// Home is a page in which the piece stands, as it is shown, and In is the
	// piece's place in it. Without a home it stands in html and body alone.
	Home *markup.Tree
	In   span.Span
}

// inside tells whether an element of the home belongs to the piece.
func (p Piece) inside(n *markup.Node) bool {
	return n.Own && n.Start.Start >= p.In.Start && n.End.End <= p.In.End
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
//   - a rule on what stands around a piece becomes the host frame: its inherited
//     properties stand on the piece's roots, in a layer that all else outweighs;
//   - an ancestor outside the piece is resolved away from a selector, and its
//     specificity is made up for by :not() of what is never there;
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
	c.frameRules()
	c.lean()
	out := Carried{Notes: unique(c.notes)}
	var b strings.Builder
	c.writeSheet(&b)
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
	freed      map[*Rule]string // nested rule → its selectors without a parent outside the pieces
	framing    []frameRule
	rootProps  map[*Rule][]Decl
	props      map[string]bool
	fonts      map[string]bool
	animations map[string]bool
	notes      []string
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
		c.kept, c.freed, c.rootProps = map[*Rule]string{}, map[*Rule]string{}, map[*Rule][]Decl{}
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
		for _, s := range r.Selectors {
			if len(parents) == 0 && isFrame(s) {
				for _, d := range r.Decls {
					if strings.HasPrefix(d.Name, "--") {
						c.rootProps[r] = append(c.rootProps[r], d)
					}
				}
				continue
			}
			if c.reaches(s, parents) {
				list = append(list, c.bind(s, parents))
			}
			if len(parents) == 0 {
				list = append(list, c.resolved(s, 1)...)
			}
		}
		if len(parents) == 0 {
			c.free(r.Rules, r.Selectors)
		}
		if list = unique(list); len(list) == 0 {
			continue
		}
		c.kept[r] = strings.Join(list, ", ")
		c.noteAll(r.Decls)
		c.choose(r.Rules, r.Selectors)
	}
}

func (c *carrier) noteAll(ds []Decl) {
	for _, ref := range (&Sheet{Source: c.sheet.Source, Tokens: c.sheet.Tokens, Decls: ds}).Refs() {
		c.note(ref)
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

// free finds nested rules whose parents stand outside the pieces: they are carried
// as rules of their own.
func (c *carrier) free(rules []*Rule, parents []Selector) {
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
// with the help of what stands around it: of at least so many compounds.
func (c *carrier) resolved(s Selector, least int) []string {
	if s.Unknown {
		return nil
	}
	var out []string
	for _, p := range c.pieces {
		if p.Home == nil || p.Root == "" {
			continue
		}
		ways := map[int]bool{}
		for _, n := range p.Home.All {
			if p.inside(n) {
				m := &matcher{}
				m.splits(s.Parts, len(s.Parts)-1, n, p.inside, len(s.Parts), func(outside int) { ways[outside] = true })
			}
		}
		for k := max(least, 1); k < len(s.Parts); k++ {
			if !ways[k] {
				continue
			}
			dropped := Selector{Parts: s.Parts[:k]}
			if !dropped.steady() {
				c.notes = append(c.notes, "the selector \""+string(s.Of(c.sheet.Source))+"\" waits for a state of something outside the piece; its rule stays behind")
				continue
			}
			out = append(out, c.without(s, k, p.Root))
		}
	}
	return out
}

// without writes a selector without its first k compounds: bound to the roots, and
// as specific as it was.
func (c *carrier) without(s Selector, k int, roots string) string {
	bound := ":where(" + roots + ")"
	if s.Parts[k].Combinator == ' ' {
		bound = ":where(" + within(roots) + ")"
	}
	ids, classes, types := Selector{Parts: s.Parts[:k]}.Specificity()
	bound += strings.Repeat(":not(#cp-never)", ids) + strings.Repeat(":not(.cp-never)", classes) + strings.Repeat(":not(cp-never)", types)
	first := s.Parts[k]
	at := endOfCompound(c.sheet.Source, first)
	return string(c.sheet.Source[first.Start:at]) + bound + string(c.sheet.Source[at:s.End])
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

// ancestors gives the elements around a piece at its home, html first.
func ancestors(p Piece) []*markup.Node {
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
	at := endOfCompound(c.sheet.Source, s.Parts[len(s.Parts)-1])
	return string(c.sheet.Source[s.Start:at]) + ":where(" + within(c.roots) + ")" + string(c.sheet.Source[at:s.End])
}

// lean follows custom properties through the definitions that will be kept.
func (c *carrier) lean() {
	for changed := true; changed; {
		changed = false
		defined := make([][]Decl, 0, len(c.rootProps)+len(c.framing))
		for _, ds := range c.rootProps {
			defined = append(defined, ds)
		}
		for _, f := range c.framing {
			defined = append(defined, f.decls)
		}
		for _, ds := range defined {
			for _, d := range ds {
				if !c.props[d.Name] || !strings.HasPrefix(d.Name, "--") {
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

// writeSheet writes what must come first, the host frame, and then the rules.
func (c *carrier) writeSheet(b *strings.Builder) {
	first := 0
	for first < len(c.sheet.Rules) {
		r := c.sheet.Rules[first]
		if r.HasBody || r.At != "charset" && r.At != "import" && r.At != "namespace" && r.At != "layer" {
			break
		}
		first++
	}
	var frame strings.Builder
	c.writeFrame(&frame)
	if frame.Len() > 0 && first > 0 { // before the sheet's own layers, so that they outweigh it
		b.WriteString("@layer cp-frame;\n")
	}
	c.write(b, c.sheet.Rules[:first], 0)
	b.WriteString(frame.String())
	c.write(b, c.sheet.Rules[first:], 0)
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
		case r.At == "charset": // the carried text is UTF-8
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

// writeFreed writes the nested rules that are carried without their parent.
func (c *carrier) writeFreed(b *strings.Builder, rules []*Rule, depth int) {
	pad, src := strings.Repeat("  ", depth), c.sheet.Source
	for _, r := range rules {
		if r.At != "" {
			var inner strings.Builder
			c.writeFreed(&inner, r.Rules, depth+1)
			if inner.Len() > 0 {
				b.WriteString(pad + string(src[r.Start:r.Body.Start]) + "\n" + inner.String() + pad + "}\n")
			}
			continue
		}
		if list, ok := c.freed[r]; ok {
			b.WriteString(pad + list + " " + string(src[r.Body.Start-1:r.End]) + "\n")
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
	defer c.writeFreed(b, r.Rules, depth)
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
