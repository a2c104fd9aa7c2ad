package css

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Subject is one piece of markup whose styles are wanted.
type Subject struct {
	Tree *markup.Tree
	// Root says in a selector what the piece's top elements are; empty when they
	// carry neither an id nor a class.
	Root string
	// Home is a page in which the piece stands, as it is shown, and In is the
	// piece's place in it. Without a home it stands in html and body alone.
	Home *markup.Tree
	In   span.Span
	// Switched are the classes that scripts which come along can put on elements.
	Switched map[string]bool
	// Remote is the address of a sheet on another host that the piece is shown with: it may use any
	// custom property.
	Remote string
}

// inside tells whether an element of the home belongs to the piece.
func (p Subject) inside(n *markup.Node) bool {
	return n.Own && n.Start.Start >= p.In.Start && n.End.End <= p.In.End
}

// PieceOf prepares a piece for Carry. The piece stands in html and body; a document
// is known by its body.
func SubjectOf(tree *markup.Tree) Subject {
	p := Subject{Tree: tree, Remote: RemoteSheet(tree)}
	if tree.Document {
		p.Root = bodyHandle(tree)
		return p
	}
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

// SubsetResult is the part of a stylesheet that some pieces use.
type SubsetResult struct {
	CSS []byte
	// Kept and All count style rules.
	Kept, All int
	// Notes tell what could not be made exact, for people.
	Notes []string
}

// inherited are the properties that a piece takes from around it.
var inherited = words(
	"color font font-family font-size font-style font-weight font-stretch font-variant font-feature-settings " +
		"font-kerning line-height letter-spacing word-spacing text-align text-indent text-transform " +
		"text-rendering direction writing-mode hyphens quotes list-style list-style-type cursor accent-color " +
		"color-scheme caret-color tab-size white-space visibility text-size-adjust " +
		"-webkit-text-size-adjust -webkit-tap-highlight-color -webkit-font-smoothing text-wrap overflow-wrap",
)

// Subset gives the rules that the pieces use, in cascade order and in their
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
//
// A sheet that is not read rule by rule is carried whole.
func Subset(sheet *Sheet, pieces []Subject) SubsetResult {
	return SubsetAll([]SheetUse{{Sheet: sheet, Pieces: pieces}})[0]
}

// SheetUse is a stylesheet with the pieces that are shown with it.
type SheetUse struct {
	Sheet  *Sheet
	Pieces []Subject
	// Whole takes the sheet as it is; what it names comes along.
	Whole bool
}

// SubsetUntil is CarryAll that ends with the error of stop, which it asks at every rule: for a
// caller who may leave. A nil stop never ends it.
func SubsetUntil(sheets []SheetUse, stop func() error) ([]SubsetResult, error) {
	shared := &needs{props: map[string]bool{}, fonts: map[string]bool{}, animations: map[string]bool{}, stop: stop}
	out := subsetAll(sheets, shared)
	return out, shared.stopped
}

// SubsetAll is Subset for stylesheets that work together, in their order: what one
// defines and another uses comes along, and the host frame weighs the rules of all.
func SubsetAll(sheets []SheetUse) []SubsetResult {
	return subsetAll(sheets, &needs{props: map[string]bool{}, fonts: map[string]bool{}, animations: map[string]bool{}})
}

func subsetAll(sheets []SheetUse, shared *needs) []SubsetResult {
	all := subsetters(sheets, shared)
	for i, c := range all {
		if sheets[i].Whole && !c.sheet.Opaque {
			for _, r := range c.sheet.Refs() {
				c.needs.note(r)
			}
		} else if !c.sheet.Opaque {
			c.choose(c.sheet.Rules, nil)
			c.frameRules()
		}
	}
	if shared.over() {
		return nil
	}
	gatherFrames(all)
	rems := false
	for _, c := range all {
		rems = rems || c.setsRem()
	}
	if rems = rems && usesRems(sheets); rems { // what :root says in rems, the frame says again
		for i, c := range all {
			if c.framing, c.rems = nil, true; !sheets[i].Whole && !c.sheet.Opaque {
				c.frameRules()
			}
		}
		gatherFrames(all)
	}
	framed, own := framedFor(all), ownStyles(sheets)
	for _, c := range all {
		c.framed, c.own = framed, own
	}
	for changed := true; changed; {
		changed = false
		for _, c := range all {
			changed = c.lean() || changed
		}
	}
	out := make([]SubsetResult, len(sheets))
	for i, c := range all {
		if shared.over() {
			return nil
		}
		out[i] = c.result(sheets[i].Whole, rems)
	}
	return out
}

// subsetters begins with one for each sheet, and notes what the pieces' own styles need.
func subsetters(sheets []SheetUse, shared *needs) []*subsetter {
	var all []*subsetter
	around := map[*markup.Tree]bool{}
	for i, u := range sheets {
		c := &subsetter{sheet: u.Sheet, pieces: u.Pieces, needs: shared, order: i, kept: map[*Rule]string{},
			freed: map[*Rule]string{}, rootProps: map[*Rule][]Decl{}}
		all = append(all, c)
		for _, p := range u.Pieces {
			if around[p.Tree] {
				continue
			}
			around[p.Tree] = true
			if !p.Tree.Document {
				body := bodyAround(p.Tree.Root.Children)
				for _, n := range p.Tree.Root.Children {
					n.Parent = body
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
	}
	return all
}

// result writes what was kept of a sheet; rems tells that :root sets the size of a rem.
func (c *subsetter) result(whole, rems bool) SubsetResult {
	if whole {
		n := c.sheet.styleRules()
		return SubsetResult{CSS: c.sheet.Source, Kept: n, All: n}
	}
	if c.sheet.Opaque {
		return SubsetResult{CSS: c.sheet.Source,
			Notes: []string{fmt.Sprintf("it has more than %d rules and is carried whole", MaxRules)}}
	}
	var b strings.Builder
	c.writeSheet(&b)
	text := b.String()
	if rems {
		text = inRems(text)
	}
	return SubsetResult{CSS: []byte(text), Kept: len(c.kept), All: c.sheet.styleRules(), Notes: unique(c.notes)}
}

// bodyAround gives a body in an html element, with some elements in it.
func bodyAround(children []*markup.Node) *markup.Node {
	top := &markup.Node{}
	html := &markup.Node{Tag: "html", Parent: top}
	body := &markup.Node{Tag: "body", Parent: html, Children: children}
	top.Children, html.Children = []*markup.Node{html}, []*markup.Node{body}
	return body
}

type subsetter struct {
	sheet     *Sheet
	pieces    []Subject
	kept      map[*Rule]string // style rule → its selector list, rewritten
	freed     map[*Rule]string // nested rule → its selectors without a parent outside the pieces
	unscoped  map[*Rule]bool   // @scope rules that start outside the pieces
	framing   []frameRule
	rootProps map[*Rule][]Decl
	order     int                        // among the sheets
	framed    map[string]map[string]bool // root → properties that the host frame sets
	rems      bool                       // a rem at home is not the initial one, and some are used
	own       map[string]ownStyle        // root → what its elements are by themselves
	*needs
	notes []string
}

// needs are what the rules and the pieces name, over all sheets.
type needs struct {
	props, fonts, animations map[string]bool
	stop                     func() error
	stopped                  error // what stop said
}

// over tells whether nobody waits for the result any more.
func (n *needs) over() bool {
	if n.stop != nil && n.stopped == nil {
		n.stopped = n.stop()
	}
	return n.stopped != nil
}

func (c *needs) note(r Ref) {
	switch r.Space {
	case Prop:
		if !r.Defines {
			c.props[r.Name] = true
		}
	case Font:
		c.fonts[strings.ToLower(r.Name)] = true
	case Animation:
		c.animations[r.Name] = true
	default:
	}
}

// choose marks the style rules to keep.
func (c *subsetter) choose(rules []*Rule, parents []Selector) {
	remote := slices.ContainsFunc(c.pieces, func(p Subject) bool { return p.Remote != "" })
	for _, r := range rules {
		if c.over() {
			return
		}
		switch {
		case r.At == "font-face" || strings.HasSuffix(r.At, "keyframes") || r.At == "property":
			continue
		case r.At == "scope" && len(parents) == 0:
			c.chooseScoped(r)
			continue
		case r.At != "":
			c.choose(r.Rules, parents)
			continue
		}
		var list []string
		for _, s := range r.Selectors {
			if len(parents) == 0 && isFrame(s) {
				if c.rootProps[r] == nil {
					for _, d := range r.Decls {
						if strings.HasPrefix(d.Name, "--") {
							c.rootProps[r] = append(c.rootProps[r], d)
							if remote {
								c.props[d.Name] = true
							}
						}
					}
				}
				list = append(list, c.ofDocuments(s)...)
				continue
			}
			if roots, reached := c.reaches(s, parents, len(parents) == 0); reached {
				list = append(list, c.bind(s, parents, roots))
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

func (c *subsetter) noteAll(ds []Decl) {
	for _, ref := range (&Sheet{Source: c.sheet.Source, Tokens: c.sheet.Tokens, Decls: ds}).Refs() {
		c.note(ref)
	}
}

// maxSelectorSteps bounds the work for one selector; one that needs more is kept.
const maxSelectorSteps = 1_000_000

// short gives a selector's text for people.
func short(text []byte) string {
	if len(text) > 80 {
		return string(text[:77]) + "…"
	}
	return string(text)
}

// reaches gives the roots of the pieces in which a selector can match; no roots
// although it does match mean a piece without a handle. Where settle is set, what the
// selector says of the place of a top element does not count if the homes settle it.
func (c *subsetter) reaches(s Selector, parents []Selector, settle bool) (roots []string, reached bool) {
	bare, steps := false, 0
	for _, p := range c.pieces {
		var unplaced map[*markup.Node]bool
		if settle && s.placed() && c.settles(s, p.Root) {
			unplaced = map[*markup.Node]bool{}
			for _, n := range p.Tree.Root.Children {
				unplaced[n] = true
			}
		}
		for _, n := range subjects(p.Tree, s, p.Switched) {
			m := &matcher{parents: parents, may: p.Switched, unplaced: unplaced}
			fits := s.Unknown || m.from(s.Parts, len(s.Parts)-1, n)
			if steps += m.steps; steps > maxSelectorSteps && !fits {
				c.notes = append(
					c.notes,
					"the selector \""+short(
						s.Of(c.sheet.Source),
					)+"\" takes too long to match; its rule is carried as it is",
				)
				fits = true
			}
			if fits {
				reached, bare = true, bare || p.Root == ""
				roots = append(roots, p.Root)
				break
			}
		}
	}
	if bare {
		return nil, reached
	}
	return unique(roots), reached
}

// lean follows custom properties through the definitions that will be kept, and tells
// whether that found more of them.
func (c *subsetter) lean() (more bool) {
	type defined struct {
		sheet *Sheet
		decls []Decl
	}
	var all []defined
	for _, ds := range c.rootProps {
		all = append(all, defined{c.sheet, ds})
	}
	for _, f := range c.framing {
		all = append(all, defined{f.sheet, f.decls})
	}
	for changed := true; changed; {
		changed = false
		for _, def := range all {
			for _, d := range def.decls {
				if !c.props[d.Name] || !strings.HasPrefix(d.Name, "--") {
					continue
				}
				for _, ref := range (&Sheet{Source: def.sheet.Source, Tokens: def.sheet.Tokens,
					Decls: []Decl{d}}).Refs() {
					if ref.Space == Prop && !ref.Defines && !c.props[ref.Name] {
						c.props[ref.Name], changed, more = true, true, true
					}
					if ref.Space == Font {
						c.fonts[strings.ToLower(ref.Name)] = true
					}
				}
			}
		}
	}
	return more
}
