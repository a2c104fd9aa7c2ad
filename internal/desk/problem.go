package desk

import (
	"errors"
	"fmt"

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
)

// Problem is an error for people: what was being done, to what, why, and the way out.
type Problem struct {
	Type   ProblemType
	What   string // "site larch-saddle", "kit hut-basics@0.1.0"
	Says   string
	WayOut string
	// Details are the single things behind it: conflicts, findings, questions.
	Details any
	Err     error
}

func (p *Problem) Error() string {
	s := p.Says
	if p.What != "" {
		s = p.What + ": " + s
	}
	return s
}

// Unwrap gives the cause.
func (p *Problem) Unwrap() error { return p.Err }

func problem(t ProblemType, what, wayOut, format string, args ...any) *Problem {
	return &Problem{Type: t, What: what, WayOut: wayOut, Says: fmt.Sprintf(format, args...)}
}

// isNotFound tells that an error says of something that it is not there.
func isNotFound(err error) bool {
	var p *Problem
	return errors.Is(err, store.ErrNotFound) || errors.As(err, &p) && p.Type == NotFound
}

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
	switch {
	case errors.As(err, &p):
		return err
	case errors.Is(err, store.ErrNotFound):
		return &Problem{Type: NotFound, What: what, Says: "it is not there", WayOut: "look at the list for the right name", Err: err}
	case errors.As(err, &circle):
		return &Problem{Type: Refused, What: what, Says: err.Error(), WayOut: "take one of these uses out of its source", Err: err}
	case errors.As(err, &stale):
		return &Problem{Type: Stale, What: what, Says: stale.Error(), WayOut: "plan again, look at what changed, and stage anew", Details: stale.Conflicts, Err: err}
	case errors.As(err, &refused):
		return &Problem{Type: Refused, What: what, Says: refused.Error(), WayOut: "get the file again from who made it; nothing of it was kept", Details: refused.Report.Refused, Err: err}
	case errors.Is(err, kit.ErrNewer), errors.Is(err, kit.ErrNotKit):
		return &Problem{Type: Refused, What: what, Says: err.Error(), WayOut: "choose a .cpkit file", Err: err}
	case errors.As(err, &decision):
		wayOut := "look at the plan for what can be decided"
		if len(decision.Choices) > 0 {
			wayOut = "choose one of:"
			for _, c := range decision.Choices {
				wayOut += " " + string(c.Decision)
			}
		}
		p := &Problem{Type: BadDecision, What: what, Says: decision.Error(), WayOut: wayOut, Err: err}
		if len(decision.Choices) > 0 {
			p.Details = decision.Choices
		}
		return p
	case store.IsGone(err):
		return &Problem{Type: Unavailable, What: what, Says: "the database does not answer at the moment", WayOut: "try again in a few seconds; nothing was changed", Err: err}
	}
	return fmt.Errorf("%s: %w", what, err)
}
