package edit

import (
	"bytes"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// shownBy gives the markup by which an item of the site is shown: a section, form or menu linked, a block
// as a copy, whose styles what holds it wears from then on, a picture by its address.
func (e *editor) shownBy(p *pointed, a item.Address) (string, error) {
	h, ok := e.over.Find(a)
	if !ok {
		return "", refuse("there is no %s", a)
	}
	name := markup.EscapeAttr(a.Key)
	switch a.Kind {
	case item.Section, item.Form, item.Menu:
		tag := "cp-" + string(a.Kind)
		return "<" + tag + ` name="` + name + `"></` + tag + ">", nil
	case item.Block:
		b, err := item.Read(e.over, h)
		p.head.Meta.Styles = withStyles(p.head.Meta.Styles, h.Meta.Styles...)
		return string(bytes.TrimSpace(b)), err
	case item.Media:
		return `<img src="/` + markup.EscapeAttr(a.Path()) + `" alt="` + markup.EscapeAttr(h.Meta.Title) + `">`, nil
	default:
		return "", refuse("a %s cannot stand in a page", a.Kind)
	}
}
