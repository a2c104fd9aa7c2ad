package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"compactparcel/internal/store"
)

// JobInfo is a job in words.
type JobInfo struct {
	store.Job
	About string
	For   string // the person who asked for it; "" where nobody did
}

// maxJobs is how many jobs are listed.
const maxJobs = 200

// Jobs lists what the service does by itself; ended adds what it has done.
func (d *Desk) Jobs(ctx context.Context, p Person, ended bool) ([]JobInfo, error) {
	if err := p.may(Keeper, "jobs"); err != nil {
		return nil, err
	}
	rows, err := d.Store.Read(ctx).Jobs().List(ended, maxJobs)
	if err != nil {
		return nil, err
	}
	out := make([]JobInfo, len(rows))
	for i, r := range rows {
		if out[i], err = d.jobInfo(ctx, r); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Job gives one job.
func (d *Desk) Job(ctx context.Context, p Person, id int64) (*JobInfo, error) {
	what := fmt.Sprintf("job %d", id)
	if err := p.may(Keeper, what); err != nil {
		return nil, err
	}
	r, err := d.Store.Read(ctx).Jobs().ByID(id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, problem(NotFound, what, To(ShowJobs), "there is no such job, or it is long done")
	}
	if err != nil {
		return nil, err
	}
	info, err := d.jobInfo(ctx, *r)
	return &info, err
}

// JobStop keeps a job from being done until somebody lets it go on.
func (d *Desk) JobStop(ctx context.Context, p Person, id int64) (*JobInfo, error) {
	return d.turnJob(ctx, p, id, "stop", func(tx *store.Tx, j *JobInfo) error {
		if j.Kind == store.SweepJob {
			return problem(Refused, fmt.Sprintf("job %d", id), To(ShowJobs),
				"it removes what nothing wants, and is needed: it cannot be stopped")
		}
		return tx.Jobs().Stop(id)
	}, store.JobStopped)
}

// JobGoOn lets a job that was stopped, or has failed, be done now.
func (d *Desk) JobGoOn(ctx context.Context, p Person, id int64) (*JobInfo, error) {
	return d.turnJob(ctx, p, id, "go-on", func(tx *store.Tx, _ *JobInfo) error {
		return tx.Jobs().GoOn(id, d.Now())
	}, store.JobWaiting)
}

// turnJob brings a job into another state; one that is in it already stays.
func (d *Desk) turnJob(ctx context.Context, p Person, id int64, act string, turn func(*store.Tx, *JobInfo) error,
	to store.JobState) (*JobInfo, error) {
	j, err := d.Job(ctx, p, id)
	if err != nil || j.State == to {
		return j, err
	}
	err = d.Store.Tx(ctx, func(tx *store.Tx) error {
		if err := turn(tx, j); err != nil {
			return err
		}
		return d.audit(tx, p, act, fmt.Sprintf("job %d", id), j.About)
	})
	if errors.Is(err, store.ErrMoved) {
		return nil, problem(Refused, fmt.Sprintf("job %d", id), To(ShowJobs), "it is %s", j.State)
	}
	if err != nil {
		return nil, err
	}
	return d.Job(ctx, p, id)
}

// jobInfo says in words what a job is about; what is there no more is named by its number.
func (d *Desk) jobInfo(ctx context.Context, j store.Job) (out JobInfo, err error) {
	out = JobInfo{Job: j, About: j.Kind}
	read := func(v any) bool { return json.Unmarshal([]byte(j.Payload), v) == nil }
	switch j.Kind {
	case store.SweepJob:
		out.About = "removing what nothing wants any more"
	case store.GoLiveJob:
		var t store.TimedDraft
		if read(&t) {
			out.About, out.For, err = d.draftInWords(ctx, t.Draft)
			out.About += " goes live"
		}
	case store.RebaseJob:
		var t store.RebaseTask
		if read(&t) {
			out.About, _, err = d.draftInWords(ctx, t.Draft)
			out.About = "bringing what went live into " + out.About
		}
	case store.MailJob:
		var t store.MailTask
		if read(&t) {
			out.About, err = d.mailInWords(ctx, t)
		}
	}
	return out, err
}

func (d *Desk) draftInWords(ctx context.Context, id int64) (words, by string, err error) {
	words = fmt.Sprintf("draft %d", id)
	dr, err := d.Store.FindDraft(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return words, "", nil
	}
	if err != nil {
		return words, "", err
	}
	c, err := d.Store.Read(ctx).Collections().ByID(dr.CollectionID)
	if errors.Is(err, store.ErrNotFound) {
		return words, dr.LiveFor, nil
	}
	if err != nil {
		return words, "", err
	}
	return words + " of " + c.Name, dr.LiveFor, nil
}

func (d *Desk) mailInWords(ctx context.Context, t store.MailTask) (string, error) {
	words := fmt.Sprintf("a mail to the %s about entry %d", t.Addressee, t.Entry)
	e, err := d.Store.Read(ctx).FormEntries().ByID(t.Entry)
	if errors.Is(err, store.ErrNotFound) {
		return words, nil
	}
	if err != nil {
		return words, err
	}
	c, err := d.Store.Read(ctx).Collections().ByID(e.CollectionID)
	if err != nil {
		return words, err
	}
	return fmt.Sprintf("%s of form %s on %s", words, e.Form, c.Name), nil
}
