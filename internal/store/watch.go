package store

import (
	"context"
	"errors"
	"sync"
	"time"
)

// ErrStalled tells that the database has stopped answering.
var ErrStalled = errors.New("the database does not answer")

// How the database is watched: it is asked every WatchEvery, and one that does not answer
// within WatchPatience is taken for stalled.
const (
	WatchEvery    = 500 * time.Millisecond
	WatchPatience = 3 * time.Second
)

// watch knows whether the database answers, and ends what waits for it when it does not.
// A long statement is no stall: another connection is answered meanwhile.
type watch struct {
	mu      sync.Mutex
	stalled bool
	ctx     context.Context
	cancel  context.CancelCauseFunc
}

// Watch looks after the database until ctx ends.
func (s *Store) Watch(ctx context.Context) {
	for ctx.Err() == nil {
		ask, done := context.WithTimeout(ctx, WatchPatience)
		err := s.Ping(ask)
		timeIsUp := ask.Err() != nil
		done()
		s.watch.set(err != nil && timeIsUp && ctx.Err() == nil)
		if wait(ctx, WatchEvery) != nil {
			return
		}
	}
}

func (w *watch) set(stalled bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.stalled = stalled; stalled && w.cancel != nil {
		w.cancel(ErrStalled)
		w.cancel = nil
	}
}

// Guard gives a context that ends when the database stalls, and ErrStalled when it has.
func (s *Store) Guard(ctx context.Context) (context.Context, context.CancelFunc, error) {
	w := &s.watch
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.stalled {
		return nil, nil, ErrStalled
	}
	if w.cancel == nil {
		w.ctx, w.cancel = context.WithCancelCause(context.Background())
	}
	guarded, cancel := context.WithCancelCause(ctx)
	stop := context.AfterFunc(w.ctx, func() { cancel(ErrStalled) })
	return guarded, func() { stop(); cancel(nil) }, nil
}
