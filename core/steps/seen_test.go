package steps_test

import (
	"fmt"
	"maps"
	"testing"
	"time"

	"compactparcel/core/blend"
	"compactparcel/core/item"
	"compactparcel/core/steps"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Whatever was done since, by steps or by typing that went on, the states that somebody saw are found from the log.
func TestWhatSomebodySawIsFoundFromTheLog(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		d := newDraft()
		type moment struct {
			seen steps.Seen
			was  map[string]*steps.State
		}
		history := []moment{{was: map[string]*steps.State{}}}
		ids := []string{"a", "b", "c"}
		for k := range rapid.IntRange(1, 14).Draw(r, "acts") {
			id := rapid.SampledFrom(ids).Draw(r, "item")
			switch rapid.IntRange(0, 3).Draw(r, "act") {
			case 0: // it goes
				if d.now[id] != nil {
					d.lay(steps.Do, 0, "ida", steps.Becoming{Item: id})
				}
			case 1: // the last step grows
				if n := len(d.log); n > 0 && len(d.log[n-1].Edits) == 1 {
					last := d.log[n-1]
					id = last.Edits[0].Item
					next := last
					to := d.state(id, fmt.Sprintf("<p>%s grows %d</p>", id, k))
					next.Edits = []steps.Edit{{Item: id, Before: last.Edits[0].After, After: to}}
					d.log[n-1], d.now[id] = next.GrownFrom(last), to
				}
			default:
				d.put("ida", id, fmt.Sprintf("<p>%s %d</p>", id, k))
			}
			seen := steps.Seen{Step: len(d.log)}
			if n := len(d.log); n > 0 {
				seen.Grown = d.log[n-1].Grown()
			}
			history = append(history, moment{seen, maps.Clone(d.now)})
		}
		for _, m := range history {
			back, err := steps.ParseSeen(m.seen.String())
			if err != nil || back != m.seen {
				r.Fatalf("%v is read as %v (%v)", m.seen, back, err)
			}
			touched := m.seen.At(d.log)
			for _, id := range ids {
				was, since := touched[id]
				if !since {
					was = d.now[id]
				}
				if !was.Is(m.was[id]) {
					r.Fatalf("%s at %v: %v, and it was %v", id, m.seen, was, m.was[id])
				}
				known, any := m.seen.Known(d.log, id)
				if any && !known.Is(m.was[id]) || !any && m.was[id] != nil {
					r.Fatalf("%s as known at %v: %v (%v), and it was %v", id, m.seen, known, any, m.was[id])
				}
			}
		}
	})
}

func TestTypingThatGoesOnIsOneStep(t *testing.T) {
	d := newDraft()
	one, two, three := d.state("x", "<p>1</p>"), d.state("x", "<p>2</p>"), d.state("x", "<p>3</p>")
	step := func(before, after *steps.State) steps.Step {
		return steps.Step{N: 1, Kind: steps.Do, By: "ida", Typing: "in",
			Edits: []steps.Edit{{Item: "x", Before: before, After: after}}}
	}
	last, next, at := step(one, two), step(two, three), time.Now()
	assert.True(t, next.GoesOn(last, at, at.Add(steps.TypingPause)))
	for why, change := range map[string]func(s *steps.Step){
		"by itself":        func(s *steps.Step) { s.Typing = "" },
		"another sign-in":  func(s *steps.Step) { s.Typing = "other" },
		"somebody else":    func(s *steps.Step) { s.By = "tomas" },
		"an undo":          func(s *steps.Step) { s.Kind = steps.Undo },
		"another text":     func(s *steps.Step) { s.Edits[0].Item = "y" },
		"from elsewhere":   func(s *steps.Step) { s.Edits[0].Before = one },
		"several at once":  func(s *steps.Step) { s.Edits = append(s.Edits, s.Edits[0]) },
		"nothing was done": func(s *steps.Step) { s.Edits = nil },
	} {
		t.Run(why, func(t *testing.T) {
			s := step(two, three)
			change(&s)
			assert.False(t, s.GoesOn(last, at, at))
		})
	}
	assert.False(t, next.GoesOn(last, at, at.Add(steps.TypingPause+1)), "after a rest")
	last.Edits[0].Trail = make([]*steps.State, steps.MaxGrown)
	assert.False(t, next.GoesOn(last, at, at), "it grew for long")
}

