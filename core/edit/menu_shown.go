package edit

import (
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// menuShows are the ways in which a menu can be shown.
var menuShows = map[string]string{"row": "row", "folded": "folded", "by-width": ""}

// menuShown lets a menu stand in a row, folded behind a word, or as the width asks for.
func (e *editor) menuShown(op Operation) (string, error) {
	way, known := menuShows[op.Value]
	if !known {
		return "", refuse("a menu is shown as row, folded or by-width")
	}
	p, err := e.shown(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if err := e.menuElement(p); err != nil {
		return "", err
	}
	edit := markup.SetAttr(p.own, "show", way)
	if a, has := p.own.Attr("show"); way == "" {
		if !has {
			return "it is so already", nil
		}
		edit = span.Edit{Span: a.All}
		edit.Start--
	}
	return "showed a menu in " + p.head.Address.String() + " " + op.Value, e.change(p, edit)
}

// menuElement finds the <cp-menu> in a source that an element of a page is written from: by what stands in
// it, which comes from a menu, or from that element's own attributes.
func (e *editor) menuElement(p *pointed) error {
	nav := p.shown
	for nav != nil && !(nav.Tag == "nav" && slices.Contains(nav.Classes(), "cp-menu")) {
		nav = nav.Parent
	}
	if nav == nil {
		return refuse("<%s> is no menu", says.TagName(p.shown.Tag))
	}
	m := p.page.Map
	for i := nav.Outer().Start; i < nav.Outer().End; {
		s, ok := m.At(i)
		if !ok {
			break
		}
		i = s.End
		if s.Kind == sourcemap.Made {
			continue
		}
		o := m.Occurrences[s.Place.Occurrence]
		at, in := s.Place.Span.Start, s.Place.Occurrence
		if o.Item.Kind == item.Menu {
			at, in = o.At.Start, o.Parent
		}
		if in < 0 {
			continue
		}
		h, ok := e.over.Find(m.Occurrences[in].Item)
		if !ok {
			continue
		}
		src, err := item.Read(e.over, h)
		if err != nil {
			return err
		}
		own := markup.Parse(src, h.Meta.Context).Find(func(n *markup.Node) bool {
			return n.Own && n.Tag == "cp-menu" && n.Outer().Start <= at && at < n.Outer().End
		})
		if own != nil {
			p.head, p.src, p.own, p.at = h, src, own, in
			return nil
		}
	}
	return refuse("nothing says by which element the menu is shown: edit the source")
}
