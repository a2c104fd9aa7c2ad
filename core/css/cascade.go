package css

import (
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/markup"
)

// Cascade holds the stylesheets of a document in their order, and says which declarations
// apply to its elements and which of them wins (CSS Cascading and Inheritance Level 6,
// sections 2 and 6). Rules for a state and for pseudo-elements, and those for print, are
// passed over; other conditions are taken as met and told.
type Cascade struct {
	sheets []*Sheet
	layers *layer
}

// Priority is what decides between two declarations of a property on one element.
type Priority struct {
	important           bool
	inline              bool
	layer               int // in the order of the layers; what is in none comes last
	ids, classes, types int
	proximity           int // generations up to the root of the scope
	sheet, position     int
}

// unscoped is the proximity of a rule that stands in no scope.
const unscoped = 1 << 30

// Outranks tells whether a declaration wins over another.
func (p Priority) Outranks(q Priority) bool {
	switch {
	case p.important != q.important:
		return p.important
	case p.inline != q.inline:
		return p.inline
	case p.layer != q.layer:
		return (p.layer > q.layer) != p.important // !important turns the layers round
	case p.ids != q.ids:
		return p.ids > q.ids
	case p.classes != q.classes:
		return p.classes > q.classes
	case p.types != q.types:
		return p.types > q.types
	case p.proximity != q.proximity:
		return p.proximity < q.proximity
	case p.sheet != q.sheet:
		return p.sheet > q.sheet
	}
	return p.position >= q.position
}

// Applied is a declaration that applies to an element.
type Applied struct {
	Priority Priority
	// Sheet is the number of its sheet; -1 for the element's own style attribute.
	Sheet    int
	Name     string
	Value    string
	Selector string
	// When are the conditions around it, as they are written.
	When string
}

// layer is a cascade layer with those within it, in the order of their first appearance.
type layer struct {
	below  []*layer
	byName map[string]*layer
	place  int
}

// within gives a layer below, made if it is not there.
func (l *layer) within(name string) *layer {
	if b := l.byName[name]; b != nil {
		return b
	}
	if l.byName == nil {
		l.byName = map[string]*layer{}
	}
	b := &layer{}
	l.byName[name], l.below = b, append(l.below, b)
	return b
}

// number gives the layers their places: those below a layer come before what it holds
// itself.
func (l *layer) number(next int) int {
	for _, b := range l.below {
		next = b.number(next)
	}
	l.place = next
	return next + 1
}

// layerNames gives the names of an @layer's prelude, each as its path.
func layerNames(prelude string) [][]string {
	var out [][]string
	for _, n := range strings.Split(prelude, ",") {
		if n = strings.TrimSpace(n); n != "" {
			out = append(out, strings.Split(n, "."))
		}
	}
	return out
}

// NewCascade reads the sheets of a document in their order.
func NewCascade(sources ...[]byte) *Cascade {
	c := &Cascade{layers: &layer{}}
	for _, src := range sources {
		c.sheets = append(c.sheets, Parse(src))
	}
	c.eachRule(func(_ int, _ *Sheet, _ *Rule, _ context) {})
	c.layers.number(0)
	return c
}

// context is what stands around a rule.
type context struct {
	layer   *layer
	parents []Selector
	weight  [3]int // the specificity of "&": that of the heaviest parent
	scopes  []scope
	when    string
}

// scope is an @scope around a rule.
type scope struct{ start, limit []Selector }

