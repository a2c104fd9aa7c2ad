package steps

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Seen is what somebody saw who points at a page: the last step of the draft, how far that one had grown by
// typing, and the live revision below. Written it is STEP.GROWN@REVISION, or STEP@REVISION of one that had not.
type Seen struct {
	Step, Grown int
	Revision    int64
}

func (s Seen) String() string {
	if s.Grown == 0 {
		return fmt.Sprintf("%d@%d", s.Step, s.Revision)
	}
	return fmt.Sprintf("%d.%d@%d", s.Step, s.Grown, s.Revision)
}

// ParseSeen reads what String writes; its error says what was expected.
func ParseSeen(text string) (out Seen, err error) {
	step, revision, both := strings.Cut(text, "@")
	step, grown, has := strings.Cut(step, ".")
	number := func(s string) int64 {
		n, bad := strconv.ParseInt(s, 10, 64)
		if bad != nil || n < 0 || n > math.MaxInt32 {
			err = fmt.Errorf("%q is no mark of a page; its outline has one", text)
		}
		return n
	}
	out.Step, out.Revision = int(number(step)), number(revision)
	if has {
		out.Grown = int(number(grown))
	}
	if !both && err == nil {
		err = fmt.Errorf("%q names no revision; the page's outline has the whole mark", text)
	}
	return out, err
}

// At gives the states of items as they were when a log was seen, by id, of those that steps since then
// touched: nil for one that was not there.
func (s Seen) At(log []Step) map[string]*State {
	was := map[string]*State{}
	for i := len(log) - 1; i >= 0 && log[i].N >= s.Step; i-- {
		for _, e := range log[i].Edits {
			switch {
			case log[i].N > s.Step:
				was[e.Item] = e.Before
			case s.Grown < len(e.Trail):
				was[e.Item] = e.Trail[s.Grown]
			}
		}
	}
	return was
}

// Known gives the state that the last step up to then left an item in; touched is false where none had
// touched it.
func (s Seen) Known(log []Step, id string) (state *State, touched bool) {
	for _, step := range log {
		if step.N > s.Step {
			break
		}
		for _, e := range step.Edits {
			if e.Item != id {
				continue
			}
			state, touched = e.After, true
			if step.N == s.Step && s.Grown < len(e.Trail) {
				state = e.Trail[s.Grown]
			}
		}
	}
	return state, touched
}
