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
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

func TestTheQueue(t *testing.T) {
	s := harness.Records(t)
	clock := time.Now().UTC().Truncate(time.Microsecond)
	var mu sync.Mutex
	now := func() time.Time { mu.Lock(); defer mu.Unlock(); return clock }
	later := func(d time.Duration) { mu.Lock(); defer mu.Unlock(); clock = clock.Add(d) }
	queue := func(h jobs.Handler) *jobs.Queue {
		return &jobs.Queue{
			Store:    s,
			Log:      slog.New(slog.DiscardHandler),
			Now:      now,
			Handlers: map[string]jobs.Handler{"work": h},
		}
	}
	state := func() (j jobs.Job) {
		require.NoError(t, s.DB(ctx).Order("id DESC").Take(&j).Error)
		return j
	}
	done := func(context.Context, json.RawMessage) (string, error) { return "done well", nil }

	t.Run("a job is done once, when it is due", func(t *testing.T) {
		q := queue(done)
		require.NoError(t, q.Add(s.DB(ctx), "work", map[string]int{"n": 1}, now().Add(time.Minute)))
		did, err := q.Once(ctx)
		require.NoError(t, err)
		assert.False(t, did, "not due yet")
		later(2 * time.Minute)
		did, err = q.Once(ctx)
		require.NoError(t, err)
		assert.True(t, did)
		assert.Equal(t, "done", state().State)
		assert.Equal(t, "done well", state().Says)
		did, _ = q.Once(ctx)
		assert.False(t, did)
	})

	t.Run("one that panics has failed, and is tried again", func(t *testing.T) {
		odd := queue(func(context.Context, json.RawMessage) (string, error) { panic("odd markup") })
		require.NoError(t, odd.Add(s.DB(ctx), "work", nil, now()))
		did, err := odd.Once(ctx)
		require.NoError(t, err)
		assert.True(t, did)
		assert.Equal(t, "waiting", state().State)
		assert.Equal(t, "internal: odd markup", state().Says)
		later(time.Hour)
		_, err = queue(done).Once(ctx)
		require.NoError(t, err)
		assert.Equal(t, "done", state().State)
	})

	t.Run("several workers share the queue", func(t *testing.T) {
		var count sync.Map
		q := queue(func(_ context.Context, p json.RawMessage) (string, error) {
			_, twice := count.LoadOrStore(string(p), true)
			assert.False(t, twice, "%s was done twice", p)
			return "", nil
		})
		for i := range 20 {
			require.NoError(t, q.Add(s.DB(ctx), "work", i, now()))
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
	})

	t.Run("a worker that fell silent changes nothing any more", func(t *testing.T) {
		second := queue(done)
		first := queue(func(context.Context, json.RawMessage) (string, error) {
			later(2 * jobs.Lease) // it hangs, and its lease runs out
			did, err := second.Once(ctx)
			assert.NoError(t, err)
			assert.True(t, did, "another takes the job over")
			return "too late", nil
		})
		require.NoError(t, first.Add(s.DB(ctx), "work", nil, now()))
		_, err := first.Once(ctx)
		assert.ErrorIs(t, err, jobs.ErrFenced)
		assert.Equal(t, "done well", state().Says)
	})

	t.Run("a failing job is tried again, and given up in the end", func(t *testing.T) {
		q := queue(
			func(context.Context, json.RawMessage) (string, error) { return "", errors.New("the stove is cold") },
		)
		require.NoError(t, q.Add(s.DB(ctx), "work", nil, now()))
		for i := range jobs.MaxAttempts {
			did, err := q.Once(ctx)
			require.NoError(t, err)
			require.True(t, did, "attempt %d", i+1)
			did, _ = q.Once(ctx)
			assert.False(t, did, "not again at once")
			later(time.Hour)
		}
		assert.Equal(t, "failed", state().State)
		assert.Equal(t, "the stove is cold", state().Says)
		require.NoError(t, q.Add(s.DB(ctx), "unheard-of", nil, now()))
		_, err := q.Once(ctx)
		require.NoError(t, err)
		assert.Contains(t, state().Says, "nobody here does jobs of kind")
	})

	t.Run("one of a kind is enough", func(t *testing.T) {
		q := queue(done)
		for range 3 {
			require.NoError(t, q.Ensure(ctx, "work", now().Add(time.Hour)))
		}
		var n int64
		require.NoError(t, s.DB(ctx).Model(&jobs.Job{}).Where("kind = 'work' AND state = 'waiting'").Count(&n).Error)
		assert.EqualValues(t, 1, n)
	})
}
