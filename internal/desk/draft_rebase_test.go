package desk_test

import (
	"errors"
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/steps"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"
	"compactparcel/test/seed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const listed = "<ul>\n<li>one</li>\n<li>two</li>\n<li>three</li>\n<li>four</li>\n</ul>\n"

// lay puts a text into a draft of the hut, over whatever the draft has.
func (r *race) lay(p desk.Person, draft int64, a, text string) (*store.Draft, error) {
	v, err := r.Look(ctx, viewer, "hut", draft)
	require.NoError(r.t, err)
	h, there := v.Find(address(a))
	e := desk.Edit{Site: "hut", Draft: draft, Address: address(a), Content: []byte(text)}
	if there {
		e.IfMatch = h.State()
	}
	got, err := r.EditItem(ctx, p, e)
	if err != nil {
		return nil, err
	}
	return got.Draft, nil
}

func (r *race) live(a, text string) {
	r.t.Helper()
	dr, err := r.lay(keeper, 0, a, text)
	require.NoError(r.t, err)
	_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
	require.NoError(r.t, err)
}

// What goes live is merged into an open draft that changes the same item; where both changed the same
// place, a person decides, for each place or for the item.
func TestADraftIsBroughtUpToDate(t *testing.T) {
	r := newRace(t)
	r.live("block/list", listed)
	dr, err := r.lay(keeper, 0, "block/list", strings.Replace(listed, "one", "uno", 1))
	require.NoError(t, err)
	r.live("block/list", strings.Replace(listed, "four", "vier", 1))
	got, err := r.DraftRebase(ctx, keeper, "hut", dr.ID, nil)
	require.NoError(t, err)
	assert.Equal(t, []item.Address{address("block/list")}, got.Merged)
	assert.Positive(t, got.Step)
	assert.Equal(t, strings.NewReplacer("one", "uno", "four", "vier").Replace(listed), r.text(dr.ID, "block/list"))
	_, err = r.DraftUndo(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err, "my own words are taken back, those of the live site stay")
	assert.Equal(t, strings.Replace(listed, "four", "vier", 1), r.text(dr.ID, "block/list"))
	_, err = r.DraftRedo(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)

	// Both change one place.
	r.live("block/list", strings.Replace(r.text(0, "block/list"), "one", "eins", 1))
	_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
	var p *desk.Problem
	require.True(t, errors.As(err, &p), "%v", err)
	assert.Equal(t, desk.Stale, p.Type)
	assert.Equal(t, desk.DecideBehind, p.Remedy.Code)
	got, err = r.DraftRebase(ctx, keeper, "hut", dr.ID, nil)
	require.NoError(t, err)
	require.Len(t, got.Behind, 1)
	require.Len(t, got.Behind[0].Conflicts, 1)
	key := got.Behind[0].Key(got.Behind[0].Conflicts[0])
	_, err = r.DraftRebase(ctx, keeper, "hut", dr.ID, map[string]desk.Side{"block/other": desk.OfLive})
	require.ErrorContains(t, err, "nothing to decide")
	_, err = r.DraftRebase(ctx, keeper, "hut", dr.ID, map[string]desk.Side{key: "mine"})
	require.Error(t, err)
	got, err = r.DraftRebase(ctx, keeper, "hut", dr.ID, map[string]desk.Side{key: desk.OfDraft})
	require.NoError(t, err)
	assert.Empty(t, got.Behind)
	assert.Contains(t, r.text(dr.ID, "block/list"), "uno")
	_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	assert.Contains(t, r.text(0, "block/list"), "vier")
}

// Items that went, came, or were removed on one side are decided whole.
func TestWholeItemsAreDecided(t *testing.T) {
	r := newRace(t)
	for n, side := range []desk.Side{desk.OfDraft, desk.OfLive} {
		a := func(name string) string { return fmt.Sprintf("block/%s-%d", name, n) }
		for _, name := range []string{"gone", "removed"} {
			r.live(a(name), listed)
		}
		dr, err := r.lay(keeper, 0, a("gone"), listed+"<p>draft</p>")
		require.NoError(t, err)
		_, err = r.EditItem(ctx, keeper, desk.Edit{Site: "hut", Draft: dr.ID, Address: address(a("removed")),
			Delete: true, IfMatch: r.state(0, a("removed"))})
		require.NoError(t, err)
		_, err = r.lay(keeper, dr.ID, a("new"), "<p>draft's</p>")
		require.NoError(t, err)
		other, err := r.lay(keeper, 0, a("new"), "<p>live's</p>")
		require.NoError(t, err)
		_, err = r.lay(keeper, other.ID, a("removed"), listed+"<p>live</p>")
		require.NoError(t, err)
		_, err = r.EditItem(ctx, keeper, desk.Edit{Site: "hut", Draft: other.ID, Address: address(a("gone")),
			Delete: true, IfMatch: r.state(0, a("gone"))})
		require.NoError(t, err)
		_, err = r.GoLive(ctx, keeper, "hut", other.ID)
		require.NoError(t, err)
		got, err := r.DraftRebase(ctx, keeper, "hut", dr.ID, nil)
		require.NoError(t, err)
		assert.Len(t, got.Behind, 3)
		got, err = r.DraftRebase(ctx, keeper, "hut", dr.ID, map[string]desk.Side{a("gone"): side, a("removed"): side,
			a("new"): side})
		require.NoError(t, err)
		assert.Empty(t, got.Behind)
		r.holds(dr.ID)
		_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
		require.NoError(t, err, side)
		v, err := r.Look(ctx, viewer, "hut", 0)
		require.NoError(t, err)
		_, gone := v.Find(address(a("gone")))
		_, removed := v.Find(address(a("removed")))
		assert.Equal(t, side == desk.OfDraft, gone)
		assert.Equal(t, side == desk.OfLive, removed)
		assert.Contains(t, r.text(0, a("new")), string(side))
	}
}

// Two people work in three drafts, with live going on: whatever is done, undone, done again and put
// live in whatever order, each draft is what its log says, each step is whole, and what goes live is
// what its draft was.
func TestDraftsFollowTheirLaws(t *testing.T) {
	r := newRace(t)
	rnd := seed.Rand(t)
	people := []desk.Person{keeper, {ID: 2, Name: "olga", Role: desk.Keeper}}
	names := []string{"block/a", "block/b", "block/c", "page/a"}
	for _, n := range names[:3] {
		r.live(n, listed)
	}
	drafts := [3]int64{}
	counts := map[string]int{}
	all := func() bool { // what there is to be done has been done
		for _, what := range []string{"edits", "exact", "undone", "redone", "behind", "live"} {
			if counts[what] == 0 {
				return false
			}
		}
		return true
	}
	for n := 0; n < 260 || !all() && n < 2600; n++ {
		k := rnd.Intn(len(drafts))
		p := people[rnd.Intn(2)]
		before := r.draftDigest(drafts[k])
		switch act := rnd.Intn(12); {
		case act < 6:
			text := r.random(rnd, drafts[k], names[rnd.Intn(len(names))], n)
			dr, err := r.lay(p, drafts[k], text[0], text[1])
			require.NoError(t, err)
			drafts[k] = dr.ID
			counts["edits"]++
			if rnd.Intn(3) == 0 { // an undo at the head is exact
				back, err := r.DraftUndo(ctx, p, "hut", drafts[k])
				require.NoError(t, err)
				assert.Equal(t, before, r.draftDigest(drafts[k]), "step %d", back.Of)
				counts["exact"]++
			}
		case act < 8 && drafts[k] > 0:
			_, err := r.DraftUndo(ctx, p, "hut", drafts[k])
			r.allowed(err, desk.Refused, desk.Stale)
			counts["undone"]++
		case act < 9 && drafts[k] > 0:
			_, err := r.DraftRedo(ctx, p, "hut", drafts[k])
			r.allowed(err, desk.Refused, desk.Stale)
			counts["redone"]++
		case act < 10 && drafts[k] > 0:
			got, err := r.DraftRebase(ctx, p, "hut", drafts[k], nil)
			require.NoError(t, err)
			decide := map[string]desk.Side{}
			for _, b := range got.Behind {
				decide[b.Address.String()] = []desk.Side{desk.OfDraft, desk.OfLive}[rnd.Intn(2)]
				counts["behind"]++
			}
			got, err = r.DraftRebase(ctx, p, "hut", drafts[k], decide)
			require.NoError(t, err)
			assert.Empty(t, got.Behind)
		case act < 11 && drafts[k] > 0:
			_, err := r.DraftRebase(ctx, p, "hut", drafts[k], nil)
			require.NoError(t, err)
			was := r.changes(drafts[k])
			_, err = r.GoLive(ctx, p, "hut", drafts[k])
			r.allowed(err, desk.Stale)
			if err == nil {
				counts["live"]++
				v, err := r.Look(ctx, viewer, "hut", 0)
				require.NoError(t, err)
				for id, s := range was {
					now, there := v.ByID(id)
					assert.Equal(t, s != nil, there)
					if s != nil {
						assert.Equal(t, s.Head("").State(), now.State(), "what goes live is what the draft was")
					}
				}
				drafts[k] = 0
			}
		}
		for _, id := range drafts {
			r.holds(id)
		}
	}
	t.Log(counts)
	assert.True(t, all())
}

// random gives an item and what it could come to be: one line changed, or more.
func (r *race) random(rnd *rand.Rand, draft int64, a string, n int) [2]string {
	v, err := r.Look(ctx, viewer, "hut", draft)
	require.NoError(r.t, err)
	h, there := v.Find(address(a))
	if !there {
		return [2]string{a, listed}
	}
	b, err := item.Read(v, h)
	require.NoError(r.t, err)
	lines := strings.Split(string(b), "\n")
	at := rnd.Intn(len(lines))
	if strings.HasPrefix(lines[at], "<li>") {
		lines[at] = fmt.Sprintf("<li>line %d</li>", n)
	} else {
		lines[at] += fmt.Sprintf("<!-- %d -->", n)
	}
	return [2]string{a, strings.Join(lines, "\n")}
}

// allowed tells that an act was done, or refused for one of some reasons.
func (r *race) allowed(err error, types ...desk.ProblemType) {
	r.t.Helper()
	var p *desk.Problem
	if err != nil {
		require.True(r.t, errors.As(err, &p), "%v", err)
		assert.Contains(r.t, types, p.Type, "%s", p.Error())
	}
}

func (r *race) draftDigest(id int64) item.Digest {
	v, err := r.Look(ctx, viewer, "hut", id)
	require.NoError(r.t, err)
	return v.Digest()
}

// changes gives what a draft changes, by item; nil where it goes.
func (r *race) changes(id int64) map[string]*steps.State {
	dr, err := r.Store.FindDraft(ctx, id)
	require.NoError(r.t, err)
	rows, err := r.Store.DraftItems(ctx, dr)
	require.NoError(r.t, err)
	out := map[string]*steps.State{}
	for _, row := range rows {
		if out[row.ItemID] = nil; row.Op == store.Put {
			out[row.ItemID] = steps.StateOf(row.Head())
		}
	}
	return out
}

// holds checks that a draft is the fold of its log, and that its steps are whole.
func (r *race) holds(id int64) {
	r.t.Helper()
	if id == 0 {
		return
	}
	rows, err := r.DraftSteps(ctx, viewer, "hut", id)
	require.NoError(r.t, err)
	last := map[string]*steps.State{}
	for i, row := range rows {
		require.Equal(r.t, i+1, row.N, "no step is missing")
		s, err := row.Step()
		require.NoError(r.t, err)
		for _, e := range s.Edits {
			last[e.Item] = e.After
		}
	}
	for item, s := range r.changes(id) {
		was, logged := last[item]
		require.True(r.t, logged, "a change that no step made")
		require.True(r.t, was.Is(s), "the draft is what its log says")
	}
	_, err = r.Edit(ctx, keeper, desk.Edits{Site: "hut", Draft: id, Dry: true, List: []edit.Operation{{Op: edit.Set,
		Item: address("setting/strapline"), Value: "x"}}})
	require.NoError(r.t, err, "it can be worked in")
}
