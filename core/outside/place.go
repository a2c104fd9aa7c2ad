package outside

import (
	"bytes"
	"fmt"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// target is a place in a source.
type target struct {
	item  item.Address
	field string // of the metadata; empty: the content
	span  span.Span
}

// edit is a hunk with its place in a source.
type edit struct {
	target
	new        []byte
	page       *page
	hunk       Hunk
	occurrence int
	state      State // "": nothing is decided
	why        string
	copied     bool // carried into a copy of its own
}

// line is the report of one edit.
func (c *carrier) line(p *page, h Hunk, a item.Address, state State, why string) Line {
	return Line{Path: p.now, Line: p.line(h.New.Start), End: p.line(h.New.End), Item: a, State: state,
		Before: blend.Brief(string(h.Old.Of(p.from.Body))),
		After:  blend.Brief(string(h.New.Of(p.text))), Why: why}
}

// place finds where a hunk goes, or reports that it has no one place.
func (c *carrier) place(p *page, h Hunk) {
	e, why, err := c.locate(p, h)
	if err != nil {
		why = err.Error()
	}
	if why != "" {
		a := item.Address{}
		if s, ok := p.from.At(h.Old.Start); ok {
			a, _ = p.from.Item(s)
		}
		c.say(c.line(p, h, a, NotTaken, why))
		p.rest = append(p.rest, h)
		return
	}
	e.page, e.hunk = p, h
	p.edits = append(p.edits, e)
}

// locate gives a hunk's place in a source; why says what is in the way.
func (c *carrier) locate(p *page, h Hunk) (e *edit, why string, err error) {
	if h.Old.Len() == 0 {
		return c.locateInsertion(p, h)
	}
	var run []sourcemap.Segment
	for at := h.Old.Start; at < h.Old.End; {
		s, _ := p.from.At(at)
		if s.Kind == sourcemap.Made {
			return nil, made(s), nil
		}
		run = append(run, cut(s, h.Old))
		at = s.End
	}
	first, last := run[0], run[len(run)-1]
	a, _ := p.from.Item(first)
	e = &edit{target: target{item: a, field: first.Place.Field,
		span: span.Span{Start: first.Place.Span.Start, End: last.Place.Span.End}}, occurrence: first.Place.Occurrence}
	if len(run) == 1 && first.Kind == sourcemap.Encoded {
		value, ok := first.Codec.Value(string(h.New.Of(p.text)))
		if !ok {
			return nil, "it became markup, and its source holds a plain value", nil
		}
		e.new = []byte(first.Codec.Source(value))
		return e, "", nil
	}
	for i, s := range run {
		if s.Kind == sourcemap.Encoded || s.Place.Occurrence != first.Place.Occurrence ||
			s.Place.Field != first.Place.Field ||
			i > 0 && s.Place.Span.Start != run[i-1].Place.Span.End {
			b, _ := p.from.Item(s)
			return nil, fmt.Sprintf("it reaches across what comes from %s and from %s", a, b), nil
		}
	}
	if first.Kind == sourcemap.Address && len(run) == 1 && first.Codec != "" { // of a value
		text, err := c.inSources(p, h.New)
		if err != nil {
			return nil, "", err
		}
		value, ok := first.Codec.Value(string(text))
		if !ok {
			return nil, "it became markup, and its source holds a plain value", nil
		}
		e.new = []byte(first.Codec.Source(value))
		return e, "", nil
	}
	e.new, err = c.inSources(p, h.New)
	return e, "", err
}

// cut gives the part of a segment that lies in a span.
func cut(s sourcemap.Segment, at span.Span) sourcemap.Segment {
	if s.Kind == sourcemap.Copied {
		lead, tail := max(0, at.Start-s.Start), max(0, s.End-at.End)
		s.Place.Span.Start, s.Place.Span.End = s.Place.Span.Start+lead, s.Place.Span.End-tail
	}
	return s
}

// made says of a segment that the engine writes it.
func made(s sourcemap.Segment) string {
	why := "publishing writes it (" + s.Reason + ")"
	var from []string
	for _, a := range s.Inputs {
		if !a.IsZero() {
			from = append(from, a.String())
		}
	}
	if len(from) > 0 {
		why += ", from " + strings.Join(from, ", ")
	}
	return why
}

// locateInsertion gives the place of what was put in between two bytes: where both are of one
// source and follow on each other there; else in the source of the innermost element around.
func (c *carrier) locateInsertion(p *page, h Hunk) (*edit, string, error) {
	at := h.Old.Start
	left, hasLeft := p.from.At(at - 1)
	right, hasRight := p.from.At(at)
	end := func(s sourcemap.Segment) int { return cut(s, span.Span{Start: s.Start, End: at}).Place.Span.End }
	start := func(s sourcemap.Segment) int { return cut(s, span.Span{Start: at, End: s.End}).Place.Span.Start }
	plain := func(s sourcemap.Segment, ok bool) bool {
		return ok && (s.Kind == sourcemap.Copied || s.Kind == sourcemap.Address && s.Codec == "")
	}
	l, r := plain(left, hasLeft && at > 0), plain(right, hasRight)
	pick := func(s sourcemap.Segment, offset int) (*edit, string, error) {
		a, _ := p.from.Item(s)
		text, err := c.inSources(p, h.New)
		return &edit{target: target{item: a, field: s.Place.Field, span: span.Span{Start: offset, End: offset}},
			new: text, occurrence: s.Place.Occurrence}, "", err
	}
	if l && r && left.Place.Occurrence == right.Place.Occurrence && end(left) == start(right) {
		return pick(left, end(left))
	}
	around, ok := p.around(at)
	switch {
	case !ok && !hasLeft && r:
		return pick(right, start(right))
	case !ok && !hasRight && l:
		return pick(left, end(left))
	case ok && l && left.Place.Occurrence == around.Place.Occurrence:
		return pick(left, end(left))
	case ok && r && right.Place.Occurrence == around.Place.Occurrence:
		return pick(right, start(right))
	}
	if ok && around.Kind != sourcemap.Made {
		a, _ := p.from.Item(around)
		return nil, fmt.Sprintf("it stands between what the engine puts around %s, where that has no place", a), nil
	}
	return nil, "it stands where no source has a place", nil
}

// around gives the segment of the start tag of the innermost element around an offset.
func (p *page) around(at int) (sourcemap.Segment, bool) {
	if p.slug == "" {
		return sourcemap.Segment{}, false
	}
	if p.tree == nil {
		p.tree = markup.Parse(p.from.Body, "")
	}
	var inner *markup.Node
	for _, n := range p.tree.All {
		if n.Own && n.Start.End <= at && (!n.Closed || at <= n.End.Start) && n.Inner.Start <= at && at <= n.Inner.End {
			inner = n
		}
	}
	if inner == nil {
		return sourcemap.Segment{}, false
	}
	return p.from.At(inner.Start.Start)
}

// phrases puts changed words together that stand side by side in one segment: a person reads them
// as one edit.
func (p *page) phrases(hunks []Hunk) []Hunk {
	var out []Hunk
	for _, h := range hunks {
		if n := len(out) - 1; n >= 0 {
			gap := span.Span{Start: out[n].Old.End, End: h.Old.Start}
			one, okOne := p.from.At(out[n].Old.Start)
			two, okTwo := p.from.At(h.Old.End - 1)
			if okOne && okTwo && one.Start == two.Start && len(bytes.TrimSpace(gap.Of(p.from.Body))) == 0 {
				out[n].Old.End, out[n].New.End = h.Old.End, h.New.End
				continue
			}
		}
		out = append(out, h)
	}
	return out
}
