package blend

import (
	"bytes"
	"slices"
	"strings"
)

// Hunk is one change between two texts: Old, with what stands around it, became New.
type Hunk struct {
	Old, New string
	Line     int // in the old text

	base     []string // the old text's tokens
	from, to int      // those that Old is of
}

// maxEdits bounds how many tokens may differ between two texts that are compared.
const maxEdits = 1500

// Hunks compares two texts by tags, words and white space (Myers, “An O(ND)
// Difference Algorithm and Its Variations”, 1986). ok is false when they have too
// little in common to be compared.
func Hunks(before, after []byte) (hunks []Hunk, ok bool) {
	a, b := tokens(before), tokens(after)
	lead := 0
	for lead < len(a) && lead < len(b) && a[lead] == b[lead] {
		lead++
	}
	trail := 0
	for trail < len(a)-lead && trail < len(b)-lead && a[len(a)-1-trail] == b[len(b)-1-trail] {
		trail++
	}
	keep, ok := common(a[lead:len(a)-trail], b[lead:len(b)-trail])
	if !ok {
		return nil, false
	}
	add := func(i, j, k, l int) {
		if i == j && k == l {
			return
		}
		line := 1 + strings.Count(strings.Join(a[:i], ""), "\n")
		hunks = append(hunks,
			Hunk{Old: strings.Join(a[i:j], ""), New: strings.Join(b[k:l], ""), Line: line, base: a, from: i, to: j})
	}
	i, k := lead, lead
	for _, p := range keep {
		add(i, lead+p[0], k, lead+p[1])
		i, k = lead+p[0]+1, lead+p[1]+1
	}
	add(i, len(a)-trail, k, len(b)-trail)
	return hunks, true
}

// tokens cuts a text at tags, words and white space.
func tokens(src []byte) []string {
	var out []string
	space := func(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }
	for i := 0; i < len(src); {
		k := i + 1
		switch {
		case src[i] == '<':
			if end := bytes.IndexByte(src[i:], '>'); end >= 0 {
				k = i + end + 1
			}
		case space(src[i]):
			for k < len(src) && space(src[k]) {
				k++
			}
		default:
			for k < len(src) && src[k] != '<' && !space(src[k]) {
				k++
			}
		}
		out = append(out, string(src[i:k]))
		i = k
	}
	return out
}

// common gives the pairs of places of a longest common subsequence.
func common(a, b []string) (pairs [][2]int, ok bool) {
	limit := min(len(a)+len(b), maxEdits)
	v := make([]int32, 2*limit+3) // v[limit+1+k] is how far diagonal k has come
	mid := limit + 1
	var trace [][]int32 // of each round its diagonals -d-1 to d+1
	for d := 0; d <= limit; d++ {
		trace = append(trace, append([]int32(nil), v[mid-d-1:mid+d+2]...))
		for k := -d; k <= d; k += 2 {
			x := v[mid+k-1] + 1
			if k == -d || k != d && v[mid+k-1] < v[mid+k+1] {
				x = v[mid+k+1]
			}
			y := x - int32(k)
			for int(x) < len(a) && int(y) < len(b) && a[x] == b[y] {
				x, y = x+1, y+1
			}
			v[mid+k] = x
			if int(x) >= len(a) && int(y) >= len(b) {
				return walkBack(trace, len(a), len(b), d), true
			}
		}
	}
	return nil, false
}

func walkBack(trace [][]int32, x, y, d int) [][2]int {
	var pairs [][2]int
	for ; d > 0; d-- {
		v := trace[d]
		k := x - y
		at := func(k int) int { return int(v[k+d+1]) }
		from := k - 1
		if k == -d || k != d && at(k-1) < at(k+1) {
			from = k + 1
		}
		px := at(from)
		py := px - from
		for x > px && y > py {
			x, y = x-1, y-1
			pairs = append(pairs, [2]int{x, y})
		}
		x, y = px, py
	}
	for x > 0 && y > 0 {
		x, y = x-1, y-1
		pairs = append(pairs, [2]int{x, y})
	}
	slices.Reverse(pairs)
	return pairs
}

// context is the most tokens on either side by which a hunk's place is told.
const context = 48

// Done tells whether the change stands in another text already.
func (h Hunk) Done(src []byte) bool {
	done := h
	done.Old = h.New
	_, ok := done.Apply(src)
	return ok
}

// Apply makes the change in another text, at the one place where what it replaces
// stands in its surroundings; ok is false when there is no such place, or several.
func (h Hunk) Apply(src []byte) (out []byte, ok bool) {
	for n := 2; n <= context; n *= 2 {
		for _, side := range [][2]int{{n, n}, {n, 0}, {0, n}} {
			if h.Old == "" && (side[0] == 0 || side[1] == 0) && n < 8 {
				continue // an insertion needs to know its place well
			}
			lead := strings.Join(h.base[max(0, h.from-side[0]):h.from], "")
			trail := strings.Join(h.base[h.to:min(len(h.base), h.to+side[1])], "")
			find := []byte(lead + h.Old + trail)
			if len(find) == 0 || bytes.Count(src, find) != 1 {
				continue
			}
			at := bytes.Index(src, find) + len(lead)
			out = append(append(append([]byte{}, src[:at]...), h.New...), src[at+len(h.Old):]...)
			return out, true
		}
	}
	return src, false
}

// Description tells of the change in a few words.
func (h Hunk) Description() string { return Brief(h.Old) + " became " + Brief(h.New) }
