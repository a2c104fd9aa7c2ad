// Package steps is the log of a draft: what was done in it, by whom, and what can be taken back.
package steps

import (
	"time"

	"compactparcel/core/item"
)

// Kind says what a step is. The set is closed.
type Kind string

// The kinds of steps.
const (
	Do       Kind = "do"       // something was changed
	Undo     Kind = "undo"     // a step was taken back
	Redo     Kind = "redo"     // a step that was taken back was done again
	Delivery Kind = "delivery" // a delivery was staged
	Rebase   Kind = "rebase"   // what went live meanwhile was brought in
)

// Kinds lists all of them.
var Kinds = []Kind{Do, Undo, Redo, Delivery, Rebase}

// State is an item as a draft has it.
type State struct {
	Address          item.Address `json:"address"`
	Doc              item.Digest  `json:"doc"`
	NormalizedDigest item.Digest  `json:"normalizedDigest"`
	Bytes            int64        `json:"bytes"`
	Meta             item.Meta    `json:"meta"`
}

// StateOf is the state of an item.
func StateOf(h item.Head) *State {
	return &State{h.Address, h.Doc, h.NormalizedDigest, h.Bytes, h.Meta}
}

// Head gives the item of a state.
func (s *State) Head(id string) item.Head {
	return item.Head{ID: id, Address: s.Address, Doc: s.Doc, NormalizedDigest: s.NormalizedDigest, Bytes: s.Bytes,
		Meta: s.Meta}
}

// Is tells whether two states are the same; nil is an item that is not there.
func (s *State) Is(other *State) bool {
	if s == nil || other == nil {
		return s == other
	}
	return s.Head("").State() == other.Head("").State()
}

// Edit is what a step did to one item, by its permanent id. A nil state is an item that is not
// there.
type Edit struct {
	Item   string `json:"item"`
	Before *State `json:"before,omitempty"`
	After  *State `json:"after,omitempty"`
	// Trail is what the item was on the way, of typing that went on: After each time before it grew.
	Trail []*State `json:"trail,omitempty"`
}

// Address is where the item is, or was.
func (e Edit) Address() item.Address {
	if e.After != nil {
		return e.After.Address
	}
	if e.Before != nil {
		return e.Before.Address
	}
	return item.Address{}
}

// Step is one entry of the log. Steps are numbered from 1 and never change.
type Step struct {
	N    int
	Kind Kind
	// Of is the step that an undo took back, or that a redo did again: the one whose edits it turned
	// round.
	Of    int
	By    string
	Edits []Edit
	// Typing names the sign-in that somebody types a text in: what goes on within TypingPause is one
	// step. Empty: the step is by itself.
	Typing string
}

// TypingPause ends a step of typing, and so does having grown MaxGrown times.
const (
	TypingPause = 2 * time.Second
	MaxGrown    = 50
)

// GoesOn tells whether a step is typing that goes on from another, which was made at a time: of one
// sign-in, in one text, from where that one ended.
func (s Step) GoesOn(last Step, at, now time.Time) bool {
	return s.Typing != "" && s.Typing == last.Typing && s.By == last.By && s.Kind == Do && last.Kind == Do &&
		len(s.Edits) == 1 && len(last.Edits) == 1 && s.Edits[0].Item == last.Edits[0].Item &&
		last.Edits[0].After.Is(s.Edits[0].Before) && now.Sub(at) <= TypingPause && len(last.Edits[0].Trail) < MaxGrown
}

// GrownFrom makes a step of typing that goes on from another one the whole of both.
func (s Step) GrownFrom(last Step) Step {
	e := s.Edits[0]
	e.Before = last.Edits[0].Before
	e.Trail = append(append([]*State{}, last.Edits[0].Trail...), last.Edits[0].After)
	s.Edits = []Edit{e}
	return s
}

// Grown tells how many times a step grew.
func (s Step) Grown() int {
	if len(s.Edits) == 1 {
		return len(s.Edits[0].Trail)
	}
	return 0
}

// person is what one person did and can take back or do again, the last at the end.
type person struct{ done, undone []int }

// of reads what a person did out of a log.
func of(log []Step, by string) (p person) {
	without := func(list []int, n int) []int {
		for i := len(list) - 1; i >= 0; i-- {
			if list[i] == n {
				return append(list[:i:i], list[i+1:]...)
			}
		}
		return list
	}
	for _, s := range log {
		if s.By != by {
			continue
		}
		switch s.Kind {
		case Do:
			p.done, p.undone = append(p.done, s.N), nil
		case Undo:
			p.done, p.undone = without(p.done, s.Of), append(p.undone, s.N)
		case Redo:
			p.undone, p.done = without(p.undone, s.Of), append(p.done, s.N)
		default:
		}
	}
	return p
}

// ToUndo gives the step that a person's next undo takes back: their last that stands.
func ToUndo(log []Step, by string) (Step, bool) { return last(log, of(log, by).done) }

// ToRedo gives the undo that a person's next redo takes back: their last, while they did nothing
// since.
func ToRedo(log []Step, by string) (Step, bool) { return last(log, of(log, by).undone) }

func last(log []Step, list []int) (Step, bool) {
	if len(list) == 0 {
		return Step{}, false
	}
	for _, s := range log {
		if s.N == list[len(list)-1] {
			return s, true
		}
	}
	return Step{}, false
}

// Since lists the steps behind one that touched an item.
func Since(log []Step, n int, id string) (out []int) {
	for _, s := range log {
		if s.N <= n {
			continue
		}
		for _, e := range s.Edits {
			if e.Item == id {
				out = append(out, s.N)
				break
			}
		}
	}
	return out
}
