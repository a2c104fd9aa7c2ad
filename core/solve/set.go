package solve

import "math/bits"

// set is a set of choices of one variable, by their numbers.
type set []uint64

func newSet(n int) set { return make(set, (n+63)/64) }

// full gives the set of 0 to n-1.
func full(n int) set {
	s := newSet(n)
	for i := range s {
		s[i] = ^uint64(0)
	}
	if rest := n % 64; rest > 0 {
		s[len(s)-1] = 1<<rest - 1
	}
	return s
}

func only(n, i int) set {
	s := newSet(n)
	s.add(i)
	return s
}

func (s set) add(i int)      { s[i/64] |= 1 << (i % 64) }
func (s set) has(i int) bool { return s[i/64]&(1<<(i%64)) != 0 }

func (s set) size() int {
	n := 0
	for _, w := range s {
		n += bits.OnesCount64(w)
	}
	return n
}

// within tells whether every member is one of o, too.
func (s set) within(o set) bool {
	for i, w := range s {
		if w&^o[i] != 0 {
			return false
		}
	}
	return true
}

func (s set) meets(o set) bool {
	for i, w := range s {
		if w&o[i] != 0 {
			return true
		}
	}
	return false
}

func (s set) and(o set) set {
	out := make(set, len(s))
	for i := range s {
		out[i] = s[i] & o[i]
	}
	return out
}

func (s set) or(o set) set {
	out := make(set, len(s))
	for i := range s {
		out[i] = s[i] | o[i]
	}
	return out
}

func (s set) without(o set) set {
	out := make(set, len(s))
	for i := range s {
		out[i] = s[i] &^ o[i]
	}
	return out
}

// highest gives the largest member, or -1.
func (s set) highest() int {
	for i := len(s) - 1; i >= 0; i-- {
		if s[i] != 0 {
			return i*64 + 63 - bits.LeadingZeros64(s[i])
		}
	}
	return -1
}
