package desk

import (
	"errors"
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/core/says"
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

// Problem is an error for people: what it is about, why, and what to do.
type Problem struct {
	Type    ProblemType
	What    string // what it is about: "site larch-saddle", "kit hut-basics@0.1.0"
	Message string
	// Said is the message with its values, by which the console words it; zero where only words are known.
	Said says.Message
	// Seen tells that whoever asked sees what it is about: they pointed at it.
	Seen   bool
	Remedy Remedy
	// Details are the single things behind it: conflicts, findings, questions.
	Details any
	Err     error
}

// Says gives the message with its values.
func (p *Problem) Says() says.Message {
	var said says.Said
	switch {
	case p.Said.String() == p.Message:
		return p.Said
	case errors.As(p.Err, &said) && said.Said().String() == p.Message:
		return said.Said()
	}
	return says.New("%s", p.Message)
}

// About gives what it is about with its values; nothing where whoever asked sees it.
func (p *Problem) About() says.Message {
	if p.Seen || p.What == "" {
		return says.Message{}
	}
	var format []string
	var args []any
	for _, word := range strings.Fields(p.What) {
		format = append(format, "%s")
		if a, err := item.ParseAddress(word); err == nil {
			args = append(args, a)
		} else {
			args = append(args, word)
		}
	}
	return says.New(strings.Join(format, " "), args...)
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

func problem(t ProblemType, what string, remedy Remedy, format string, args ...any) *Problem {
	said := says.New(format, args...)
	return &Problem{Type: t, What: what, Remedy: remedy, Said: said, Message: said.String()}
}

// seen tells that whoever asked sees what the problem is about.
func (p *Problem) seen() *Problem {
	p.Seen = true
	return p
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

// isNotFound tells that an error says of something that it is not there.
func isNotFound(err error) bool {
	var p *Problem
	return errors.Is(err, store.ErrNotFound) || errors.As(err, &p) && p.Type == NotFound
}

// Explain turns errors of the floors below into problems, for the floor above.
func Explain(what string, err error) error { return explain(what, err) }

// explain turns errors of the floors below into problems. What none of them knows is a
// fault of the service's own, and stays an error.
func explain(what string, err error) error {
	if err == nil {
		return nil
	}
	var p *Problem
	if errors.As(err, &p) {
		return err
	}
	for _, of := range []func(error) *Problem{ofDecision, ofConcurrency, ofContent, ofDatabase} {
		if p := of(err); p != nil {
			p.What, p.Err = what, err
			return p
		}
	}
	return fmt.Errorf("%s: %w", what, err)
}

// ofConcurrency tells of what others did at the same time; nil for all else.
func ofConcurrency(err error) *Problem {
	var uncertain *store.UncertainError
	var closed *store.ClosedError
	var stale *store.StaleError
	var clash *store.ClashError
	switch {
	case errors.As(err, &clash):
		return problem(Exists, "", To(ChooseOtherName), "%s", clash)
	case errors.As(err, &uncertain):
		return problem(Uncertain, "", To(LookBeforeRedo),
			"the database connection was lost while this was being saved: it may have been saved")
	case errors.As(err, &closed):
		return problem(Refused, "", To(ShowDrafts), "%s", closed)
	case errors.As(err, &stale):
		p := problem(Stale, "", To(PlanAgain), "%s", stale)
		p.Details = stale.Conflicts
		return p
	case errors.Is(err, store.ErrMoved):
		return problem(Stale, "", To(Redo), "somebody else changed it at the same time")
	case errors.Is(err, store.ErrNotFound):
		return problem(NotFound, "", To(CheckName), "it does not exist")
	}
	return nil
}

// ofDecision tells of a decision that does not fit; nil for all else.
func ofDecision(err error) *Problem {
	var decision *plan.DecisionError
	if !errors.As(err, &decision) {
		return nil
	}
	p := problem(BadDecision, "", To(CheckOptions), "%s", decision)
	if len(decision.Choices) > 0 {
		var choices []string
		for _, c := range decision.Choices {
			choices = append(choices, c.Written())
		}
		p.Remedy, p.Details = OneOf(choices...), decision.Choices
	}
	return p
}

// ofContent tells of sites and kit files that cannot be used as they are; nil for all else.
func ofContent(err error) *Problem {
	var circle *render.CircleError
	var refused *kit.RefusedError
	switch {
	case errors.As(err, &circle):
		return problem(Refused, "", To(BreakCircle), "%s", err)
	case errors.As(err, &refused):
		p := problem(Refused, "", To(GetFileAgain), "%s", refused)
		p.Details = refused.Report.Refused
		return p
	case errors.Is(err, kit.ErrNewer), errors.Is(err, kit.ErrNotKit):
		return problem(Refused, "", To(ChooseKitFile), "%s", err)
	}
	return nil
}

// ofDatabase tells of a database or a disk that cannot do its work; nil for all else.
func ofDatabase(err error) *Problem {
	switch {
	case store.IsGone(err):
		return problem(Unavailable, "", To(Retry), "the database is not answering right now")
	case store.IsBusy(err):
		return problem(Unavailable, "", To(Retry), "somebody else has been writing to it for too long")
	case store.IsFull(err):
		return problem(DiskFull, "", To(FreeSpace), "the service's disk is full")
	case store.IsDamaged(err):
		return problem(Damaged, "", To(VerifyData), "%s", err)
	case store.IsTooLarge(err):
		return problem(BadInput, "", To(Shorten), "part of it is too long to be saved")
	}
	return nil
}
