package sourcemap

import (
	"compactparcel/core/item"
	"compactparcel/core/span"
)

// Occurrence is one use of an item on a page: the chain of uses that brought it there.
type Occurrence struct {
	Item item.Address `json:"item"`
	// Parent is the occurrence in whose source the use stands; -1 for what no source uses: the
	// page, and the parts around it.
	Parent int `json:"parent"`
	// At is the place of the use in the parent's content.
	At span.Span `json:"at"`
	// Row tells uses at one place apart: which of the repeated ones it is, from 0.
	Row int `json:"row"`
}

// Recorder makes the segments of a page. A nil one makes none.
type Recorder struct {
	Occurrences []Occurrence
}

// Enter notes the use of an item in another's source.
func (r *Recorder) Enter(a item.Address, parent int, at span.Span, row int) int {
	if r == nil {
		return 0
	}
	r.Occurrences = append(r.Occurrences, Occurrence{a, parent, at, row})
	return len(r.Occurrences) - 1
}

// Source is an item's content, in one of its occurrences.
func (r *Recorder) Source(b []byte, occurrence int) Text {
	return r.one(b, Segment{Kind: Copied, Place: Place{Occurrence: occurrence, Span: span.Span{End: len(b)}}})
}

// Made is what the engine wrote itself.
func (r *Recorder) Made(text, reason string, inputs ...item.Address) Text {
	return r.one([]byte(text), Segment{Kind: Made, Reason: reason, Inputs: inputs})
}

// Encoded is the value at a place, written in another form.
func (r *Recorder) Encoded(text string, at Place, codec Codec) Text {
	return r.one([]byte(text), Segment{Kind: Encoded, Place: at, Codec: codec})
}

// Referring is a reference of a text as an edit writes it for visitors.
func (t Text) Referring(r *Recorder, e span.Edit) Text {
	if r == nil {
		return Text{Bytes: e.New}
	}
	if place, ok := t.From(e.Span); ok {
		return r.one(e.New, Segment{Kind: Address, Place: place})
	}
	if s, ok := t.segment(e.Span); ok && s.Kind == Encoded && s.Span == e.Span {
		return r.one(e.New, Segment{Kind: Address, Place: s.Place, Codec: s.Codec})
	}
	return r.Made(string(e.New), "address")
}

func (r *Recorder) one(b []byte, s Segment) Text {
	if r == nil || len(b) == 0 {
		return Text{Bytes: b}
	}
	s.Span = span.Span{End: len(b)}
	return Text{Bytes: b, Segments: []Segment{s}}
}
