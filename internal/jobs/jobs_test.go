package jobs_test

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"sync"
	"testing"
	"time"

	"compactparcel/internal/jobs"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

// bench is a queue on records of its own, with a clock that the test turns.
type bench struct {
	s     *store.Store
	mu    sync.Mutex
	clock time.Time
}

func newBench(t *testing.T) *bench {
	return &bench{s: harness.Records(t), clock: time.Now().UTC().Truncate(time.Microsecond)}
}

func (b *bench) now() time.Time { b.mu.Lock(); defer b.mu.Unlock(); return b.clock }

func (b *bench) later(d time.Duration) { b.mu.Lock(); defer b.mu.Unlock(); b.clock = b.clock.Add(d) }

func (b *bench) queue(h jobs.Handler) *jobs.Queue {
	return &jobs.Queue{Store: b.s, Log: slog.New(slog.DiscardHandler), Now: b.now,
		Handlers: map[string]jobs.Handler{"work": h}}
}

// last gives the job that was added last.
func (b *bench) last(t *testing.T) (j store.Job) {
	t.Helper()
	require.NoError(t, b.s.DB(ctx).Order("id DESC").Take(&j).Error)
	return j
}

func done(context.Context, json.RawMessage) (string, error) { return "done well", nil }

func TestAJobIsDoneOnceWhenItIsDue(t *testing.T) {
	b := newBench(t)
	q := b.queue(done)
	require.NoError(t, q.Add(ctx, "work", map[string]int{"n": 1}, b.now().Add(time.Minute)))
	did, err := q.Once(ctx)
	require.NoError(t, err)
	assert.False(t, did, "not due yet")
	b.later(2 * time.Minute)
	did, err = q.Once(ctx)
	require.NoError(t, err)
	assert.True(t, did)
	assert.Equal(t, store.JobDone, b.last(t).State)
	assert.Equal(t, "done well", b.last(t).Message)
	did, _ = q.Once(ctx)
	assert.False(t, did)
}

func TestAJobThatPanicsIsTriedAgain(t *testing.T) {
	b := newBench(t)
	odd := b.queue(func(context.Context, json.RawMessage) (string, error) { panic("odd markup") })
	require.NoError(t, odd.Add(ctx, "work", nil, b.now()))
	did, err := odd.Once(ctx)
	require.NoError(t, err)
	assert.True(t, did)
	assert.Equal(t, store.JobWaiting, b.last(t).State)
	assert.Equal(t, "internal: odd markup", b.last(t).Message)
	b.later(time.Hour)
	_, err = b.queue(done).Once(ctx)
	require.NoError(t, err)
	assert.Equal(t, store.JobDone, b.last(t).State)
}

func TestSeveralWorkersShareTheQueue(t *testing.T) {
	b := newBench(t)
	var count sync.Map
	q := b.queue(func(_ context.Context, p json.RawMessage) (string, error) {
		_, twice := count.LoadOrStore(string(p), true)
		assert.False(t, twice, "%s was done twice", p)
		return "", nil
	})
	for i := range 20 {
		require.NoError(t, q.Add(ctx, "work", i, b.now()))
	}
	var wg sync.WaitGroup
	for range 4 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for {
				did, err := q.Once(ctx)
				assert.NoError(t, err)
				if !did {
					return
				}
			}
		}()
	}
	wg.Wait()
	n := 0
	count.Range(func(any, any) bool { n++; return true })
	assert.Equal(t, 20, n)
}

func TestASilentWorkerIsFenced(t *testing.T) {
	b := newBench(t)
	second := b.queue(done)
	first := b.queue(func(context.Context, json.RawMessage) (string, error) {
		b.later(2 * jobs.Lease) // it hangs, and its lease runs out
		did, err := second.Once(ctx)
		assert.NoError(t, err)
		assert.True(t, did, "another takes the job over")
		return "too late", nil
	})
	require.NoError(t, first.Add(ctx, "work", nil, b.now()))
	_, err := first.Once(ctx)
	assert.ErrorIs(t, err, jobs.ErrFenced)
	assert.Equal(t, "done well", b.last(t).Message)
}

