// Package span names places in source text and edits them.
//
// Everything in Compact Parcel keeps the bytes a person gave; a change is a list
// of edits at byte offsets, and what no edit names stays byte for byte.
package span

import (
	"bytes"
	"fmt"
	"sort"
)

// Span is a half-open byte range [Start, End) of a source text.
type Span struct {
	Start int `json:"start"`
	End   int `json:"end"`
}

// Len is the number of bytes in the span.
func (s Span) Len() int { return s.End - s.Start }

// Of gives the bytes of src that the span names.
func (s Span) Of(src []byte) []byte { return src[s.Start:s.End] }

// Shift moves the span by n bytes.
func (s Span) Shift(n int) Span { return Span{s.Start + n, s.End + n} }

// Edit puts New in the place of Span.
type Edit struct {
	Span
	New []byte
}

// Apply makes all edits at once and gives a new text; src is not changed.
// Edits at one empty span are applied in the order given. Overlapping edits and
// edits outside the text are an error: the caller worked from another text.
func Apply(src []byte, edits []Edit) ([]byte, error) {
	if len(edits) == 0 {
		return append([]byte(nil), src...), nil
	}
	sorted := append([]Edit(nil), edits...)
	sort.SliceStable(sorted, func(i, j int) bool {
		if sorted[i].Start != sorted[j].Start {
			return sorted[i].Start < sorted[j].Start
		}
		return sorted[i].End < sorted[j].End
	})
	var out bytes.Buffer
	at := 0
	for _, e := range sorted {
		if e.Start < at || e.End < e.Start || e.End > len(src) {
			return nil, fmt.Errorf("edit of bytes %d to %d overlaps another or lies outside the text of %d bytes",
				e.Start, e.End, len(src))
		}
		out.Write(src[at:e.Start])
		out.Write(e.New)
		at = e.End
	}
	out.Write(src[at:])
	return out.Bytes(), nil
}

// Line gives the 1-based line and column (in bytes) of an offset.
func Line(src []byte, offset int) (line, column int) {
	if offset > len(src) {
		offset = len(src)
	}
	before := src[:offset]
	line = bytes.Count(before, []byte("\n")) + 1
	column = offset - (bytes.LastIndexByte(before, '\n') + 1) + 1
	return line, column
}
