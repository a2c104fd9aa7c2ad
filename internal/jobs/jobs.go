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

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Lease is how long a worker that has fallen silent keeps a job.
const Lease = 30 * time.Second

// MaxAttempts is how often a job is tried.
const MaxAttempts = 5

// Job is one row of the queue.
type Job struct {
	ID         int64
	Kind       string
	Payload    string
	State      string
	RunAt      time.Time
	Fence      int64
	LeaseUntil *time.Time
	Attempts   int
	DoneCount  int64
	TotalCount int64
	Says       string
	CreatedAt  time.Time
}

// TableName is the queue's table.
func (Job) TableName() string { return "jobs" }

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
func (q *Queue) Add(tx *gorm.DB, kind string, payload any, at time.Time) error {
	b, err := json.Marshal(payload)
	if err != nil {
		return err
	}
	return tx.Create(&Job{Kind: kind, Payload: string(b), State: "waiting", RunAt: at, CreatedAt: q.Now()}).Error
}

// Ensure puts a job into the queue unless one of its kind waits or runs.
func (q *Queue) Ensure(ctx context.Context, kind string, at time.Time) error {
	var n int64
	if err := q.Store.DB(ctx).
		Model(&Job{}).
		Where("kind = ? AND state IN ('waiting','running')", kind).
		Count(&n).
		Error; err != nil ||
		n > 0 {
		return err
	}
	return q.Add(q.Store.DB(ctx), kind, struct{}{}, at)
}

// ErrFenced tells a worker that its job was given to another.
var ErrFenced = errors.New("the job was given to another worker")

// take leases the next due job, or one whose worker fell silent.
func (q *Queue) take(ctx context.Context) (*Job, error) {
	var j Job
	err := q.Store.Tx(ctx, func(tx *gorm.DB) error {
		now := q.Now()
		err := tx.Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).
			Where("(state = 'waiting' AND run_at <= ?) OR (state = 'running' AND lease_until < ?)", now, now).
			Order("run_at").Limit(1).Take(&j).Error
		if err != nil {
			return err
		}
		until := now.Add(Lease)
		j.State, j.Fence, j.LeaseUntil, j.Attempts = "running", j.Fence+1, &until, j.Attempts+1
		return tx.Model(&Job{}).
			Where("id = ?", j.ID).
			Updates(map[string]any{"state": j.State, "fence": j.Fence, "lease_until": until, "attempts": j.Attempts}).
			Error
	})
	return &j, err
}

// write changes a job under its fencing number.
func (q *Queue) write(ctx context.Context, j *Job, fields map[string]any) error {
	err := store.Swap(q.Store.DB(ctx).Model(&Job{}).Where("id = ? AND fence = ? AND state = 'running'", j.ID, j.Fence),
		fields)
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
		t := time.NewTicker(Lease / 3)
		defer t.Stop()
		for {
			select {
			case <-work.Done():
				return
			case <-t.C:
				if errors.Is(q.write(work, j, map[string]any{"lease_until": q.Now().Add(Lease)}), ErrFenced) {
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
	fields := map[string]any{"state": "done", "says": says, "lease_until": nil}
	if err != nil {
		q.Log.Error("job", "kind", j.Kind, "id", j.ID, "attempt", j.Attempts, "error", err, "stack",
			workers.Stack(err))
		fields = map[string]any{
			"state":       "waiting",
			"says":        err.Error(),
			"lease_until": nil,
			"run_at":      q.Now().Add(time.Duration(j.Attempts*j.Attempts) * 10 * time.Second),
		}
		if j.Attempts >= MaxAttempts {
			fields["state"] = "failed"
		}
	}
	return true, q.write(context.WithoutCancel(ctx), j, fields)
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
