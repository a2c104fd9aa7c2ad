package edit

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// text writes other words into an element: where the page has them from, so that the words of a
// section's own values, of a menu or of a title are changed there.
func (e *editor) text(op Operation) (string, error) {
	p, err := e.pointText(op)
	if err != nil {
		return "", err
	}
	inner := p.shown.Inner
	words := string(inner.Of(p.page.Body))
	if p.own != nil && len(strings.TrimSpace(words)) == 0 && p.own.Inner.Len() == inner.Len() {
		err := e.change(p, span.Edit{Span: p.own.Inner, New: []byte(markup.EscapeText(op.Value))})
		return "wrote words into " + p.head.Address.String(), err
	}
	seg, ok := p.page.Map.At(inner.Start)
	if !ok || seg.End < inner.End {
		return "", refuse("its words come from several places: edit the source")
	}
	return e.write(p, seg, inner, op.Value)
}

// pointText is point for an element whose words are asked for, which may be written by the engine.
func (e *editor) pointText(op Operation) (*pointed, error) {
	p, err := e.point(op.Page, op.Element)
	if _, refused := err.(refusal); refused { //nolint:errorlint // it is made here and never wrapped
		if p, err = e.shownOnly(op); err != nil {
			return nil, err
		}
	}
	switch {
	case err != nil:
		return nil, err
	case len(p.shown.Children) > 0:
		return nil, refuse("<%s> holds other elements: name the one with the words", p.shown.Tag)
	case markup.IsVoid(p.shown.Tag) || p.shown.Tag == "script" || p.shown.Tag == "style":
		return nil, refuse("<%s> holds no words", p.shown.Tag)
	}
	return p, nil
}

// write puts a value where a segment of the page has it from.
func (e *editor) write(p *pointed, seg sourcemap.Segment, at span.Span, value string) (string, error) {
	a, known := p.page.Map.Item(seg)
	if !known {
		return "", refuse("its words are written by the page engine (%s)", seg.Reason)
	}
	h, ok := e.over.Find(a)
	if !ok {
		return "", refuse("%s is not there", a)
	}
	says := fmt.Sprintf("wrote other words into %s", a)
	if seg.Place.Field != "" {
		if seg.Place.Field != "title" {
			return "", refuse("it shows the %s of %s", seg.Place.Field, a)
		}
		h.Meta.Title = value
		b, err := item.Read(e.over, h)
		if err != nil {
			return "", err
		}
		return says, e.put(h, b)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	place := seg.Place.Span
	var text string
	switch seg.Kind {
	case sourcemap.Copied:
		place = span.Span{Start: place.Start + at.Start - seg.Start, End: place.Start + at.End - seg.Start}
		text = markup.EscapeText(value)
	case sourcemap.Encoded:
		text = seg.Codec.Source(value)
	default:
		return "", refuse("its words are written by the page engine")
	}
	out, err := span.Apply(src, []span.Edit{{Span: place, New: []byte(text)}})
	if err != nil {
		return "", err
	}
	return says, e.put(h, out)
}
