package client

import (
	"encoding/json"
	"fmt"
	"strings"

	"compactparcel/core/kit"
	"compactparcel/core/plan"
	"compactparcel/internal/api"
)

// problemError is what the service answered instead of the result.
type problemError struct{ api.Problem }

func (p *problemError) Error() string { return p.Detail }

// code is the exit code that a type of problem ends with.
func (p *problemError) code() int {
	switch p.Type {
	case api.ProblemTypeWaitsForDecisions:
		return Waits
	case api.ProblemTypeStale:
		return Stale
	case api.ProblemTypeRefused, api.ProblemTypeForbidden, api.ProblemTypeNotSignedIn, api.ProblemTypeCheckNotClean:
		return Refused
	case api.ProblemTypeBadInput, api.ProblemTypeDecisionDoesNotFit:
		return Usage
	case api.ProblemTypeNotFound, api.ProblemTypeExists, api.ProblemTypeTooManyAttempts, api.ProblemTypeTooLarge,
		api.ProblemTypeUnavailable, api.ProblemTypeUncertain, api.ProblemTypeDoneBefore, api.ProblemTypeDiskFull,
		api.ProblemTypeDamaged, api.ProblemTypeInternal:
	}
	return Failed
}

// print tells of the problem on the standard error, or gives it as it came.
func (p *problemError) print(a *app) {
	if a.output == "json" {
		enc := json.NewEncoder(a.err)
		enc.SetIndent("", "  ")
		enc.Encode(p.Problem)
		return
	}
	fmt.Fprintln(a.err, a.bad("cparcel: ")+p.Detail)
	for _, line := range p.details() {
		fmt.Fprintf(a.err, "  %s %s\n", a.mark("·"), line)
	}
	if p.Remedy != nil {
		if text := a.commanded(p, toFix(*p.Remedy, a.named)); text != "" {
			fmt.Fprintf(a.err, "  To fix: %s\n", text)
		}
	}
	if p.Status >= 500 && p.RequestId != nil {
		fmt.Fprintf(a.err, "  Request: %s\n", *p.RequestId)
	}
}

// details gives the single things behind a problem, a line each. What they are depends on
// the problem's type.
func (p *problemError) details() []string {
	switch p.Type {
	case api.ProblemTypeWaitsForDecisions:
		return lines(p, func(q plan.Question) string {
			text := q.Key + "  " + q.Message
			words := make([]string, len(q.Choices))
			for i, c := range q.Choices {
				words[i] = c.Written()
			}
			if len(words) > 0 {
				text += " (" + strings.Join(words, ", ") + ")"
			}
			return text
		})
	case api.ProblemTypeDecisionDoesNotFit:
		return lines(p, func(c plan.Choice) string { return c.Written() + "  " + c.Effect })
	case api.ProblemTypeCheckNotClean:
		return lines(p, func(f kit.Finding) string {
			text := strings.TrimSpace(f.Address.String() + "  " + f.Message)
			if f.Line > 0 {
				text += fmt.Sprintf(" (line %d)", f.Line)
			}
			return text
		})
	case api.ProblemTypeRefused:
		return lines(p, func(v kit.Verdict) string { return v.Path + "  " + v.Why })
	case api.ProblemTypeStale:
		return lines(p, func(c api.StaleItem) string {
			return strings.TrimSpace(c.Address.String() + "  " +
				c.Message)
		})
	case api.ProblemTypeBadInput, api.ProblemTypeNotSignedIn, api.ProblemTypeForbidden, api.ProblemTypeNotFound,
		api.ProblemTypeExists, api.ProblemTypeTooManyAttempts, api.ProblemTypeTooLarge, api.ProblemTypeUnavailable,
		api.ProblemTypeUncertain, api.ProblemTypeDoneBefore, api.ProblemTypeDiskFull, api.ProblemTypeDamaged,
		api.ProblemTypeInternal:
	}
	return nil
}

// lines reads details of one form, or plain sentences.
func lines[T any](p *problemError, line func(T) string) []string {
	text, err := json.Marshal(p.Details)
	if err != nil {
		return nil
	}
	var list []T
	if json.Unmarshal(text, &list) != nil {
		var plain []string
		if json.Unmarshal(text, &plain) != nil {
			return nil
		}
		return plain
	}
	var out []string
	for _, x := range list {
		out = append(out, line(x))
	}
	return out
}
