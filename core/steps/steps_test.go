package steps_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/steps"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// draft is a draft in memory, with its log and the texts of all its states.
type draft struct {
	now   map[string]*steps.State
	texts map[item.Digest][]byte
	log   []steps.Step
}

func newDraft() *draft {
	return &draft{now: map[string]*steps.State{}, texts: map[item.Digest][]byte{}}
}

func (d *draft) Now(id string) *steps.State { return d.now[id] }

func (d *draft) Text(s *steps.State) ([]byte, error) {
	b, ok := d.texts[s.Doc]
	if !ok {
		return nil, fmt.Errorf("no text %s", s.Doc.Short())
	}
	return b, nil
}

func (d *draft) state(id, text string) *steps.State {
	b := []byte(text)
	a := item.Address{Kind: item.Block, Key: id}
	s := &steps.State{Address: a, Doc: item.DigestOf(b), Bytes: int64(len(b)),
		NormalizedDigest: facts.NormalizedDigestOf(a.Kind, "", b)}
	d.texts[s.Doc] = b
	return s
}

// lay does one step.
func (d *draft) lay(kind steps.Kind, of int, by string, list ...steps.Becoming) int {
	s := steps.Step{N: len(d.log) + 1, Kind: kind, Of: of, By: by}
	for _, b := range list {
		to := b.State
		if b.Content != nil {
			to = d.state(b.Item, string(b.Content))
		}
		s.Edits = append(s.Edits, steps.Edit{Item: b.Item, Before: d.now[b.Item], After: to})
		if d.now[b.Item] = to; to == nil {
			delete(d.now, b.Item)
		}
	}
	d.log = append(d.log, s)
	return s.N
}

func (d *draft) put(by, id, text string) int {
	return d.lay(steps.Do, 0, by, steps.Becoming{Item: id, State: d.state(id, text)})
}

// back is an undo or a redo; false when there is nothing of the person's.
func (d *draft) back(kind steps.Kind, by string) (bool, error) {
	choose := steps.ToUndo
	if kind == steps.Redo {
		choose = steps.ToRedo
	}
	step, ok := choose(d.log, by)
	if !ok {
		return false, nil
	}
	list, err := steps.Back(d, d.log, step)
	if err == nil {
		d.lay(kind, step.N, by, list...)
	}
	return true, err
}

func (d *draft) text(id string) string {
	if d.now[id] == nil {
		return ""
	}
	return string(d.texts[d.now[id].Doc])
}

func undo(t *testing.T, d *draft, kind steps.Kind, by string) {
	t.Helper()
	ok, err := d.back(kind, by)
	require.NoError(t, err)
	require.True(t, ok)
}

func TestEachTakesBackTheirOwnLastStep(t *testing.T) {
	d := newDraft()
	d.put("ida", "x", "<p>one</p>\n<p>two</p>\n<p>three</p>")
	d.put("ida", "x", "<p>ONE</p>\n<p>two</p>\n<p>three</p>")
	d.put("tomas", "x", "<p>ONE</p>\n<p>two</p>\n<p>THREE</p>")
	undo(t, d, steps.Undo, "ida") // behind somebody else's: out of what was done since
	assert.Equal(t, "<p>one</p>\n<p>two</p>\n<p>THREE</p>", d.text("x"))
	undo(t, d, steps.Redo, "ida")
	assert.Equal(t, "<p>ONE</p>\n<p>two</p>\n<p>THREE</p>", d.text("x"))
	undo(t, d, steps.Undo, "ida")
	undo(t, d, steps.Undo, "tomas")
	assert.Equal(t, "<p>one</p>\n<p>two</p>\n<p>three</p>", d.text("x"), "exactly")
	d.put("ida", "y", "<p>y</p>")
	ok, err := d.back(steps.Redo, "ida")
	require.NoError(t, err)
	assert.False(t, ok, "who did something new does nothing old again")
	undo(t, d, steps.Redo, "tomas")
	assert.Contains(t, d.text("x"), "THREE")
}

func TestAStepThatOthersBuiltOnStays(t *testing.T) {
	d := newDraft()
	d.put("ida", "x", "<p>one</p>")
	d.put("ida", "x", "<p>ONE</p>")
	n := d.put("tomas", "x", "<p>ONE and more</p>")
	_, err := d.back(steps.Undo, "ida")
	var conflict *steps.ConflictError
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, []int{n}, conflict.Steps)
	assert.Equal(t, "<p>ONE and more</p>", d.text("x"), "nothing is done")
	d.lay(steps.Do, 0, "tomas", steps.Becoming{Item: "x"})
	_, err = d.back(steps.Undo, "ida")
	require.ErrorAs(t, err, &conflict, "it is gone")
	undo(t, d, steps.Undo, "tomas")
	assert.Equal(t, "<p>ONE and more</p>", d.text("x"))
	_, ok := steps.ToUndo(d.log, "nobody")
	assert.False(t, ok)
}

// Whatever two people do in one draft, taking everything back that can be taken back ends where it
// began, byte for byte; and doing it all again ends where it was.
func TestUndoingEverythingEndsWhereItBegan(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		d := newDraft()
		line := func(id string, n int) string { return fmt.Sprintf("<p>%s %d</p>", id, n) }
		doc := func(of func(int) string) string {
			var out []string
			for i := range 6 {
				out = append(out, of(i))
			}
			return strings.Join(out, "\n")
		}
		for _, id := range []string{"a", "b"} {
			d.lay(steps.Delivery, 0, "kit", steps.Becoming{Item: id,
				State: d.state(id, doc(func(i int) string { return line(id, i) }))})
		}
		begin := d.text("a") + d.text("b")
		// Each person has places of their own, so that no step is built on by the other's.
		for k := range rapid.IntRange(1, 12).Draw(r, "steps") {
			who := rapid.IntRange(0, 1).Draw(r, "who")
			by, id := []string{"ida", "tomas"}[who], rapid.SampledFrom([]string{"a", "b"}).Draw(r, "item")
			switch rapid.IntRange(0, 3).Draw(r, "what") {
			case 0:
				if _, err := d.back(steps.Undo, by); err != nil {
					r.Fatalf("undo: %v", err)
				}
			case 1:
				if _, err := d.back(steps.Redo, by); err != nil {
					r.Fatalf("redo: %v", err)
				}
			default:
				lines := strings.Split(d.text(id), "\n")
				at := 4*who + rapid.IntRange(0, 1).Draw(r, "line")
				lines[at] = fmt.Sprintf("<p>%s wrote %d</p>", by, k)
				d.put(by, id, strings.Join(lines, "\n"))
			}
		}
		end := d.text("a") + d.text("b")
		taken := map[string]int{}
		for {
			did := false
			for _, by := range []string{"ida", "tomas"} {
				ok, err := d.back(steps.Undo, by)
				var conflict *steps.ConflictError
				if errors.As(err, &conflict) {
					r.Fatalf("%s: %v", by, err)
				}
				did = did || ok
				if ok {
					taken[by]++
				}
			}
			if !did {
				break
			}
		}
		if got := d.text("a") + d.text("b"); got != begin {
			r.Fatalf("all taken back:\n%s\n\nat the beginning:\n%s", got, begin)
		}
		for _, by := range []string{"tomas", "ida"} {
			for range taken[by] {
				if _, err := d.back(steps.Redo, by); err != nil {
					r.Fatalf("redo of all: %v", err)
				}
			}
		}
		if got := d.text("a") + d.text("b"); got != end {
			r.Fatalf("all done again:\n%s\n\nat the end:\n%s", got, end)
		}
	})
}
