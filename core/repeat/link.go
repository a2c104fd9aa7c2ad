package repeat

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
	"compactparcel/core/workers"
)

// Copy is a copy of a section that stands in a page and is still alike: it could be the section, linked,
// with what differs as values of the page's own.
type Copy struct {
	Section item.Address `json:"section"`
	Page    item.Address `json:"page"`
	Slug    string       `json:"slug"`
	Line    int          `json:"line"`
	// Differs says what would be the page's own.
	Differs []string `json:"differs"`
}

// Linked is a page whose copies of a section have become the section.
type Linked struct {
	Section []byte // its source, with a blank for each place that differs
	Page    []byte
	Copies  int
}

// ownAttrs are attributes that a page can have of its own in a linked section.
var ownAttrs = []string{"href", "src", "srcset", "alt", "title", "aria-label", "width", "height", "datetime",
	"value", "placeholder"}

// minCopy is how many elements a copy has at least: what is smaller is alike by chance.
const minCopy = 3

// Copies lists the copies of sections that stand in pages.
func Copies(c item.Collection) ([]Copy, error) {
	sections, err := sectionsOf(c)
	if err != nil || len(sections) == 0 {
		return nil, err
	}
	heads := c.OfKind(item.Page)
	found := make([][]Copy, len(heads))
	err = workers.Each(len(heads), func(_, i int) error {
		src, err := item.Read(c, heads[i])
		if err != nil {
			return err
		}
		found[i] = copiesIn(src, heads[i], sections)
		return nil
	})
	return slices.Concat(found...), err
}

// sectionsOf gives the sections of a collection that can be told by their build, by it.
func sectionsOf(c item.Collection) (map[shape]Shape, error) {
	out := map[shape]Shape{}
	for _, h := range c.OfKind(item.Section) {
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		s := Shape{Address: h.Address, Content: b}
		if t, root, ok := s.root(); ok {
			if x := shapes(t)[root]; x.size >= minCopy {
				if _, two := out[x.shape]; !two {
					out[x.shape] = s
				}
			}
		}
	}
	return out, nil
}

// root gives the one element of a piece.
func (s Shape) root() (*markup.Tree, *markup.Node, bool) {
	t := markup.Parse(s.Content, "")
	if len(t.Root.Children) != 1 || t.Document || t.Opaque {
		return t, nil, false
	}
	return t, t.Root.Children[0], true
}

func copiesIn(src []byte, h item.Head, sections map[shape]Shape) (out []Copy) {
	t := markup.Parse(src, "")
	if t.Opaque {
		return nil
	}
	sizes := shapes(t)
	var walk func(n *markup.Node)
	walk = func(n *markup.Node) {
		if s, ok := sections[sizes[n].shape]; ok && n.Own && n.Closed {
			if l, err := newLinker(s); err == nil {
				if differs, err := l.take(src, n); err == nil {
					out = append(out, Copy{s.Address, h.Address, h.Meta.Slug,
						strings.Count(string(src[:n.Start.Start]), "\n") + 1, differs})
					return
				}
			}
		}
		for _, c := range n.Children {
			walk(c)
		}
	}
	for _, n := range t.Root.Children {
		walk(n)
	}
	return out
}

// linker turns copies of a section into uses of it.
type linker struct {
	piece Shape
	root  *markup.Node
	shape shape
	elems []*markup.Node
	list  []slot
	names map[string]bool         // of its blanks
	blank map[*markup.Node]string // clauses to add to an element
	had   map[string]bool         // places that have a blank, by element and target
}

// UnlikeError tells why an element is not the section any more.
type UnlikeError struct{ Why string }

func (e *UnlikeError) Error() string { return e.Why }

func unlike(format string, args ...any) error { return &UnlikeError{fmt.Sprintf(format, args...)} }

func newLinker(s Shape) (*linker, error) {
	t, root, ok := s.root()
	if !ok {
		return nil, unlike("%s is more than one element", s.Address)
	}
	l := &linker{piece: s, root: root, shape: shapes(t)[root].shape, elems: elements(root), names: map[string]bool{},
		list: slots(s.Content, root), blank: map[*markup.Node]string{}, had: map[string]bool{}}
	for _, n := range t.All {
		for _, b := range markup.Bindings(s.Content, n, "data-fill") {
			l.names[b.Name] = true
			l.had[placeID(n, b.Target)] = true
		}
	}
	return l, nil
}

func placeID(n *markup.Node, target string) string { return fmt.Sprint(n.Start.Start, " ", target) }