// eachRule visits all style rules. The layers come into being when they are met first; their
// names are found again later.
func (c *Cascade) eachRule(visit func(sheet int, s *Sheet, r *Rule, in context)) {
	for i, s := range c.sheets {
		var walk func([]*Rule, context)
		walk = func(rules []*Rule, in context) {
			for _, r := range rules {
				prelude := strings.TrimSpace(string(r.Prelude.Of(s.Source)))
				below := in
				switch {
				case r.At == "":
					visit(i, s, r, in)
					below.parents, below.weight = r.Selectors, in.heaviest(r.Selectors)
				case r.At == "layer":
					names := layerNames(prelude)
					if !r.HasBody {
						for _, path := range names {
							c.layerAt(in.layer, path)
						}
						continue
					}
					if len(names) == 1 {
						below.layer = c.layerAt(in.layer, names[0])
					} else {
						below.layer = in.layer.within(anonymousLayer(i, r))
					}
				case r.At == "scope":
					start, limit := s.Scope(r)
					below.scopes = append(append([]scope{}, in.scopes...), scope{start, limit})
				case strings.HasSuffix(r.At, "keyframes"), r.At == "font-face", r.At == "property", r.At == "page":
					continue
				default:
					below.when = strings.TrimSpace(in.when + " @" + r.At + " " + prelude)
				}
				walk(r.Rules, below)
			}
		}
		walk(s.Rules, context{layer: c.layers})
	}
}

func (c *Cascade) layerAt(from *layer, path []string) *layer {
	for _, name := range path {
		from = from.within(name)
	}
	return from
}

// anonymousLayer is the name by which a layer without one is found again.
func anonymousLayer(sheet int, r *Rule) string {
	return "\x00" + strconv.Itoa(sheet) + " " + strconv.Itoa(r.Start)
}

// Apply visits the declarations that apply to the elements of a document, those of style
// attributes too. skip leaves elements out.
func (c *Cascade) Apply(tree *markup.Tree, skip func(*markup.Node) bool, visit func(*markup.Node, Applied)) {
	nodes := ownNodes(tree, skip)
	c.apply(nodes, Selector.always, visit)
	for _, n := range nodes {
		style := []byte(n.Value("style"))
		if len(style) == 0 {
			continue
		}
		for i, d := range ParseDeclarations(style).Decls {
			a := Applied{Sheet: -1, Selector: "style", Priority: Priority{inline: true, proximity: unscoped}}
			a.set(style, d, i)
			visit(n, a)
		}
	}
}

// ApplyIn visits the declarations that apply besides when each element, and what is around it, is in one of some
// states: pseudo-classes by their names, as hover (Selectors Level 4, section 9).
func (c *Cascade) ApplyIn(
	states []string, tree *markup.Tree, skip func(*markup.Node) bool, visit func(*markup.Node, Applied),
) {
	c.apply(ownNodes(tree, skip), func(s Selector) bool { return s.holdsIn(states) }, visit)
}

func ownNodes(tree *markup.Tree, skip func(*markup.Node) bool) (nodes []*markup.Node) {
	for _, n := range tree.All {
		if n.Own && (skip == nil || !skip(n)) {
			nodes = append(nodes, n)
		}
	}
	return nodes
}

// apply visits the declarations of the rules with selectors that hold.
func (c *Cascade) apply(nodes []*markup.Node, holds func(Selector) bool, visit func(*markup.Node, Applied)) {
	c.eachRule(func(sheet int, s *Sheet, r *Rule, in context) {
		if strings.Contains(in.when, "print") {
			return
		}
		for _, sel := range r.Selectors {
			if sel.Unknown || !holds(sel) {
				continue
			}
			a := Applied{Sheet: sheet, Selector: strings.Join(strings.Fields(string(sel.Of(s.Source))), " "),
				When: in.when}
			a.Priority = Priority{layer: in.layer.place, sheet: sheet, proximity: unscoped}
			w := in.specificity(sel)
			a.Priority.ids, a.Priority.classes, a.Priority.types = w[0], w[1], w[2]
			for _, n := range nodes {
				near, ok := in.proximity(n)
				if !ok || !sel.Fits(n, in.parents) {
					continue
				}
				a.Priority.proximity = near
				for _, d := range r.Decls {
					a.set(s.Source, d, d.Start)
					visit(n, a)
				}
			}
		}
	})
}

// specificity is that of a selector with what "&" adds, which stands before a nested one
// also where it is not written (CSS Nesting Level 1, section 3.2).
func (in context) specificity(s Selector) [3]int {
	ids, classes, types := s.Specificity()
	out := [3]int{ids, classes, types}
	if len(in.parents) == 0 {
		return out
	}
	n := 0
	for _, c := range s.Parts {
		for _, x := range c.Simple {
			if x.Type == ByParent {
				n++
			}
		}
	}
	for range max(n, 1) {
		for i, w := range in.weight {
			out[i] += w
		}
	}
	return out
}

