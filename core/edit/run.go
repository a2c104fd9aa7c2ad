package edit

import (
	"bytes"

	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"

	"golang.org/x/net/html"
)

// run writes other words between the elements that an element holds, or in place of a part of its words:
// what is not replaced stays as it is written.
func (e *editor) run(p *pointed, op Operation) (string, error) {
	n, i := p.shown, max(op.Run, 1)-1
	if i > len(n.Children) || op.Run < 0 {
		return "", refuse("<%s> holds %d runs of words", says.TagName(n.Tag), len(n.Children)+1)
	}
	at := n.Inner
	for k, c := range n.Children {
		if k != i-1 && k != i {
			continue
		}
		if !c.Own || k == i-1 && !c.Closed && !markup.IsVoid(c.Tag) {
			return "", refuse("<%s> in it has no end tag in its source: edit the source", says.TagName(c.Tag))
		}
		if k == i-1 {
			at.Start = c.Outer().End
		}
		if k == i {
			at.End = c.Outer().Start
		}
	}
	raw := at.Of(p.page.Body)
	switch {
	case markup.IsVoid(n.Tag) || n.Tag == "script" || n.Tag == "style" || at.End < at.Start:
		return "", refuse("<%s> holds no words", says.TagName(n.Tag))
	case bytes.ContainsRune(raw, '<'):
		return "", refuse("a comment stands between the words: edit the source")
	}
	places := markup.CodePoints(raw)
	to := len(places) - 1
	if op.To != nil {
		to = *op.To
	}
	if op.From < 0 || op.From > to || to > len(places)-1 {
		return "", refuse("the words are %d characters long: %d to %d is not within them", len(places)-1, op.From, to)
	}
	part := span.Span{Start: at.Start + places[op.From], End: at.Start + places[to]}
	of := part.Start
	if part.Len() == 0 { // new words go on from what stands before them
		of--
	}
	seg, ok := p.page.Map.At(of)
	if ok && seg.Kind == sourcemap.Encoded && seg.Start <= part.Start && part.End <= seg.End {
		body := p.page.Body // the value is written anew as a whole
		value := unescaped(body[seg.Start:part.Start]) + op.Value + unescaped(body[part.End:seg.End])
		return e.write(p, seg, seg.Span, value, markup.EscapeText)
	}
	whole := ok && seg.Start == part.Start && seg.End == part.End
	if !ok || seg.End < part.End || seg.Kind != sourcemap.Copied && !whole {
		return "", refuse("its words come from several places: edit the source")
	}
	return e.write(p, seg, part, op.Value, markup.EscapeText)
}

// unescaped gives words as a reader sees them.
func unescaped(raw []byte) string { return html.UnescapeString(string(raw)) }
