package making

import (
	"fmt"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// cut lays the picked element of an item beside it, as a block or section of its own,
// with the stylesheets of where it stands. It gives its place there, so that its rules are
// found as they apply there.
func cut(o *item.Over, p Pick) (at capture.At, err error) {
	if p.As.Kind != item.Block && p.As.Kind != item.Section {
		return at, fmt.Errorf("an element becomes a block or a section, not a %s", p.As.Kind)
	}
	if _, taken := o.Find(p.As); taken {
		return at, fmt.Errorf("the source has a %s of its own", p.As)
	}
	if !p.Address.Kind.IsMarkup() {
		return at, fmt.Errorf("a %s has no elements", p.Address.Kind)
	}
	h, _ := o.Find(p.Address)
	src, err := item.Read(o, h)
	if err != nil {
		return at, err
	}
	tree := markup.Parse(src, h.Meta.Context)
	n, err := css.QueryOne(tree, p.Element)
	if err != nil {
		return at, err
	}
	if !n.Own || n.Tag == "html" || n.Tag == "head" || n.Tag == "body" || inHead(n) {
		return at, fmt.Errorf("<%s> cannot stand alone as a piece of a page", n.Tag)
	}
	piece := item.Head{Address: p.As, Meta: item.Meta{Title: heading(n), Context: contextOf(n)}}
	piece.Meta.Styles, err = capture.WornBy(o, h, tree, p.As.Key)
	if err != nil {
		return at, err
	}
	o.Set(piece, n.Outer().Of(src))
	return capture.At{Item: p.Address, Slug: h.Meta.Slug, Span: n.Outer()}, nil
}

// CheckElement tells whether a pick names one element of an item that can be taken.
func CheckElement(src item.Collection, p Pick) error {
	_, err := cut(item.NewOver(src), p)
	return err
}

func inHead(n *markup.Node) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == "head" {
			return true
		}
	}
	return false
}

// contextOf gives the element in which a fragment must be parsed to come out the same.
func contextOf(n *markup.Node) string {
	switch n.Tag {
	case "tr", "td", "th", "tbody", "thead", "tfoot", "caption", "colgroup", "col", "option", "optgroup":
		if n.Parent != nil {
			return n.Parent.Tag
		}
	}
	return ""
}

// heading is the text of an element's first heading.
func heading(n *markup.Node) string {
	if len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6' {
		return strings.Join(strings.Fields(n.Text()), " ")
	}
	for _, c := range n.Children {
		if t := heading(c); t != "" {
			return t
		}
	}
	return ""
}
