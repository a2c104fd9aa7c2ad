package store

import (
	"fmt"
	"time"

	"gorm.io/gorm/clause"
)

// JobState says how far a job is.
type JobState string

// The states of a job.
const (
	JobWaiting JobState = "waiting"
	JobRunning JobState = "running"
	JobDone    JobState = "done"
	JobFailed  JobState = "failed"
	JobStopped JobState = "stopped" // by a person: it goes on when one says so
)

// SweepJob is the kind of jobs that remove what nothing wants any more.
const SweepJob = "sweep"

// Job is a row of the queue.
type Job struct {
	ID      int64
	Kind    string
	Payload string
	State   JobState
	RunAt   time.Time
	// Fence counts the leases; every write names it.
	Fence      int64
	LeaseUntil *time.Time
	Attempts   int
	DoneCount  int64
	TotalCount int64
	Message    string
	CreatedAt  time.Time
}

// Jobs is the repository of the queue.
type Jobs struct{ t *Tx }

// Jobs gives the queue.
func (t *Tx) Jobs() Jobs { return Jobs{t} }

// Create puts a job into the queue.
func (r Jobs) Create(j *Job) error {
	if err := r.t.db.Create(j).Error; err != nil {
		return err
	}
	return r.told(j)
}

func (r Jobs) told(j *Job) error { return r.t.Tell(JobEvent, "", fmt.Sprint(j.ID)) }

// Pending counts the jobs of a kind that wait or run.
func (r Jobs) Pending(kind string) (int64, error) {
	var n int64
	err := r.t.db.Model(&Job{}).Where("kind = ? AND state IN ?", kind, []JobState{JobWaiting, JobRunning}).
		Count(&n).Error
	return n, err
}

// Take leases the next job that is due, or one whose worker fell silent, of some kinds, or of all others than
// those; ErrNotFound where there is none.
func (r Jobs) Take(now time.Time, lease time.Duration, kinds []string, others bool) (*Job, error) {
	var j Job
	q := r.t.db.Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).
		Where("((state = ? AND run_at <= ?) OR (state = ? AND lease_until < ?))", JobWaiting, now, JobRunning, now)
	switch {
	case others && len(kinds) > 0:
		q = q.Where("kind NOT IN ?", kinds)
	case !others:
		q = q.Where("kind IN ?", kinds)
	}
	err := q.Order("run_at").Limit(1).Take(&j).Error
	if err != nil {
		return nil, err
	}
	until := now.Add(lease)
	j.State, j.Fence, j.LeaseUntil, j.Attempts = JobRunning, j.Fence+1, &until, j.Attempts+1
	err = r.t.db.Model(&Job{}).Where("id = ?", j.ID).
		Updates(map[string]any{"state": j.State, "fence": j.Fence, "lease_until": until, "attempts": j.Attempts}).Error
	if err != nil {
		return nil, err
	}
	return &j, r.told(&j)
}

// ByID gives a job.
func (r Jobs) ByID(id int64) (*Job, error) { return one[Job](r.t.db.Where("id = ?", id)) }

// List gives at most limit jobs: what runs, then what waits or was stopped, then what has ended, if that is
// asked for, the newest of each first.
func (r Jobs) List(ended bool, limit int) ([]Job, error) {
	q := r.t.db.Order("FIELD(state, 'running', 'waiting', 'stopped', 'failed', 'done'), id DESC").Limit(limit)
	if !ended {
		q = q.Where("state IN ?", []JobState{JobRunning, JobWaiting, JobStopped, JobFailed})
	}
	return all[Job](q)
}

// Stop keeps a job that waits or runs from being done; its worker ends when it renews its lease. ErrMoved
// where it has ended.
func (r Jobs) Stop(id int64) error {
	err := swap(r.t.db.Model(&Job{}).Where("id = ? AND state IN ?", id, []JobState{JobWaiting, JobRunning}),
		map[string]any{"state": JobStopped, "lease_until": nil})
	if err != nil {
		return err
	}
	return r.told(&Job{ID: id})
}

// GoOn lets a job that was stopped, or has failed, be done from a time on. ErrMoved where it is neither.
func (r Jobs) GoOn(id int64, at time.Time) error {
	err := swap(r.t.db.Model(&Job{}).Where("id = ? AND state IN ?", id, []JobState{JobStopped, JobFailed}),
		map[string]any{"state": JobWaiting, "run_at": at, "attempts": 0})
	if err != nil {
		return err
	}
	return r.told(&Job{ID: id})
}

// Renew makes the lease of a running job longer; ErrMoved where another worker has it.
func (r Jobs) Renew(j *Job, until time.Time) error {
	return r.swap(j, map[string]any{"lease_until": until})
}

// Finish ends a running job, or lets it wait until it is tried again.
func (r Jobs) Finish(j *Job, state JobState, says string, runAt time.Time) error {
	set := map[string]any{"state": state, "message": says, "lease_until": nil}
	if state == JobWaiting || state == JobFailed {
		set["run_at"] = runAt
	}
	if err := r.swap(j, set); err != nil {
		return err
	}
	return r.told(j)
}

func (r Jobs) swap(j *Job, set map[string]any) error {
	return swap(r.t.db.Model(&Job{}).Where("id = ? AND fence = ? AND state = ?", j.ID, j.Fence, JobRunning), set)
}
