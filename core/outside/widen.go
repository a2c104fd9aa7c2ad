package outside

import (
	"bytes"
	"sort"

	"compactparcel/core/facts"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// A value and a reference are edited as a whole: hunks that change a part of one are widened to all
// of it, on either side, and those that then meet become one.

// wide is some hunks, one behind the other, with what is equal on both sides around them.
type wide struct {
	all         []Hunk
	first, last int // of all
	lead, tail  int // bytes before the first, and behind the last
}

func (w *wide) hunk() Hunk {
	a, b := w.all[w.first], w.all[w.last]
	return Hunk{span.Span{Start: a.Old.Start - w.lead, End: b.Old.End + w.tail},
		span.Span{Start: a.New.Start - w.lead, End: b.New.End + w.tail}}
}

// cover takes a span of one side in, and the hunks that it reaches.
func (w *wide) cover(s span.Span, side func(Hunk) span.Span) {
	for s.Start < side(w.hunk()).Start {
		if w.first > 0 && side(w.all[w.first-1]).End > s.Start {
			w.first, w.lead = w.first-1, 0
			continue
		}
		w.lead += side(w.hunk()).Start - s.Start
	}
	for s.End > side(w.hunk()).End {
		if w.last+1 < len(w.all) && side(w.all[w.last+1]).Start < s.End {
			w.last, w.tail = w.last+1, 0
			continue
		}
		w.tail += s.End - side(w.hunk()).End
	}
	// Those that the equal bytes around would reach into on the other side.
	for w.first > 0 && w.all[w.first].Old.Start-w.lead < w.all[w.first-1].Old.End {
		w.first, w.lead = w.first-1, 0
	}
	for w.last+1 < len(w.all) && w.all[w.last].Old.End+w.tail > w.all[w.last+1].Old.Start {
		w.last, w.tail = w.last+1, 0
	}
}

func oldSide(h Hunk) span.Span { return h.Old }
func newSide(h Hunk) span.Span { return h.New }

// widened gives the hunks of a page so that none cuts a value or a reference.
func (p *page) widened(hunks []Hunk) []Hunk {
	var refs []span.Span
	for _, e := range p.references(func(r facts.Ref) (string, bool) { return r.Name + "?", true }) {
		refs = append(refs, e.Span)
	}
	sort.Slice(refs, func(i, j int) bool { return refs[i].Start < refs[j].Start })
	var groups []wide
	for i := 0; i < len(hunks); i++ {
		w := wide{all: hunks, first: i, last: i}
		for again := true; again; {
			before := w
			p.coverValues(&w)
			coverCut(&w, refs)
			p.coverBeside(&w)
			again = w.first != before.first || w.last != before.last || w.lead != before.lead || w.tail != before.tail
		}
		for n := len(groups) - 1; n >= 0 && groups[n].last >= w.first; n = len(groups) - 1 {
			if groups[n].first < w.first {
				w.first, w.lead = groups[n].first, groups[n].lead
			} else if groups[n].first == w.first {
				w.lead = max(w.lead, groups[n].lead)
			}
			groups = groups[:n]
		}
		groups, i = append(groups, w), w.last
	}
	out := make([]Hunk, len(groups))
	for i, w := range groups {
		out[i] = w.hunk()
	}
	return out
}

// coverValues takes the values and references in that the old side cuts.
func (p *page) coverValues(w *wide) {
	at := w.hunk().Old
	list := p.from.Segments
	first := sort.Search(len(list), func(i int) bool { return list[i].End > at.Start })
	for _, s := range list[first:] {
		if s.Start >= at.End && (at.Len() > 0 || s.Start >= at.Start) {
			return
		}
		if (s.Kind == sourcemap.Encoded || s.Kind == sourcemap.Address) && (at.Len() > 0 || s.Start < at.Start) {
			w.cover(s.Span, oldSide)
		}
	}
}

// coverCut takes the references in that an end of the new side cuts.
func coverCut(w *wide, refs []span.Span) {
	at := w.hunk().New
	first := sort.Search(len(refs), func(i int) bool { return refs[i].End > at.Start })
	for _, r := range refs[first:] {
		if r.Start >= at.End && r.Start >= at.Start {
			return
		}
		if r.Start < at.Start && at.Start < r.End || r.Start < at.End && at.End < r.End {
			w.cover(r, newSide)
		}
	}
}

// coverBeside takes the value in that plain text was put behind or before, where the engine writes
// what is on the other side.
func (p *page) coverBeside(w *wide) {
	h := w.hunk()
	if h.Old.Len() > 0 || bytes.ContainsAny(h.New.Of(p.text), "<>\"'") {
		return
	}
	left, l := p.from.At(h.Old.Start - 1)
	right, r := p.from.At(h.Old.Start)
	switch {
	case l && left.Kind == sourcemap.Encoded && (!r || right.Kind == sourcemap.Made):
		w.cover(left.Span, oldSide)
	case r && right.Kind == sourcemap.Encoded && (!l || left.Kind == sourcemap.Made):
		w.cover(right.Span, oldSide)
	}
}