func (in context) heaviest(list []Selector) (out [3]int) {
	for _, s := range list {
		if w := in.specificity(s); slices.Compare(w[:], out[:]) > 0 {
			out = w
		}
	}
	return out
}

func (a *Applied) set(src []byte, d Decl, position int) {
	a.Name, a.Value = d.Name, string(Normalize([]byte(strings.TrimSpace(string(d.Value.Of(src))))))
	a.Priority.important, a.Priority.position = d.Important, position
}

// proximity gives how many generations an element stands below the root of the nearest
// scope; ok is false when it stands in none that is asked for.
func (in context) proximity(n *markup.Node) (near int, ok bool) {
	near = unscoped
	for _, sc := range in.scopes {
		hops, found := sc.hops(n)
		if !found {
			return 0, false
		}
		near = hops
	}
	return near, true
}

// hops counts the generations up to a root of the scope; an element at or below a limit
// stands outside.
func (sc scope) hops(n *markup.Node) (int, bool) {
	up := 0
	for at := n; at != nil; at = at.Parent {
		if anyFits(sc.limit, at) {
			return 0, false
		}
		if anyFits(sc.start, at) {
			return up, true
		}
		up++
	}
	return 0, len(sc.start) == 0
}

func anyFits(list []Selector, n *markup.Node) bool {
	for _, s := range list {
		if s.Fits(n, nil) {
			return true
		}
	}
	return false
}

// always tells whether a selector holds at all moments, for the element itself.
func (s Selector) always() bool {
	for _, c := range s.Parts {
		for _, x := range c.Simple {
			if x.Type == ByElement || x.Type == ByPseudo && (!alwaysSo[x.Name] || x.oneOf(Selector.asksState)) {
				return false
			}
		}
	}
	return true
}

// asksState tells whether a selector does not hold at all moments.
func (s Selector) asksState() bool { return !s.always() }

// oneOf tells whether a pseudo-class fits by one of several selectors, of which each is so.
func (x Simple) oneOf(each func(Selector) bool) bool {
	return (x.Name == "is" || x.Name == "where") && len(x.Args) > 0 &&
		!slices.ContainsFunc(x.Args, func(a Selector) bool { return !each(a) })
}

// holdsIn tells whether a selector holds in some states and not at all moments.
func (s Selector) holdsIn(states []string) bool {
	needs := false
	for _, c := range s.Parts {
		for _, x := range c.Simple {
			switch {
			case x.Type == ByElement:
				return false
			case x.Type == ByPseudo && x.oneOf(Selector.asksState):
				if !slices.ContainsFunc(x.Args, func(a Selector) bool { return a.holdsIn(states) }) {
					return false
				}
				needs = true
			case x.Type != ByPseudo || alwaysSo[x.Name]:
			case !slices.Contains(states, x.Name):
				return false
			default:
				needs = true
			}
		}
	}
	return needs
}

var alwaysSo = words(
	"root scope is where not has empty first-child last-child only-child first-of-type last-of-type only-of-type " +
		"nth-child nth-last-child nth-of-type nth-last-of-type",
)

// Longhands gives the properties that a shorthand decides, those that its value names.
func Longhands(name, value string) []string {
	sides := func(of string) []string { return []string{of + "-top", of + "-right", of + "-bottom", of + "-left"} }
	switch name {
	case "margin", "padding":
		return sides(name)
	case "background":
		if strings.Contains(value, "url(") || strings.Contains(value, "gradient(") {
			return []string{"background-color", "background-image"}
		}
		return []string{"background-color"}
	case "font":
		out := []string{"font-size", "font-family"}
		if strings.Contains(value, "/") {
			out = append(out, "line-height")
		}
		if strings.Contains(value, "italic") || strings.Contains(value, "oblique") {
			out = append(out, "font-style")
		}
		if strings.Contains(value, "bold") {
			out = append(out, "font-weight")
		}
		return out
	}
	return []string{name}
}
