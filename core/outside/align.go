package outside

import (
	"sort"

	"compactparcel/core/span"
)

// Hunk is one difference: Old of the published text became New of the edited one.
type Hunk struct{ Old, New span.Span }

// align compares two texts. Lines that stand once in both anchor (the patience rule, in their
// longest rising order); between them the tokens are compared (Myers, "An O(ND) Difference
// Algorithm and Its Variations", 1986, in linear space). The hunks lie between whole tokens, and
// in their order.
func align(before, after []byte) []Hunk {
	ta, tb := tokens(before), tokens(after)
	d := &differ{rows: func(i, j, k, l int) ([]row, []row) {
		known := map[string]int32{}
		return shapes(before, ta[i:j], i, known), shapes(after, tb[k:l], k, known)
	}}
	d.a, d.b = numbered(before, after, ta, tb)
	i, k := 0, 0
	for _, p := range anchors(before, after, ta, tb) {
		d.compare(i, p[0], k, p[1])
		i, k = p[0]+p[2], p[1]+p[2]
	}
	d.compare(i, len(d.a), k, len(d.b))
	place := func(list []span.Span, from, to, whole int) span.Span {
		s := span.Span{Start: whole, End: whole}
		if from < len(list) {
			s.Start = list[from].Start
		}
		if s.End = s.Start; to > from {
			s.End = list[to-1].End
		}
		return s
	}
	var out []Hunk
	for _, h := range d.hunks {
		out = append(out, Hunk{place(ta, h[0], h[1], len(before)), place(tb, h[2], h[3], len(after))})
	}
	return out
}

// anchors gives the tokens at which equal lines begin that stand once in both texts, and how many
// tokens they have, in an order that rises in both.
func anchors(before, after []byte, ta, tb []span.Span) [][3]int {
	known := map[string]int32{}
	fa, la := lines(before, ta, known)
	fb, lb := lines(after, tb, known)
	once := func(list []int32) map[int32]int {
		at := map[int32]int{}
		for i, n := range list {
			if _, twice := at[n]; twice {
				at[n] = -1
			} else {
				at[n] = i
			}
		}
		return at
	}
	inA, inB := once(la), once(lb)
	var pairs [][2]int
	for i, n := range la {
		if k, ok := inB[n]; ok && k >= 0 && inA[n] == i {
			pairs = append(pairs, [2]int{i, k})
		}
	}
	end := func(first []int, i, all int) int {
		if i+1 < len(first) {
			return first[i+1]
		}
		return all
	}
	var out [][3]int
	for _, p := range rising(pairs) {
		out = append(out, [3]int{fa[p[0]], fb[p[1]], end(fa, p[0], len(ta)) - fa[p[0]]})
	}
	return out
}

// rising gives the longest part of a list of pairs whose second numbers rise; the first do.
func rising(pairs [][2]int) [][2]int {
	var tails []int // of the best list of each length, the pair that ends it
	before := make([]int, len(pairs))
	for i, p := range pairs {
		n := sort.Search(len(tails), func(k int) bool { return pairs[tails[k]][1] >= p[1] })
		if before[i] = -1; n > 0 {
			before[i] = tails[n-1]
		}
		if n == len(tails) {
			tails = append(tails, i)
		} else {
			tails[n] = i
		}
	}
	if len(tails) == 0 {
		return nil
	}
	out := make([][2]int, len(tails))
	for i, n := tails[len(tails)-1], len(tails)-1; n >= 0; i, n = before[i], n-1 {
		out[n] = pairs[i]
	}
	return out
}

// differ compares runs of tokens.
type differ struct {
	a, b  []int32
	hunks [][4]int
	v     [2][]int32
	// rows gives the lines of two runs by their shapes; nil where these are compared already.
	rows func(i, j, k, l int) (a, b []row)
}

// maxRounds bounds the work for one run. One that differs in more is compared by the shapes of its
// lines, and where these differ in more, too, it is a single hunk, which is true of it as well.
const maxRounds = 3000