func TestAFailingJobIsGivenUpInTheEnd(t *testing.T) {
	b := newBench(t)
	q := b.queue(
		func(context.Context, json.RawMessage) (string, error) { return "", errors.New("the stove is cold") },
	)
	require.NoError(t, q.Add(ctx, "work", nil, b.now()))
	for i := range jobs.MaxAttempts {
		did, err := q.Once(ctx)
		require.NoError(t, err)
		require.True(t, did, "attempt %d", i+1)
		did, _ = q.Once(ctx)
		assert.False(t, did, "not again at once")
		b.later(time.Hour)
	}
	assert.Equal(t, store.JobFailed, b.last(t).State)
	assert.Equal(t, "the stove is cold", b.last(t).Message)
	require.NoError(t, q.Add(ctx, "unheard-of", nil, b.now()))
	_, err := q.Once(ctx)
	require.NoError(t, err)
	assert.Contains(t, b.last(t).Message, "nobody here does jobs of kind")
}

func TestOneJobOfAKindIsEnough(t *testing.T) {
	b := newBench(t)
	q := b.queue(done)
	for range 3 {
		require.NoError(t, q.Ensure(ctx, "work", b.now().Add(time.Hour)))
	}
	var n int64
	require.NoError(t, b.s.DB(ctx).Model(&store.Job{}).Where("kind = 'work' AND state = 'waiting'").Count(&n).Error)
	assert.EqualValues(t, 1, n)
}

// A job that ends its process each time is given up, and the one behind it is done.
func TestAJobThatKillsItsProcessIsGivenUp(t *testing.T) {
	b := newBench(t)
	q := b.queue(done)
	require.NoError(t, q.Add(ctx, "work", "poison", b.now()))
	poison := b.last(t).ID
	for range jobs.MaxAttempts {
		require.NoError(t, b.s.Tx(ctx, func(tx *store.Tx) error {
			j, err := tx.Jobs().Take(b.now(), jobs.Lease, nil, true)
			assert.Equal(t, poison, j.ID) // and the process is gone
			return err
		}))
		b.later(2 * jobs.Lease)
	}
	require.NoError(t, q.Add(ctx, "work", "good", b.now()))
	did, err := q.Once(ctx)
	require.NoError(t, err)
	assert.True(t, did)
	assert.Equal(t, "done well", b.last(t).Message)
	var j store.Job
	require.NoError(t, b.s.DB(ctx).Where("id = ?", poison).Take(&j).Error)
	assert.Equal(t, store.JobFailed, j.State)
	assert.Contains(t, j.Message, "the service ended while it was done")
}

// However many jobs of one kind hang, those of another lane are done when they are due, and when the queue ends
// nobody works any more.
func TestLanesDoNotWaitForEachOther(t *testing.T) {
	b := newBench(t)
	hung, live := make(chan struct{}, 20), make(chan struct{}, 1)
	q := b.queue(done)
	q.Handlers["mail"] = func(ctx context.Context, _ json.RawMessage) (string, error) {
		hung <- struct{}{}
		<-ctx.Done()
		return "", ctx.Err()
	}
	q.Handlers["go-live"] = func(context.Context, json.RawMessage) (string, error) {
		live <- struct{}{}
		return "", nil
	}
	q.Lanes = []jobs.Lane{{Kinds: []string{"go-live"}, Workers: 1}, {Kinds: []string{"mail"}, Workers: 2}}
	for range 10 {
		require.NoError(t, q.Add(ctx, "mail", nil, b.now()))
	}
	running, stop := context.WithCancel(ctx)
	ended := make(chan struct{})
	go func() { q.Run(running); close(ended) }()
	<-hung
	<-hung
	require.NoError(t, q.Add(ctx, "go-live", nil, b.now()))
	require.NoError(t, q.Add(ctx, "work", nil, b.now()))
	select {
	case <-live:
	case <-time.After(20 * time.Second):
		t.Fatal("it waits for the mails")
	}
	assert.Empty(t, hung, "two at once, and no more")
	stop()
	<-ended
}
