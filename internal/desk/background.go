package desk

import (
	"context"
	"sync"

	"compactparcel/core/workers"
)

// background is what goes on when the request that began it has been answered. It ends before the store does.
type background struct {
	once    sync.Once
	ctx     context.Context
	cancel  context.CancelFunc
	working sync.WaitGroup
}

func (b *background) begin() {
	b.once.Do(func() { b.ctx, b.cancel = context.WithCancel(context.Background()) })
}

// GoOn does something that no request waits for. Its context ends when the desk is closed. A panic ends it alone.
func (d *Desk) GoOn(f func(ctx context.Context)) {
	d.goingOn.begin()
	d.goingOn.working.Go(func() {
		if err := workers.Guard(func() error { f(d.goingOn.ctx); return nil }); err != nil {
			d.Log.Error("in the background", "error", err, "stack", workers.Stack(err))
		}
	})
}

// Close ends what goes on in the background, and waits for it, or until ctx ends: then it gives that one's error.
func (d *Desk) Close(ctx context.Context) error {
	d.goingOn.begin()
	d.goingOn.cancel()
	ended := make(chan struct{})
	go func() { d.goingOn.working.Wait(); close(ended) }()
	select {
	case <-ended:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}
