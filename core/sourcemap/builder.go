package sourcemap

import (
	"bytes"
	"slices"

	"compactparcel/core/item"
	"compactparcel/core/span"
)

// Builder writes a text piece by piece.
type Builder struct {
	r      *Recorder
	reason string
	inputs []item.Address
	text   Text
}

// Build begins a text of which the engine writes much itself, for a reason and from inputs.
func (r *Recorder) Build(reason string, inputs ...item.Address) *Builder {
	return &Builder{r: r, reason: reason, inputs: inputs}
}

// Made writes a text of the engine's own.
func (b *Builder) Made(text string) *Builder {
	if text == "" {
		return b
	}
	at := span.Span{Start: len(b.text.Bytes), End: len(b.text.Bytes) + len(text)}
	b.text.Bytes = append(b.text.Bytes, text...)
	if b.r == nil {
		return b
	}
	if n := len(b.text.Segments); n > 0 && b.text.Segments[n-1].Kind == Made &&
		b.text.Segments[n-1].Reason == b.reason {
		b.text.Segments[n-1].End = at.End
		return b
	}
	b.text.Segments = append(b.text.Segments, Segment{Span: at, Kind: Made, Reason: b.reason, Inputs: b.inputs})
	return b
}

// Add writes a text that came from elsewhere.
func (b *Builder) Add(t Text) *Builder {
	for _, s := range t.Segments {
		b.text.Segments = append(b.text.Segments, s.piece(s.Start, s.End, len(b.text.Bytes)))
	}
	b.text.Bytes = append(b.text.Bytes, t.Bytes...)
	return b
}

// Text is what was written.
func (b *Builder) Text() Text {
	return Text{Bytes: b.text.Bytes, Segments: slices.Clip(b.text.Segments)}
}

// TrimSpace leaves white space at both ends out.
func (t Text) TrimSpace() Text {
	from := len(t.Bytes) - len(bytes.TrimLeft(t.Bytes, " \t\r\n\f\v"))
	to := len(bytes.TrimRight(t.Bytes, " \t\r\n\f\v"))
	return t.Slice(span.Span{Start: min(from, to), End: to})
}

// TrimRight leaves characters at the end out.
func (t Text) TrimRight(cutset string) Text {
	return t.Slice(span.Span{End: len(bytes.TrimRight(t.Bytes, cutset))})
}
