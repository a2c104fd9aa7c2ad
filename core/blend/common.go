package blend

import "slices"

// maxEdits bounds how many tokens may differ between two texts that are compared.
const maxEdits = 1500

// common gives the pairs of places of a longest common subsequence (Myers, “An O(ND) Difference
// Algorithm and Its Variations”, 1986).
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
