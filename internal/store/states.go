package store

import "sync"

// maxStateHeads bounds how many heads of past and live states are kept in memory.
const maxStateHeads = 60_000

type stateKey struct{ collection, rev int64 }

// states keeps what collections held at some revisions: these never change, and are asked
// for again and again. Whoever gets one must not change it.
type states struct {
	mu    sync.Mutex
	known map[stateKey]*index
	order []stateKey // the least lately used first
	held  int
}

func (s *states) get(collection, rev int64) (*index, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	k := stateKey{collection, rev}
	known, ok := s.known[k]
	if ok {
		s.touch(k)
	}
	return known, ok
}

func (s *states) touch(k stateKey) {
	for i, x := range s.order {
		if x == k {
			s.order = append(append(s.order[:i:i], s.order[i+1:]...), k)
			return
		}
	}
	s.order = append(s.order, k)
}

func (s *states) keep(collection, rev int64, of *index) {
	if len(of.heads) > maxStateHeads/2 {
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.known == nil {
		s.known = map[stateKey]*index{}
	}
	k := stateKey{collection, rev}
	if _, had := s.known[k]; !had {
		s.held += len(of.heads)
	}
	s.known[k] = of
	s.touch(k)
	for s.held > maxStateHeads && len(s.order) > 1 {
		old := s.order[0]
		s.order = s.order[1:]
		s.held -= len(s.known[old].heads)
		delete(s.known, old)
	}
}
