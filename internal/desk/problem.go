package desk

import (
	"errors"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// ProblemType is the stable name of a sort of error; the interface shows it as
// the type of its problem details (RFC 9457).
type ProblemType string

// The sorts of errors.
const (
	BadInput    ProblemType = "bad-input"
	NotSignedIn ProblemType = "not-signed-in"
	Forbidden   ProblemType = "forbidden"
	NotFound    ProblemType = "not-found"
	Exists      ProblemType = "exists"
	Waits       ProblemType = "waits-for-decisions"
	BadDecision ProblemType = "decision-does-not-fit"
	Stale       ProblemType = "stale"
	Refused     ProblemType = "refused"
	NotClean    ProblemType = "check-not-clean"
	TooMany     ProblemType = "too-many-attempts"
	TooLarge    ProblemType = "too-large"
	Unavailable ProblemType = "unavailable"
	// Uncertain is what may have happened: the database went away while it was committed.
	Uncertain ProblemType = "uncertain"
	// DoneBefore is a repeated request whose first answer is not to be had again.
	DoneBefore ProblemType = "done-before"
	DiskFull   ProblemType = "disk-full"
	// Damaged is content whose bytes are not those of its digest any more.
	Damaged ProblemType = "damaged"
)

// Problem is an error for people: what was being done, to what, why, and the way out.
type Problem struct {
	Type    ProblemType
	What    string // "site larch-saddle", "kit hut-basics@0.1.0"
	Message string
	WayOut  string
	// Details are the single things behind it: conflicts, findings, questions.
	Details any
	Err     error
}

func (p *Problem) Error() string {
	s := p.Message
	if p.What != "" {
		s = p.What + ": " + s
	}
	return s
}

// Unwrap gives the cause.
func (p *Problem) Unwrap() error { return p.Err }

func problem(t ProblemType, what, wayOut, format string, args ...any) *Problem {
	return &Problem{Type: t, What: what, WayOut: wayOut, Message: fmt.Sprintf(format, args...)}
}

// blame gives a problem with what somebody sent, unless err is a failure of the service's own:
// nobody is told to mend a folder when the database is gone.
func blame(p *Problem) error {
	var failed *item.ReadError
	switch err := p.Err; {
	case errors.As(err, &failed), store.IsGone(err), store.IsBusy(err), store.IsFull(err), store.IsDamaged(err):
		return explain(p.What, err)
	}
	return p
}

// done gives the result of an act that is committed. What keeps it from being read is never
// told as if nothing had happened.
func done[T any](v T, err error) (T, error) {
	var p *Problem
	if err == nil || errors.As(err, &p) && p.Type != Unavailable && p.Type != Damaged {
		return v, err
	}
	var none T
	what := ""
	if p != nil {
		what = p.What
	}
	return none, &Problem{
		Type:    Uncertain,
		What:    what,
		Message: "it was done, but what came of it cannot be read at the moment",
		WayOut:  "look at it in a few seconds, and do not do it again",
		Err:     err,
	}
}

// isNotFound tells that an error says of something that it is not there.
func isNotFound(err error) bool {
	var p *Problem
	return errors.Is(err, store.ErrNotFound) || errors.As(err, &p) && p.Type == NotFound
}

// Explain turns errors of the floors below into problems, for the floor above.
func Explain(what string, err error) error { return explain(what, err) }

// explain turns errors of the floors below into problems.
func explain(what string, err error) error {
	if err == nil {
		return nil
	}
	var p *Problem
	var stale *store.StaleError
	var circle *render.CircleError
	var refused *kit.RefusedError
	var decision *plan.DecisionError
	var closed *store.ClosedError
	var uncertain *store.UncertainError
	switch {
	case errors.As(err, &p):
		return err
	case errors.As(err, &uncertain):
		return &Problem{
			Type:    Uncertain,
			What:    what,
			Message: "the database went away while this was being written: it may have happened",
			WayOut: "look whether it has before you do it again; a request with an Idempotency-Key can simply be " +
				"repeated with the same key",
			Err: err,
		}
	case errors.As(err, &closed):
		return &Problem{Type: Refused, What: what, Message: closed.Error(), WayOut: "look at the site's drafts", Err: err}
	case errors.Is(err, store.ErrMoved):
		return &Problem{
			Type:    Stale,
			What:    what,
			Message: "somebody changed it at the same time",
			WayOut:  "look at it again, and do it anew",
			Err:     err,
		}
	case errors.Is(err, store.ErrNotFound):
		return &Problem{
			Type:    NotFound,
			What:    what,
			Message: "it is not there",
			WayOut:  "look at the list for the right name",
			Err:     err,
		}
	case errors.As(err, &circle):
		return &Problem{
			Type:    Refused,
			What:    what,
			Message: err.Error(),
			WayOut:  "take one of these uses out of its source",
			Err:     err,
		}
	case errors.As(err, &stale):
		return &Problem{
			Type:    Stale,
			What:    what,
			Message: stale.Error(),
			WayOut:  "plan again, look at what changed, and stage anew",
			Details: stale.Conflicts,
			Err:     err,
		}
	case errors.As(err, &refused):
		return &Problem{
			Type:    Refused,
			What:    what,
			Message: refused.Error(),
			WayOut:  "get the file again from who made it; nothing of it was kept",
			Details: refused.Report.Refused,
			Err:     err,
		}
	case errors.Is(err, kit.ErrNewer), errors.Is(err, kit.ErrNotKit):
		return &Problem{Type: Refused, What: what, Message: err.Error(), WayOut: "choose a .cpkit file", Err: err}
	case errors.As(err, &decision):
		wayOut := "look at the plan for what can be decided"
		if len(decision.Choices) > 0 {
			wayOut = "choose one of:"
			for _, c := range decision.Choices {
				wayOut += " " + string(c.Decision)
			}
		}
		p := &Problem{Type: BadDecision, What: what, Message: decision.Error(), WayOut: wayOut, Err: err}
		if len(decision.Choices) > 0 {
			p.Details = decision.Choices
		}
		return p
	case store.IsGone(err):
		return &Problem{
			Type:    Unavailable,
			What:    what,
			Message: "the database does not answer at the moment",
			WayOut:  "try again in a few seconds; nothing was changed",
			Err:     err,
		}
	case store.IsBusy(err):
		return &Problem{
			Type:    Unavailable,
			What:    what,
			Message: "somebody else is at work on it for longer than one waits",
			WayOut:  "try again in a few seconds; nothing was changed",
			Err:     err,
		}
	case store.IsFull(err):
		return &Problem{
			Type:    DiskFull,
			What:    what,
			Message: "the disk of the service is full",
			WayOut:  "make room, then try again; nothing was changed",
			Err:     err,
		}
	case store.IsDamaged(err):
		return &Problem{
			Type:    Damaged,
			What:    what,
			Message: err.Error(),
			WayOut:  "run cparceld verify where the service runs: it names what is damaged, and mends what it can",
			Err:     err,
		}
	case store.IsTooLarge(err):
		return &Problem{
			Type:    BadInput,
			What:    what,
			Message: "something of it is longer than can be kept",
			WayOut:  "say it in fewer words; nothing was kept",
			Err:     err,
		}
	}
	return fmt.Errorf("%s: %w", what, err)
}
