package edit

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// text writes other words into an element: where the page has them from, so that the words of a
// section's own values, of a menu or of a title are changed there.
func (e *editor) text(op Operation) (string, error) {
	p, err := e.shown(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if op.Run != 0 || op.From != 0 || op.To != nil {
		return e.run(p, op)
	}
	switch {
	case len(p.shown.Children) > 0:
		return "", refuse("<%s> holds other elements: name the one with the words, or the run of words (1 to %d)",
			says.TagName(p.shown.Tag), len(p.shown.Children)+1)
	case markup.IsVoid(p.shown.Tag) || p.shown.Tag == "script" || p.shown.Tag == "style":
		return "", refuse("<%s> holds no words", says.TagName(p.shown.Tag))
	}
	inner := p.shown.Inner
	words := string(inner.Of(p.page.Body))
	if len(strings.TrimSpace(words)) == 0 { // nothing says where from: beside its own start tag
		if err := e.source(p); err != nil {
			return "", err
		}
		if p.own.Inner.Len() != inner.Len() {
			return "", refuse("its words are written by the page engine")
		}
		err := e.change(p, span.Edit{Span: p.own.Inner, New: []byte(markup.EscapeText(op.Value))})
		return "wrote words into " + p.head.Address.String(), err
	}
	seg, ok := p.page.Map.At(inner.Start)
	if !ok || seg.End < inner.End {
		return "", refuse("its words come from several places: edit the source")
	}
	return e.write(p, seg, inner, op.Value, markup.EscapeText)
}

// write puts a value where a segment of the page has it from;
// escape writes it where the source is copied as it stands.
func (e *editor) write(
	p *pointed, seg sourcemap.Segment, at span.Span, value string, escape func(string) string,
) (string, error) {
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
		text = escape(value)
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
