package repeat

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Shape is a part or section that pages use.
type Shape struct {
	Address item.Address
	Role    item.Role
	Content []byte
}

// Shapes gives a collection's parts and sections that can be told by their build: one
// element each.
func Shapes(c item.Collection) ([]Shape, error) {
	var out []Shape
	for _, h := range c.Heads() {
		if h.Address.Kind != item.Section && (h.Address.Kind != item.Part || h.Meta.Role == item.NotFound) {
			continue
		}
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		out = append(out, Shape{h.Address, h.Meta.Role, b})
	}
	return out, nil
}

// known is a piece ready for being told.
type known struct {
	Shape
	src   []byte
	elems []*markup.Node
	list  []slot
}

// Recognise puts the pieces in the place of their copies in a page, as accepting the
// proposal did: where an element is built as a piece is and differs only at what a
// page may have of its own. hasTokens lets the page take the site's tokens, too.
func Recognise(src []byte, context string, pieces []Shape, hasTokens bool) ([]byte, error) {
	byShape := map[shape]*known{}
	for _, p := range pieces {
		t := markup.Parse(p.Content, "")
		if len(t.Root.Children) != 1 || t.Document {
			continue
		}
		root := t.Root.Children[0]
		byShape[shapes(t)[root].shape] = &known{
			Shape: p,
			src:   p.Content,
			elems: elements(root),
			list:  slots(p.Content, root),
		}
	}
	d := &document{src: src, tree: markup.Parse(src, context)}
	sizes := shapes(d.tree)
	var edits []span.Edit
	roles := map[item.Role]bool{}
	var walk func(n *markup.Node)
	walk = func(n *markup.Node) {
		if k := byShape[sizes[n].shape]; k != nil && n.Own && n.Closed && !(k.Role != "" && roles[k.Role]) {
			if text, ok := k.use(src, n); ok {
				roles[k.Role] = true
				edits = append(edits, span.Edit{Span: n.Outer(), New: []byte(text)})
				return
			}
		}
		for _, c := range n.Children {
			walk(c)
		}
	}
	for _, n := range d.tree.Root.Children {
		walk(n)
	}
	if hasTokens && !strings.Contains(string(src), "/"+siteTokens.Path()) {
		if e, ok := (&tokenFind{}).link(d); ok {
			edits = append(edits, e)
		}
	}
	return span.Apply(src, edits)
}

// use writes the use of a piece in the place of an element; ok is false when the
// element differs at what a page may not change.
func (k *known) use(src []byte, n *markup.Node) (string, bool) {
	list, elems := slots(src, n), elements(n)
	if len(list) != len(k.list) || len(elems) != len(k.elems) {
		return "", false
	}
	own, ruled, whole := map[string]bool{}, map[string]bool{}, map[*markup.Node]bool{}
	id := func(n *markup.Node, attr string) string { return fmt.Sprint(n.Start.Start, " ", attr) }
	var values strings.Builder
	for e, x := range k.elems {
		for _, b := range markup.Bindings(k.src, x, "data-fill") {
			own[id(x, b.Target)] = true
			value, same := elems[e].Value(b.Target), x.Value(b.Target)
			if b.Target == "text" {
				whole[x] = true
				value, same = string(elems[e].Inner.Of(src)), string(x.Inner.Of(k.src))
			} else {
				value, same = markup.EscapeText(value), markup.EscapeText(same)
			}
			if value != same {
				values.WriteString(`<cp-value for="` + b.Name + `">` + value + `</cp-value>`)
			}
		}
		for _, attr := range []string{"data-current", "data-current-within"} {
			for _, b := range markup.Bindings(k.src, x, attr) {
				ruled[id(x, b.Target)] = true
			}
		}
	}
	for i, s := range k.list {
		covered := false
		for up := s.node; up != nil && up != k.elems[0].Parent; up = up.Parent {
			covered = covered || whole[up] && (up != s.node || s.attr == "")
		}
		if covered || own[id(s.node, s.attr)] || ruled[id(s.node, s.attr)] {
			continue
		}
		if list[i].value != s.value || list[i].has != s.has {
			return "", false
		}
	}
	if k.Role != "" {
		return `<cp-part role="` + string(k.Role) + `">` + values.String() + "</cp-part>", true
	}
	return `<cp-section name="` + k.Address.Key + `">` + values.String() + "</cp-section>", true
}
