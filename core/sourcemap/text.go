// Package sourcemap says of every byte of a composed text where it came from.
//
// A page is put together from spans of sources by few operations: take a source, slice,
// concatenate, edit. A Text carries its segments through these, so that nothing is ever found
// again by searching for it. Without a Recorder a Text is its bytes alone, and costs nothing
// more than they do.
package sourcemap

import (
	"fmt"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/span"
)

// Kind says how a segment came about. The set is closed.
type Kind string

// The kinds of segments.
const (
	Copied  Kind = "copied"  // bytes as they stand in a source
	Encoded Kind = "encoded" // a value written in another form, which can be decoded uniquely
	Address Kind = "address" // a reference, written as visitors get it
	Made    Kind = "made"    // what the engine wrote itself
)

// Kinds lists all of them.
var Kinds = []Kind{Copied, Encoded, Address, Made}

// Place is a span of a source, in one of its occurrences on a page.
type Place struct {
	// Occurrence is the number of the use that brought the source.
	Occurrence int `json:"occurrence"`
	// Field is the metadata field that the value is of; empty: the content, in which Span lies.
	Field string    `json:"field,omitempty"`
	Span  span.Span `json:"span"`
}

// Segment is a run of bytes of one origin.
type Segment struct {
	span.Span
	Kind Kind `json:"kind"`
	// Place is where the bytes stand in a source; meaningless for what was made.
	Place Place `json:"place"`
	Codec Codec `json:"codec,omitempty"` // of Encoded
	// Reason says why something was made, and Inputs what the engine looked at.
	Reason string         `json:"reason,omitempty"`
	Inputs []item.Address `json:"inputs,omitempty"`
}

// piece gives the part of a segment between two offsets of its text, shifted by n.
func (s Segment) piece(from, to, n int) Segment {
	if s.Kind == Copied { // others cannot be told apart within
		s.Place.Span = span.Span{Start: s.Place.Span.Start + from - s.Start, End: s.Place.Span.Start + to - s.Start}
	}
	s.Span = span.Span{Start: from + n, End: to + n}
	return s
}

// Text is bytes with their segments, which tile them without a gap; none when nobody asks.
type Text struct {
	Bytes    []byte
	Segments []Segment
}

// Slice gives a part of a text.
func (t Text) Slice(at span.Span) Text {
	out := Text{Bytes: at.Of(t.Bytes)}
	if t.Segments == nil {
		return out
	}
	out.Segments = t.between(at, nil, -at.Start)
	return out
}

// between appends the segments of a span, shifted by n.
func (t Text) between(at span.Span, out []Segment, n int) []Segment {
	first := sort.Search(len(t.Segments), func(i int) bool { return t.Segments[i].End > at.Start })
	for _, s := range t.Segments[first:] {
		if s.Start >= at.End {
			break
		}
		from, to := max(s.Start, at.Start), min(s.End, at.End)
		if from < to {
			out = append(out, s.piece(from, to, n))
		}
	}
	return out
}

// Concat puts texts behind each other.
func Concat(list ...Text) Text {
	var out Text
	size := 0
	for _, t := range list {
		size += len(t.Bytes)
	}
	out.Bytes = make([]byte, 0, size)
	for _, t := range list {
		for _, s := range t.Segments {
			out.Segments = append(out.Segments, s.piece(s.Start, s.End, len(out.Bytes)))
		}
		out.Bytes = append(out.Bytes, t.Bytes...)
	}
	return out
}

// Edit puts New in the place of a span.
type Edit struct {
	span.Span
	New Text
}

// Outermost leaves out the edits of what another edit replaces or reaches into: of two that overlap the one stays
// that begins first, of those the longer. Source and tree can nest differently where tags are left out or
// misplaced, and what stands within something that is written anew is that one's own business.
func Outermost(edits []Edit) []Edit {
	sorted := append([]Edit(nil), edits...)
	sort.SliceStable(sorted, func(i, j int) bool {
		if sorted[i].Start != sorted[j].Start {
			return sorted[i].Start < sorted[j].Start
		}
		// What is put in at a place stands before what replaces something from there on.
		iPut, jPut := sorted[i].Start == sorted[i].End, sorted[j].Start == sorted[j].End
		return iPut && !jPut || !iPut && !jPut && sorted[i].End > sorted[j].End
	})
	out, end := sorted[:0], 0
	for _, e := range sorted {
		if e.Start >= end && e.End >= e.Start {
			out = append(out, e)
			end = e.End
		}
	}
	return out
}

// Apply makes all edits at once, as span.Apply does.
func (t Text) Apply(edits []Edit) (Text, error) {
	if len(edits) == 0 {
		return t, nil
	}
	sorted := append([]Edit(nil), edits...)
	sort.SliceStable(sorted, func(i, j int) bool {
		if sorted[i].Start != sorted[j].Start {
			return sorted[i].Start < sorted[j].Start
		}
		return sorted[i].End < sorted[j].End
	})
	size := len(t.Bytes)
	for _, e := range sorted {
		size += len(e.New.Bytes)
	}
	out, at := Text{Bytes: make([]byte, 0, size)}, 0
	for _, e := range sorted {
		if e.Start < at || e.End < e.Start || e.End > len(t.Bytes) {
			return Text{}, fmt.Errorf("edit of bytes %d to %d overlaps another or lies outside the text of %d bytes",
				e.Start, e.End, len(t.Bytes))
		}
		if t.Segments != nil {
			out.Segments = t.between(span.Span{Start: at, End: e.Start}, out.Segments, len(out.Bytes)-at)
		}
		out.Bytes = append(out.Bytes, t.Bytes[at:e.Start]...)
		for _, s := range e.New.Segments {
			out.Segments = append(out.Segments, s.piece(s.Start, s.End, len(out.Bytes)))
		}
		out.Bytes = append(out.Bytes, e.New.Bytes...)
		at = e.End
	}
	if t.Segments != nil {
		out.Segments = t.between(span.Span{Start: at, End: len(t.Bytes)}, out.Segments, len(out.Bytes)-at)
	}
	out.Bytes = append(out.Bytes, t.Bytes[at:]...)
	return out, nil
}

// From gives the place of a span that lies in one segment; ok is false where it does not, or
// where that was made.
func (t Text) From(at span.Span) (Place, bool) {
	s, ok := t.segment(at)
	if !ok || s.Kind != Copied {
		return Place{}, false
	}
	return s.piece(at.Start, at.End, 0).Place, true
}

// segment gives the one that a span lies in.
func (t Text) segment(at span.Span) (Segment, bool) {
	i := sort.Search(len(t.Segments), func(i int) bool { return t.Segments[i].End > at.Start })
	if i == len(t.Segments) || t.Segments[i].Start > at.Start || at.End > t.Segments[i].End {
		return Segment{}, false
	}
	return t.Segments[i], true
}
