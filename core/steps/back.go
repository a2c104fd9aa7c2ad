package steps

import (
	"encoding/json"
	"fmt"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/item"
)

// ConflictError tells that a step cannot be taken back, since later ones changed the same.
type ConflictError struct {
	Item  item.Address
	Steps []int
	Where string // the place in the item; empty where it is the item as a whole
}

func (e *ConflictError) Error() string {
	numbers := make([]string, len(e.Steps))
	for i, n := range e.Steps {
		numbers[i] = fmt.Sprint(n)
	}
	later := "it was changed since by step " + strings.Join(numbers, ", ")
	if len(numbers) == 0 {
		later = "it was changed since"
	}
	if e.Where != "" {
		later += ", at " + e.Where
	}
	return fmt.Sprintf("%s: %s", e.Item, later)
}

// Becoming is an item as it comes to be. Content is nil where its text is that of a state that was.
type Becoming struct {
	Item    string
	State   *State // nil: it goes
	Content []byte
}

// Draft is a draft as it is now, and the texts of all states that its log names.
type Draft interface {
	// Now gives an item's state; nil when it is not there.
	Now(id string) *State
	Text(s *State) ([]byte, error)
}

// Back turns the edits of a step round: exactly where nothing touched their items since, else out
// of what was done since, by a blend whose base is the step's outcome. Its error is a
// *ConflictError where both changed the same.
func Back(d Draft, log []Step, step Step) ([]Becoming, error) {
	var out []Becoming
	for _, e := range step.Edits {
		now := d.Now(e.Item)
		switch {
		case now.Is(e.Before):
			continue // it is as it was already
		case now.Is(e.After):
			out = append(out, Becoming{Item: e.Item, State: e.Before})
			continue
		}
		conflict := &ConflictError{Item: e.Address(), Steps: Since(log, step.N, e.Item)}
		if now == nil || e.Before == nil || e.After == nil {
			return nil, conflict
		}
		b, where, err := Merge(d, e.Item, e.After, now, e.Before)
		if err != nil {
			return nil, err
		}
		if b == nil {
			conflict.Where = where
			return nil, conflict
		}
		out = append(out, *b)
	}
	return out, nil
}

// Merge brings two states of an item together that both came of a base. It gives nil, and where,
// when both changed the same.
func Merge(d Draft, id string, base, ours, theirs *State) (b *Becoming, where string, err error) {
	b, open, err := MergeBy(d, id, base, ours, theirs, nil)
	if err != nil || len(open) == 0 {
		return b, "", err
	}
	return nil, open[0].Where, nil
}

// MergeBy is Merge where choose may decide conflicts: for ours, which it knows as the site's, or for
// theirs. It gives those that nobody decided, and then no item.
func MergeBy(d Draft, id string, base, ours, theirs *State, choose blend.Resolve) (b *Becoming, open []blend.Conflict,
	err error) {
	if choose == nil {
		choose = func(*blend.Conflict) blend.Decision { return "" }
	}
	out := &State{Address: ours.Address, Doc: ours.Doc, NormalizedDigest: ours.NormalizedDigest, Bytes: ours.Bytes}
	b = &Becoming{Item: id, State: out}
	whole := func(where, base, ours, theirs string) (theirsWins bool) {
		c := blend.Conflict{Key: where, Kind: blend.Whole, Where: where, Base: base, Site: ours, Kit: theirs}
		if c.Decision = choose(&c); c.Decision == "" {
			open = append(open, c)
		}
		return c.Decision == blend.ForKit
	}
	if theirs.Address != base.Address && (ours.Address == base.Address ||
		ours.Address != theirs.Address && whole("its name", base.Address.String(), ours.Address.String(),
			theirs.Address.String())) {
		out.Address = theirs.Address
	}
	switch {
	case theirs.Doc == base.Doc || theirs.Doc == ours.Doc:
	case ours.Doc == base.Doc, base.Address.Kind == item.Media && whole("its file", "", "", ""):
		out.Doc, out.NormalizedDigest, out.Bytes = theirs.Doc, theirs.NormalizedDigest, theirs.Bytes
	case base.Address.Kind == item.Media:
	default:
		var texts [3][]byte
		for i, s := range []*State{base, ours, theirs} {
			if texts[i], err = d.Text(s); err != nil {
				return nil, nil, err
			}
		}
		merged := blend.Merge(base.Address.Kind, texts[0], texts[1], texts[2], choose)
		open = append(open, undecided(merged)...)
		b.Content = merged.Text
	}
	meta, more, err := mergeMeta(base.Meta, ours.Meta, theirs.Meta, choose)
	if open = append(open, more...); err != nil || len(open) > 0 {
		return nil, open, err
	}
	out.Meta = meta
	return b, nil, nil
}

func undecided(r *blend.Result) (out []blend.Conflict) {
	for _, c := range r.Conflicts {
		if c.Decision == "" {
			out = append(out, c)
		}
	}
	return out
}

// mergeMeta brings two sides' metadata together, field by field.
func mergeMeta(base, ours, theirs item.Meta, choose blend.Resolve) (out item.Meta, open []blend.Conflict, err error) {
	var texts [3][]byte
	for i, m := range []item.Meta{base, ours, theirs} {
		if texts[i], err = json.Marshal(m); err != nil {
			return out, nil, err
		}
	}
	merged := blend.Merge(item.Setting, texts[0], texts[1], texts[2], choose)
	if open = undecided(merged); len(open) > 0 {
		for i := range open {
			open[i].Where = "its " + open[i].Where
		}
		return out, open, nil
	}
	return out, nil, json.Unmarshal(merged.Text, &out)
}
