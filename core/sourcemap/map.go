package sourcemap

import (
	"slices"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/span"
)

// Map is a page with its origins.
type Map struct {
	Body        []byte
	Segments    []Segment
	Occurrences []Occurrence
}

// Map gives the map of a finished text.
func (r *Recorder) Map(t Text) *Map {
	if r == nil {
		return nil
	}
	return &Map{Body: t.Bytes, Segments: t.Segments, Occurrences: r.Occurrences}
}

// At gives the segment of a byte; false behind the end.
func (m *Map) At(offset int) (Segment, bool) {
	i := m.index(offset)
	if i == len(m.Segments) || offset < 0 {
		return Segment{}, false
	}
	return m.Segments[i], true
}

func (m *Map) index(offset int) int {
	return sort.Search(len(m.Segments), func(i int) bool { return m.Segments[i].End > offset })
}

// Item gives the item that a segment's bytes are of.
func (m *Map) Item(s Segment) (item.Address, bool) {
	if s.Kind == Made || s.Place.Occurrence >= len(m.Occurrences) {
		return item.Address{}, false
	}
	return m.Occurrences[s.Place.Occurrence].Item, true
}

// Chain gives the uses that brought an occurrence, the page first.
func (m *Map) Chain(occurrence int) []Occurrence {
	var out []Occurrence
	for n := occurrence; n >= 0 && n < len(m.Occurrences); n = m.Occurrences[n].Parent {
		out = append(out, m.Occurrences[n])
	}
	slices.Reverse(out)
	return out
}

// Covered gives the spans of the page between the first and the last byte of a span of an
// item's content, with all that stands within it, one for each occurrence.
func (m *Map) Covered(a item.Address, at span.Span) []span.Span {
	places := map[int]span.Span{}
	var order []int
	for _, s := range m.Segments {
		if s.Kind == Made || s.Place.Field != "" || m.Occurrences[s.Place.Occurrence].Item != a {
			continue
		}
		p := s.Place.Span
		if p.Start >= at.End || p.End <= at.Start {
			continue
		}
		shown := s.Span
		if s.Kind == Copied {
			shown = span.Span{Start: s.Start + max(0, at.Start-p.Start), End: s.End - max(0, p.End-at.End)}
		}
		all, ok := places[s.Place.Occurrence]
		if !ok {
			all = shown
			order = append(order, s.Place.Occurrence)
		}
		all.End = shown.End
		places[s.Place.Occurrence] = all
	}
	var out []span.Span
	for _, n := range order {
		out = append(out, places[n])
	}
	return out
}

// Stands gives the places of an item on the page, with all that stands within it, one for each
// occurrence.
func (m *Map) Stands(a item.Address) []span.Span {
	within := make([]int, len(m.Occurrences)) // the outermost occurrence of the item; -1: none
	var order []int
	for n, o := range m.Occurrences { // parents come first
		within[n] = -1
		if o.Parent >= 0 {
			within[n] = within[o.Parent]
		}
		if within[n] < 0 && o.Item == a {
			within[n] = n
			order = append(order, n)
		}
	}
	places := map[int]span.Span{}
	for _, s := range m.Segments {
		if s.Kind == Made {
			continue
		}
		n := within[s.Place.Occurrence]
		if n < 0 {
			continue
		}
		at, ok := places[n]
		if !ok {
			at = s.Span
		}
		at.End = s.End
		places[n] = at
	}
	var out []span.Span
	for _, n := range order {
		if at, ok := places[n]; ok {
			out = append(out, at)
		}
	}
	return out
}
