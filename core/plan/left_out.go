package plan

import (
	"errors"
	"maps"
)

// LeftOut is an answer that was given for more sites than one, and does not fit this one.
type LeftOut struct {
	Key    string `json:"key"`
	Answer string `json:"answer"`
	Why    string `json:"why"`
	// Moot says that this site leaves nothing to decide there. Else it is decided otherwise than was said.
	Moot bool `json:"moot"`
}

// maxMisfits bounds how many answers may not fit: each is found by planning once more, and a file of which more do not
// fit was written for another kit.
const maxMisfits = 50

// Make plans a delivery. A decision that does not fit is refused with a *DecisionError; one that was given only for
// where it fits (Decided.IfFits) is left out and told in the plan.
func Make(site Site, parcel Parcel, ask Request) (*Result, error) {
	ask.Decisions = maps.Clone(ask.Decisions)
	left := []LeftOut{}
	for {
		r, err := makeOf(site, parcel, ask)
		if err == nil {
			r.Plan.LeftOut = append(left, r.Plan.LeftOut...)
			return r, nil
		}
		out, ok := misfitOf(ask, err)
		if !ok || len(left) == maxMisfits {
			return nil, err
		}
		left = append(left, out)
		delete(ask.Decisions, out.Key)
	}
}

// misfitOf is the answer that an error is about, if it may be left out.
func misfitOf(ask Request, err error) (LeftOut, bool) {
	var misfit *DecisionError
	if !errors.As(err, &misfit) || !ask.Decisions[misfit.Key].IfFits || len(misfit.Choices) == 0 {
		return LeftOut{}, false
	}
	return LeftOut{Key: misfit.Key, Answer: ask.Decisions[misfit.Key].String(), Why: misfit.Message,
		Moot: len(misfit.Choices) < 2}, true
}