// take makes blanks of the places at which a copy differs, and says what they are.
func (l *linker) take(src []byte, n *markup.Node) ([]string, error) {
	list := slots(src, n)
	if len(list) != len(l.list) {
		return nil, unlike("it is built otherwise than %s", l.piece.Address)
	}
	differs := []string{}
	for i, s := range l.list {
		if s.value == list[i].value && s.has == list[i].has {
			continue
		}
		what := "the text of <" + s.node.Tag + ">"
		target := "text"
		if s.attr != "" {
			what, target = s.attr+" of <"+s.node.Tag+">", s.attr
		}
		if !l.covered(s.node, target) {
			if s.attr != "" && !slices.Contains(ownAttrs, s.attr) {
				return nil, unlike("%s differs, which no page can have of its own", what)
			}
			if s.attr == "" && s.node == l.root {
				return nil, unlike("its words stand beside its elements: put them into one of their own")
			}
			if s.attr == "" && l.blanksWithin(s.node) {
				return nil, unlike("%s differs, and holds blanks", what)
			}
			l.add(s, target)
		}
		if !slices.Contains(differs, what) {
			differs = append(differs, what)
		}
	}
	if len(differs) > maxOwnValues {
		return nil, unlike("it would have %d values of its own", len(differs))
	}
	return differs, nil
}

// covered tells whether a place has a blank, or stands within one that holds markup.
func (l *linker) covered(n *markup.Node, target string) bool {
	if l.had[placeID(n, target)] {
		return true
	}
	for up := n; up != nil && up != l.root.Parent; up = up.Parent {
		if (up != n || target == "text") && l.had[placeID(up, "text")] {
			return true
		}
	}
	return false
}

func (l *linker) blanksWithin(n *markup.Node) bool {
	return slices.ContainsFunc(elements(n)[1:], func(x *markup.Node) bool {
		_, has := x.Attr("data-fill")
		return has || l.blank[x] != ""
	})
}

func (l *linker) add(s slot, target string) {
	name := valueName(s)
	for k := 2; l.names[name]; k++ {
		name = fmt.Sprintf("%s-%d", valueName(s), k)
	}
	l.names[name], l.had[placeID(s.node, target)] = true, true
	if l.blank[s.node] != "" {
		l.blank[s.node] += "; "
	}
	l.blank[s.node] += target + ":" + name
}

// source is the section with its new blanks.
func (l *linker) source() ([]byte, error) {
	var edits []span.Edit
	for _, n := range l.elems {
		clauses := l.blank[n]
		if clauses == "" {
			continue
		}
		if has := n.Value("data-fill"); has != "" {
			clauses = strings.TrimSuffix(strings.TrimSpace(has), ";") + "; " + clauses
			edits = append(edits, markup.SetAttr(n, "data-fill", clauses))
			continue
		}
		at := n.Start.Start + 1 + len(n.Tag)
		edits = append(edits, span.Edit{Span: span.Span{Start: at, End: at},
			New: []byte(` data-fill="` + markup.EscapeAttr(clauses) + `"`)})
	}
	return span.Apply(l.piece.Content, edits)
}

// Link puts a section in the place of its copies in a page: of the one whose start tag stands at a byte of
// the source, or of all where that is -1. Its error is an *UnlikeError where the copy is none.
func Link(section Shape, src []byte, at int) (*Linked, error) {
	l, err := newLinker(section)
	if err != nil {
		return nil, err
	}
	t := markup.Parse(src, "")
	sizes := shapes(t)
	var copies []*markup.Node
	var first error
	for _, n := range t.All {
		within := slices.ContainsFunc(copies, func(c *markup.Node) bool { return n.Start.Start < c.Outer().End })
		if !n.Own || !n.Closed || within || at >= 0 && n.Start.Start != at {
			continue
		}
		if sizes[n].shape != l.shape {
			if at >= 0 {
				return nil, unlike("it is built otherwise than %s", section.Address)
			}
			continue
		}
		if _, err := l.take(src, n); err != nil {
			if first == nil {
				first = err
			}
			continue
		}
		copies = append(copies, n)
	}
	if len(copies) == 0 {
		if first == nil {
			first = unlike("no copy of %s stands there", section.Address)
		}
		return nil, first
	}
	out := &Linked{Copies: len(copies)}
	if out.Section, err = l.source(); err != nil {
		return nil, err
	}
	filled := Shape{Address: section.Address, Content: out.Section}
	_, root, _ := filled.root()
	k := &known{Shape: filled, src: out.Section, elems: elements(root), list: slots(out.Section, root)}
	var edits []span.Edit
	for _, n := range copies {
		text, ok := k.use(src, n)
		if !ok {
			return nil, unlike("it differs where no page can have its own")
		}
		edits = append(edits, span.Edit{Span: n.Outer(), New: []byte(text)})
	}
	out.Page, err = span.Apply(src, edits)
	return out, err
}
