// Package outside brings edits home that were made in a published folder.
//
// Each changed file is compared with what was published, and each difference is carried to the
// source that the map names for its bytes: by position, never by searching for a text. What has no
// one place in a source is reported, and not taken; and what was taken is proved by publishing
// again.
package outside

import (
	"bytes"

	"compactparcel/core/span"
)

// tokens cuts a text into words, runs of white space, character references and single other
// characters, so that tags, names of attributes, values and words are told apart.
func tokens(src []byte) []span.Span {
	out := make([]span.Span, 0, len(src)/4)
	for i := 0; i < len(src); {
		k := i + 1
		switch c := src[i]; {
		case isSpace(c):
			for k < len(src) && isSpace(src[k]) {
				k++
			}
		case isWord(c):
			for k < len(src) && isWord(src[k]) {
				k++
			}
		case c == '&':
			k = reference(src, i)
		}
		out = append(out, span.Span{Start: i, End: k})
		i = k
	}
	return out
}

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }

// isWord tells letters, digits and all bytes of characters beyond ASCII.
func isWord(c byte) bool {
	return c >= 0x80 || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '_'
}

// reference gives the end of a character reference that begins at i.
func reference(src []byte, i int) int {
	const longest = 33 // CounterClockwiseContourIntegral, with & and ;
	k := i + 1
	if k < len(src) && src[k] == '#' {
		k++
	}
	for k < len(src) && k < i+longest && src[k] < 0x80 && isWord(src[k]) {
		k++
	}
	if k < len(src) && src[k] == ';' && k > i+1 {
		return k + 1
	}
	return i + 1
}

// numbered are two texts' tokens as numbers, equal where the tokens are.
func numbered(a, b []byte, ta, tb []span.Span) (x, y []int32) {
	known := make(map[string]int32, len(ta))
	number := func(src []byte, list []span.Span) []int32 {
		out := make([]int32, len(list))
		for i, s := range list {
			n, ok := known[string(s.Of(src))]
			if !ok {
				n = int32(len(known))
				known[string(s.Of(src))] = n
			}
			out[i] = n
		}
		return out
	}
	return number(a, ta), number(b, tb)
}

// lines gives the first token of each line and the number of its text.
func lines(src []byte, list []span.Span, known map[string]int32) (first []int, text []int32) {
	at := 0
	for at < len(list) {
		end := at
		for end < len(list) && bytes.IndexByte(list[end].Of(src), '\n') < 0 {
			end++
		}
		if end < len(list) {
			end++
		}
		s := string(src[list[at].Start:list[end-1].End])
		n, ok := known[s]
		if !ok {
			n = int32(len(known))
			known[s] = n
		}
		first, text = append(first, at), append(text, n)
		at = end
	}
	return first, text
}

// row is a line of a text: its tokens, and its shape, in which all words are alike.
type row struct {
	from, to int
	shape    int32
}

// shapes gives the lines of a run of tokens, the first of which has the number n.
func shapes(src []byte, list []span.Span, n int, known map[string]int32) []row {
	var out []row
	var shape []byte
	from := 0
	end := func(to int) {
		id, ok := known[string(shape)]
		if !ok {
			id = int32(len(known))
			known[string(shape)] = id
		}
		out = append(out, row{n + from, n + to, id})
		from, shape = to, shape[:0]
	}
	for i, s := range list {
		text := s.Of(src)
		switch {
		case isWord(text[0]):
			shape = append(shape, 'w')
		case isSpace(text[0]):
			shape = append(shape, ' ')
		default:
			shape = append(shape, text...)
		}
		if bytes.IndexByte(text, '\n') >= 0 {
			end(i + 1)
		}
	}
	if from < len(list) {
		end(len(list))
	}
	return out
}
