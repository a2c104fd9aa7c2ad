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
	"sync"
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
	// Lanes keep kinds of jobs apart, so that those of one never wait for those of another. What is of no
	// lane's kinds has one of its own.
	Lanes []Lane
}

// Lane is some kinds of jobs, and how many of them are done at once.
type Lane struct {
	Kinds   []string
	Workers int
}

// OtherWorkers is how many of the jobs are done at once that no lane is for.
const OtherWorkers = 2

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

// lane is whose jobs a worker takes: some kinds, or all others.
type lane struct {
	kinds  []string
	others bool
}

// take leases the next due job of a lane, or one whose worker fell silent. One that ended its worker as often as it
// may be tried is given up: it ended its process each time, and would again.
func (q *Queue) take(ctx context.Context, of lane) (j *store.Job, err error) {
	err = q.Store.Tx(ctx, func(tx *store.Tx) error {
		for {
			if j, err = tx.Jobs().Take(q.Now(), Lease, of.kinds, of.others); err != nil || j.Attempts <= MaxAttempts {
				return err
			}
			says := fmt.Sprintf("the service ended while it was done, %d times; it is given up", MaxAttempts)
			if err := tx.Jobs().Finish(j, store.JobFailed, says, q.Now()); err != nil {
				return err
			}
		}
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

// Once does one due job, of whatever kind; done is false when there was none.
func (q *Queue) Once(ctx context.Context) (done bool, err error) {
	return q.once(ctx, lane{others: true})
}

func (q *Queue) once(ctx context.Context, of lane) (done bool, err error) {
	j, err := q.take(ctx, of)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	work, cancel := context.WithCancel(ctx)
	var beating sync.WaitGroup
	defer beating.Wait()
	defer cancel()
	beating.Go(func() { // the heartbeat
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
	})
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

// Run does jobs in all lanes until the context ends, and what is under way has ended.
func (q *Queue) Run(ctx context.Context) {
	var workers sync.WaitGroup
	var taken []string
	for _, l := range q.Lanes {
		taken = append(taken, l.Kinds...)
		for range l.Workers {
			workers.Go(func() { q.work(ctx, lane{kinds: l.Kinds}) })
		}
	}
	for range OtherWorkers {
		workers.Go(func() { q.work(ctx, lane{kinds: taken, others: true}) })
	}
	workers.Wait()
}

// work does the jobs of a lane, one after the other.
func (q *Queue) work(ctx context.Context, of lane) {
	for ctx.Err() == nil {
		done, err := q.once(ctx, of)
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