// A state is brought together with another field by field; what both changed is somebody's to decide.
func TestStatesAreBroughtTogether(t *testing.T) {
	d := newDraft()
	state := func(address, text, title string) *steps.State {
		s := d.state("x", text)
		s.Address, s.Meta.Title = item.MustAddress(address), title
		return s
	}
	base := state("block/x", "<p>one</p>", "One")
	for name, x := range map[string]struct {
		ours, theirs, want *steps.State
		open               string
	}{
		"theirs has a name": {base, state("block/y", "<p>one</p>", "One"), state("block/y", "<p>one</p>", "One"), ""},
		"ours has a name":   {state("block/y", "<p>one</p>", "One"), base, state("block/y", "<p>one</p>", "One"), ""},
		"both the same name": {state("block/y", "<p>one</p>", "One"), state("block/y", "<p>one</p>", "One"),
			state("block/y", "<p>one</p>", "One"), ""},
		"two names":    {state("block/y", "<p>one</p>", "One"), state("block/z", "<p>one</p>", "One"), nil, "its name"},
		"theirs is so": {base, state("block/x", "<p>two</p>", "One"), state("block/x", "<p>two</p>", "One"), ""},
		"ours is so":   {state("block/x", "<p>two</p>", "One"), base, state("block/x", "<p>two</p>", "One"), ""},
		"a title and a text": {state("block/x", "<p>one</p>", "Two"), state("block/x", "<p>two</p>", "One"),
			state("block/x", "<p>two</p>", "Two"), ""},
		"two titles": {state("block/x", "<p>one</p>", "Two"), state("block/x", "<p>one</p>", "Three"), nil,
			"its title"},
		"two texts": {state("block/x", "<p>two</p>", "One"), state("block/x", "<p>three</p>", "One"), nil, "p"},
	} {
		t.Run(name, func(t *testing.T) {
			b, open, err := steps.MergeBy(d, "x", base, x.ours, x.theirs, nil)
			require.NoError(t, err)
			if x.want == nil {
				require.Len(t, open, 1)
				assert.Nil(t, b)
				assert.Contains(t, open[0].Where, x.open)
				for side, want := range map[blend.Decision]*steps.State{blend.ForSite: x.ours, blend.ForKit: x.theirs} {
					b, open, err := steps.MergeBy(d, "x", base, x.ours, x.theirs,
						func(*blend.Conflict) blend.Decision { return side })
					require.NoError(t, err)
					require.Empty(t, open, "it was decided for %s", side)
					assert.Equal(t, want.Address, b.State.Address)
					assert.Equal(t, want.Meta, b.State.Meta)
					assert.Equal(t, string(d.texts[want.Doc]), d.of(b))
				}
				return
			}
			require.Empty(t, open)
			assert.Equal(t, x.want.Address, b.State.Address)
			assert.Equal(t, x.want.Meta, b.State.Meta)
			assert.Equal(t, string(d.texts[x.want.Doc]), d.of(b))
		})
	}
	lost := state("block/x", "<p>lost</p>", "One")
	delete(d.texts, lost.Doc)
	_, _, err := steps.MergeBy(d, "x", base, state("block/x", "<p>two</p>", "One"), lost, nil)
	assert.ErrorContains(t, err, "no text")

	// A file is one side's, as a whole.
	file := func(text string) *steps.State { return state("media/x.jpg", text, "") }
	_, open, err := steps.MergeBy(d, "x", file("1"), file("2"), file("3"), nil)
	require.NoError(t, err)
	require.Len(t, open, 1)
	assert.Equal(t, "its file", open[0].Where)
	for side, want := range map[blend.Decision]string{blend.ForSite: "2", blend.ForKit: "3"} {
		b, _, err := steps.MergeBy(d, "x", file("1"), file("2"), file("3"),
			func(*blend.Conflict) blend.Decision { return side })
		require.NoError(t, err)
		assert.Equal(t, want, d.of(b))
	}
}

// of is the text of an item as it comes to be.
func (d *draft) of(b *steps.Becoming) string {
	if b.Content != nil {
		return string(b.Content)
	}
	return string(d.texts[b.State.Doc])
}

func TestSinceListsEachStepOnce(t *testing.T) {
	edit := func(ids ...string) (out []steps.Edit) {
		for _, id := range ids {
			out = append(out, steps.Edit{Item: id})
		}
		return out
	}
	log := []steps.Step{{N: 1, Edits: edit("x")}, {N: 2, Edits: edit("y", "x", "x")}, {N: 3, Edits: edit("y")},
		{N: 4, Edits: edit("x")}}
	assert.Equal(t, []int{2, 4}, steps.Since(log, 1, "x"))
	assert.Empty(t, steps.Since(log, 4, "x"))
	assert.Equal(t, item.Address{}, steps.Edit{}.Address())
	s := &steps.State{Address: item.MustAddress("block/x")}
	assert.Equal(t, s.Address, steps.Edit{After: s}.Address())
	assert.Equal(t, s.Address, steps.Edit{Before: s}.Address())
}
