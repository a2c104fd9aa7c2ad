package edit

import (
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// link makes links of words and pictures, ends them, and gives elements the anchors that links lead to.
func (e *editor) link(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	in := " in " + p.head.Address.String()
	switch op.Op {
	case LinkAdd:
		return "made a link" + in, e.addLink(p, op.Value)
	case LinkEnd:
		if p.own.Tag != "a" || !p.own.Closed {
			return "", refuse("<%s> is no link with an end tag of its own", says.TagName(p.own.Tag))
		}
		return "ended a link" + in, e.change(p, span.Edit{Span: p.own.Start}, span.Edit{Span: p.own.End})
	default:
		id, err := e.anchor(p, op.Value)
		return "links can lead to " + op.Page + "#" + id, err
	}
}

// interactive are elements that nothing interactive may stand within (HTML, section 4.5.1).
var interactive = []string{"a", "button", "details", "embed", "iframe", "input", "label", "select", "textarea"}

// wholly are elements that a link can stand around; in others it stands around what they hold.
var wholly = []string{"img", "picture", "figure", "svg"}

func (e *editor) addLink(p *pointed, to string) error {
	if err := e.canLead(to); err != nil {
		return err
	}
	if err := p.whole(); err != nil {
		return err
	}
	for n := p.shown; n != nil; n = n.Parent {
		if slices.Contains(interactive, n.Tag) {
			return refuse("it stands in <%s>, where no link can stand", says.TagName(n.Tag))
		}
	}
	at := p.own.Inner
	switch {
	case slices.Contains(wholly, p.own.Tag):
		at = p.own.Outer()
	case markup.IsVoid(p.own.Tag) || at.Len() == 0:
		return refuse("<%s> holds nothing that could lead somewhere", says.TagName(p.own.Tag))
	}
	if n := holds(p.shown, interactive); n != nil {
		return refuse("it holds <%s>, which cannot stand in a link", says.TagName(n.Tag))
	}
	return e.change(p,
		span.Edit{Span: span.Span{Start: at.Start, End: at.Start},
			New: []byte(`<a href="` + markup.EscapeAttr(to) + `">`)},
		span.Edit{Span: span.Span{Start: at.End, End: at.End}, New: []byte("</a>")})
}

// holds gives an element of some tags within another; nil where there is none.
func holds(n *markup.Node, tags []string) *markup.Node {
	for _, c := range n.Children {
		if slices.Contains(tags, c.Tag) {
			return c
		}
		if found := holds(c, tags); found != nil {
			return found
		}
	}
	return nil
}

// anchor gives an element an id, after its heading where none is named. One that it has stays: links lead
// to it.
func (e *editor) anchor(p *pointed, id string) (string, error) {
	if has := p.shown.Value("id"); has != "" {
		if id != "" && id != has {
			return "", refuse("it has the anchor %s, and links may lead to it", has)
		}
		return has, nil
	}
	if n := 0; p.head.Address.Kind != item.Page {
		for _, o := range p.page.Map.Occurrences {
			if o.Item == p.head.Address {
				n++
			}
		}
		if n > 1 {
			return "", refuse("%s stands on the page more than once: make it an own copy first", p.head.Address)
		}
	}
	taken := map[string]bool{}
	for _, n := range markup.Parse(p.page.Body, "").All {
		taken[n.Value("id")] = true
	}
	for own := range idsOf(p.src) {
		taken[own] = true
	}
	switch {
	case id == "":
		heading := headingOf(p.shown)
		if heading == "" {
			return "", refuse("it has no heading: name the anchor")
		}
		id = free(taken, item.MakeKey(heading))
	case id != item.MakeKey(id):
		return "", refuse("an anchor is made of a-z, 0-9 and -, as %s", item.MakeKey(id))
	case taken[id]:
		return "", refuse("the page has an anchor %s already", id)
	}
	return id, e.change(p, markup.SetAttr(p.own, "id", id))
}
