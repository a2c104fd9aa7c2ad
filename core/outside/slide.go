package outside

import (
	"bytes"

	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// slid moves what was only put in, or only taken away, to where it fits best among the places at
// which it means the same: within one segment, as whole elements, in the least shared source, and
// of these the latest.
func (p *page) slid(hunks []Hunk) []Hunk {
	out := make([]Hunk, 0, len(hunks))
	for i, h := range hunks {
		low, high := 0, len(p.from.Body)
		if i > 0 {
			low = out[i-1].Old.End
		}
		if i+1 < len(hunks) {
			high = hunks[i+1].Old.Start
		}
		if (h.Old.Len() == 0) != (h.New.Len() == 0) {
			h = p.slide(h, low, high)
		}
		out = append(out, h)
	}
	return out
}

// maxSlide bounds how far a hunk is moved, in bytes.
const maxSlide = 64 << 10

func (p *page) slide(h Hunk, low, high int) Hunk {
	src, moved := p.text, h.New
	if h.New.Len() == 0 {
		src, moved = p.from.Body, h.Old
	}
	least, most := 0, 0 // how far to the left and to the right
	for n := 1; n <= maxSlide && h.Old.Start-n >= low && src[moved.Start-n] == src[moved.End-n]; n++ {
		least = -n
	}
	for n := 1; n <= maxSlide && h.Old.End+n <= high && moved.End+n <= len(src) &&
		src[moved.Start+n-1] == src[moved.End+n-1]; n++ {
		most = n
	}
	best, at := -1, 0
	for n := most; n >= least; n-- {
		if k := p.fits(src, moved.Shift(n), Hunk{h.Old.Shift(n), h.New.Shift(n)}); k > best {
			best, at = k, n
		}
	}
	return Hunk{h.Old.Shift(at), h.New.Shift(at)}
}

// fits says how well a hunk lies: the higher, the better.
func (p *page) fits(src []byte, moved span.Span, h Hunk) int {
	if !wordEdge(src, moved.Start) || !wordEdge(src, moved.End) {
		return -1 // within a word, or a character
	}
	score := 0
	left, l := p.from.At(h.Old.Start - 1)
	right, r := p.from.At(h.Old.End)
	if h.Old.Len() > 0 {
		first, _ := p.from.At(h.Old.Start)
		last, _ := p.from.At(h.Old.End - 1)
		if first.Kind == sourcemap.Copied && first.Start == last.Start {
			score += 4
		} else if first.Kind != sourcemap.Made && last.Kind != sourcemap.Made &&
			first.Place.Occurrence == last.Place.Occurrence {
			score += 3
		}
	} else if l && r && left.Start == right.Start && left.Kind == sourcemap.Copied {
		score += 4
	}
	text := bytes.TrimSpace(moved.Of(src))
	if len(text) > 0 && text[0] == '<' && text[len(text)-1] == '>' {
		score += 2
		if text[1] != '/' {
			score += 2
		}
		if src[moved.Start] == '<' || isSpace(src[moved.Start]) && moved.Start > 0 && src[moved.Start-1] == '>' {
			score++
		}
	}
	return score
}

// wordEdge tells that a new word begins at an offset: never between two bytes of one word.
func wordEdge(src []byte, at int) bool {
	return at == 0 || at == len(src) || !isWord(src[at-1]) || !isWord(src[at])
}
