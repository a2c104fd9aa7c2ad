// Package jobs is a queue in the database that several service processes share.
//
// A worker takes the next due job with FOR UPDATE SKIP LOCKED, holds a lease that
// a heartbeat renews, and gets a fencing number. Every write it makes names that
// number: a worker that was thought dead, and is not, changes nothing any more.
package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"compactparcel/core/workers"
	"compactparcel/internal/store"
)

// Lease is how long a worker that has fallen silent keeps a job.
const Lease = 30 * time.Second

// heartbeat is how often a worker renews its lease, and learns whether its job was stopped.
const heartbeat = 3 * time.Second

// MaxAttempts is how often a job is tried.
const MaxAttempts = 5

// Handler does one kind of job. It gives what to tell people; an error means the
// job is tried again later.
type Handler func(ctx context.Context, payload json.RawMessage) (says string, err error)

// Queue takes and does jobs.
type Queue struct {
	Store    *store.Store
	Log      *slog.Logger
	Handlers map[string]Handler
	Now      func() time.Time
}

// Add puts a job into the queue.
func (q *Queue) Add(ctx context.Context, kind string, payload any, at time.Time) error {
	b, err := json.Marshal(payload)
	if err != nil {
		return err
	}
	return q.Store.Read(ctx).Jobs().Create(&store.Job{Kind: kind, Payload: string(b), State: store.JobWaiting,
		RunAt: at, CreatedAt: q.Now()})
}

// Ensure puts a job into the queue unless one of its kind waits or runs.
func (q *Queue) Ensure(ctx context.Context, kind string, at time.Time) error {
	if n, err := q.Store.Read(ctx).Jobs().Pending(kind); err != nil || n > 0 {
		return err
	}
	return q.Add(ctx, kind, struct{}{}, at)
}

// ErrFenced tells a worker that its job was given to another.
var ErrFenced = errors.New("the job was given to another worker")

// take leases the next due job, or one whose worker fell silent.
func (q *Queue) take(ctx context.Context) (j *store.Job, err error) {
	err = q.Store.Tx(ctx, func(tx *store.Tx) error {
		j, err = tx.Jobs().Take(q.Now(), Lease)
		return err
	})
	return j, err
}

// fenced words that a job is another worker's by now.
func fenced(err error) error {
	if errors.Is(err, store.ErrMoved) {
		return ErrFenced
	}
	return err
}

// Once does one due job; done is false when there was none.
func (q *Queue) Once(ctx context.Context) (done bool, err error) {
	j, err := q.take(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	work, cancel := context.WithCancel(ctx)
	defer cancel()
	go func() { // the heartbeat
		t := time.NewTicker(heartbeat)
		defer t.Stop()
		for {
			select {
			case <-work.Done():
				return
			case <-t.C:
				if errors.Is(q.Store.Read(work).Jobs().Renew(j, q.Now().Add(Lease)), store.ErrMoved) {
					cancel()
				}
			}
		}
	}()
	says, err := "", fmt.Errorf("nobody here does jobs of kind %q", j.Kind)
	if h := q.Handlers[j.Kind]; h != nil {
		err = workers.Guard(func() (err error) {
			says, err = h(work, json.RawMessage(j.Payload))
			return err
		})
	}
	end, runAt := store.JobDone, q.Now()
	if err != nil {
		q.Log.Error("job", "kind", j.Kind, "id", j.ID, "attempt", j.Attempts, "error", err, "stack",
			workers.Stack(err))
		end, says, runAt = store.JobWaiting, err.Error(),
			runAt.Add(time.Duration(j.Attempts*j.Attempts)*10*time.Second)
		if j.Attempts >= MaxAttempts {
			end = store.JobFailed
		}
	}
	return true, fenced(q.Store.Read(context.WithoutCancel(ctx)).Jobs().Finish(j, end, says, runAt))
}

// Run does jobs until the context ends.
func (q *Queue) Run(ctx context.Context) {
	for ctx.Err() == nil {
		done, err := q.Once(ctx)
		if err != nil && ctx.Err() == nil {
			q.Log.Warn("the job queue", "error", err)
		}
		if done && err == nil {
			continue
		}
		select {
		case <-ctx.Done():
		case <-time.After(2 * time.Second):
		}
	}
}