func (d *differ) compare(i, j, k, l int) {
	for i < j && k < l && d.a[i] == d.b[k] {
		i, k = i+1, k+1
	}
	for i < j && k < l && d.a[j-1] == d.b[l-1] {
		j, l = j-1, l-1
	}
	switch {
	case i == j && k == l:
		return
	case i == j || k == l:
		d.add(i, j, k, l)
		return
	}
	x, y, u, w, ok := d.middle(i, j, k, l)
	if !ok {
		d.byShape(i, j, k, l)
		return
	}
	d.compare(i, x, k, y)
	d.compare(u, j, w, l)
}

// byShape compares two runs line by line: lines of one shape are held against each other.
func (d *differ) byShape(i, j, k, l int) {
	if d.rows == nil {
		d.add(i, j, k, l)
		return
	}
	ra, rb := d.rows(i, j, k, l)
	of := func(list []row) []int32 {
		out := make([]int32, len(list))
		for n, r := range list {
			out[n] = r.shape
		}
		return out
	}
	lines := &differ{a: of(ra), b: of(rb)}
	lines.compare(0, len(ra), 0, len(rb))
	x, y := 0, 0
	same := func(to int) {
		for ; x < to; x, y = x+1, y+1 {
			rows := d.rows
			d.rows = nil // a line that differs in so much is one hunk
			d.compare(ra[x].from, ra[x].to, rb[y].from, rb[y].to)
			d.rows = rows
		}
	}
	for _, h := range lines.hunks {
		same(h[0])
		if x, y = h[1], h[3]; h[0] < h[1] || h[2] < h[3] {
			d.add(at(ra, h[0], j), at(ra, h[1], j), at(rb, h[2], l), at(rb, h[3], l))
		}
	}
	same(len(ra))
}

// at is where a line begins; behind the last one, the end.
func at(list []row, n, end int) int {
	if n < len(list) {
		return list[n].from
	}
	return end
}

func (d *differ) add(i, j, k, l int) {
	if n := len(d.hunks); n > 0 && d.hunks[n-1][1] == i && d.hunks[n-1][3] == k {
		d.hunks[n-1][1], d.hunks[n-1][3] = j, l
		return
	}
	d.hunks = append(d.hunks, [4]int{i, j, k, l})
}

// middle finds the snake in the middle of a shortest edit script: it leads from (x, y) to (u, w).
func (d *differ) middle(i, j, k, l int) (x, y, u, w int, ok bool) {
	n, m := j-i, l-k
	delta, half := n-m, (n+m+1)/2
	half = min(half, maxRounds)
	size := 2*half + 3
	for s := range d.v {
		if len(d.v[s]) < size {
			d.v[s] = make([]int32, size)
		}
		clear(d.v[s][:size])
	}
	fwd, back, zero := d.v[0], d.v[1], half+1
	for r := 0; r <= half; r++ {
		for q := 2*max(0, r-m) - r; q <= r-2*max(0, r-n); q += 2 {
			a := furthest(fwd, zero, q, r)
			b := a - q
			from, fromB := a, b
			for a < n && b < m && d.a[i+a] == d.b[k+b] {
				a, b = a+1, b+1
			}
			fwd[zero+q] = int32(a)
			if p := delta - q; delta%2 != 0 && p >= -(r-1) && p <= r-1 && a+int(back[zero+p]) >= n {
				return i + from, k + fromB, i + a, k + b, true
			}
		}
		for q := 2*max(0, r-m) - r; q <= r-2*max(0, r-n); q += 2 {
			a := furthest(back, zero, q, r)
			b := a - q
			from, fromB := a, b
			for a < n && b < m && d.a[j-1-a] == d.b[l-1-b] {
				a, b = a+1, b+1
			}
			back[zero+q] = int32(a)
			if p := delta - q; delta%2 == 0 && p >= -r && p <= r && a+int(fwd[zero+p]) >= n {
				return j - a, l - b, j - from, l - fromB, true
			}
		}
	}
	return 0, 0, 0, 0, false
}

// furthest is how far diagonal q can come in round r, from its neighbours.
func furthest(v []int32, zero, q, r int) int {
	if q == -r || q != r && v[zero+q-1] < v[zero+q+1] {
		return int(v[zero+q+1])
	}
	return int(v[zero+q-1]) + 1
}
