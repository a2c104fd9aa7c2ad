package making

import (
	"fmt"
	"regexp"
	"strings"

	"compactparcel/core/capture"
	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// cut lays the picked element of an item beside it, as a block or section of its own,
// with the stylesheets of where it stands. Its place there is marked in homes, so that its
// rules are found as they apply there. It gives the page's slug; "" for other items.
func cut(o, homes *item.Over, p Pick) (slug string, err error) {
	if p.As.Kind != item.Block && p.As.Kind != item.Section {
		return "", fmt.Errorf("an element becomes a block or a section, not a %s", p.As.Kind)
	}
	if _, taken := o.Find(p.As); taken {
		return "", fmt.Errorf("the source has a %s of its own", p.As)
	}
	if !p.Address.Kind.IsMarkup() {
		return "", fmt.Errorf("a %s has no elements", p.Address.Kind)
	}
	h, _ := o.Find(p.Address)
	if x, cutBefore := homes.Changed(p.Address); cutBefore {
		h = x
	}
	src, err := item.Read(homes, h)
	if err != nil {
		return "", err
	}
	tree := markup.Parse(src, h.Meta.Context)
	n, err := css.QueryOne(tree, p.Element)
	if err != nil {
		return "", err
	}
	if !n.Own || n.Tag == "html" || n.Tag == "head" || n.Tag == "body" || inHead(n) {
		return "", fmt.Errorf("<%s> cannot stand alone as a piece of a page", n.Tag)
	}
	piece := item.Head{Address: p.As, Meta: item.Meta{Title: heading(n), Context: context(n)}}
	piece.Meta.Styles, err = capture.WornBy(o, h, tree, p.As.Key)
	if err != nil {
		return "", err
	}
	before, behind := render.Marks(p.As)
	at := n.Outer()
	marked, err := span.Apply(
		src,
		[]span.Edit{
			{Span: span.Span{Start: at.Start, End: at.Start}, New: []byte(before)},
			{Span: span.Span{Start: at.End, End: at.End}, New: []byte(behind)},
		},
	)
	if err != nil {
		return "", err
	}
	homes.Set(h, marked)
	o.Set(piece, unmarked(at.Of(src)))
	return h.Meta.Slug, nil
}

// CheckElement tells whether a pick names one element of an item that can be taken.
func CheckElement(src item.Collection, p Pick) error {
	over := item.NewOver(src)
	_, err := cut(over, item.NewOver(over), p)
	return err
}

// unmarked takes the marks of other picks out of a text.
func unmarked(b []byte) []byte { return placeMarks.ReplaceAll(b, nil) }

var placeMarks = regexp.MustCompile(`<!--cp-(from|to) [^>]*-->`)

func inHead(n *markup.Node) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == "head" {
			return true
		}
	}
	return false
}

// context is the element in which a fragment must be parsed to come out the same.
func context(n *markup.Node) string {
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
