package plan

import (
	"errors"
	"maps"

	"compactparcel/core/item"
)

// LeftOut is an answer that was given for more sites than one, and does not fit this one.
type LeftOut struct {
	Key    string `json:"key"`
	Answer string `json:"answer"`
	Why    string `json:"why"`
	// Moot says that this site leaves nothing to decide there. Else it is decided otherwise than was said.
	Moot bool `json:"moot"`
}

// Make plans a delivery. A decision that does not fit is refused with a *DecisionError; one that was given only for
// where it fits (Decided.IfFits) is left out and told in the plan.
func Make(site Site, parcel Parcel, ask Request) (*Result, error) {
	ask.Decisions = maps.Clone(ask.Decisions)
	left := []LeftOut{}
	for {
		r, err := makeOf(site, parcel, ask)
		if err == nil {
			r.Plan.LeftOut = left
			return r, nil
		}
		out, ok := leftOutOf(ask, err)
		if !ok {
			return nil, err
		}
		left = append(left, out)
		delete(ask.Decisions, out.Key)
	}
}

// leftOutOf is the answer that an error is about, if it may be left out. The name of an item that the kit has not is a
// slip of the pen, on every site.
func leftOutOf(ask Request, err error) (LeftOut, bool) {
	var misfit *DecisionError
	if !errors.As(err, &misfit) || !ask.Decisions[misfit.Key].IfFits {
		return LeftOut{}, false
	}
	out := LeftOut{Key: misfit.Key, Answer: ask.Decisions[misfit.Key].String(), Why: misfit.Message,
		Moot: len(misfit.Choices) < 2}
	if len(misfit.Choices) > 0 {
		return out, true
	}
	out.Why = "there is nothing of this name to decide here"
	_, err = item.ParseAddress(misfit.Key)
	return out, err != nil
}
