package desk_test

import (
	"errors"
	"fmt"
	"sync"
	"testing"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/making"
	"compactparcel/core/outside"
	"compactparcel/core/plan"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// made is a page that somebody was told was made in a draft.
type made struct {
	draft int64
	page  string
}

// While two people write, a folder is adopted again, a kit is delivered and taken back, drafts are brought up to date
// and go live, and an earlier state is brought back, all on one site: whoever was told that a page was made finds it,
// every refusal says why, each draft is what its log says, and all that is kept is whole.
func TestMuchAtOnceOnOneSite(t *testing.T) {
	r := newRace(t)
	_, err := r.Adopt(ctx, keeper, "barn", folderOf(map[string]string{"site.json": header,
		"pages/home.html": "<!doctype html><main><p>Barn</p></main>", "surround/top.html": "<header>Barn</header>",
		"sections/hours.html": "<section>Always</section>"}), desk.PartsNone)
	require.NoError(t, err)
	r.begin()
	_, err = r.KitAdd(ctx, librarian, "race", "1.0.0",
		[]making.Pick{{From: "barn", Address: address("section/hours")}})
	require.NoError(t, err)
	_, err = r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "")
	require.NoError(t, err)
	const rounds = 8
	var mu sync.Mutex
	var all []made
	did := map[string]int{}
	count := func(what string, err error) error {
		mu.Lock()
		defer mu.Unlock()
		var p *desk.Problem
		if err == nil {
			did[what]++
		} else if !errors.As(err, &p) || p.Type == desk.Damaged || p.Type == desk.Uncertain {
			assert.NoError(t, err, what)
		}
		return err
	}
	goLive := func(p desk.Person, draft int64) {
		if count("live", func() error { _, err := r.GoLive(ctx, p, "hut", draft); return err }()) == nil {
			return
		}
		got, err := r.DraftRebase(ctx, p, "hut", draft, nil)
		if count("rebased", err) != nil {
			return
		}
		decide := map[string]desk.Side{}
		for _, b := range got.Behind {
			decide[b.Address.String()] = desk.OfDraft
		}
		_, err = r.DraftRebase(ctx, p, "hut", draft, decide)
		if count("rebased", err) == nil {
			_, err = r.GoLive(ctx, p, "hut", draft)
			_ = count("live", err)
		}
	}
	writes := func(p desk.Person) {
		draft := int64(0)
		for i := range rounds {
			page := fmt.Sprintf("/%s-%d/", p.Name, i)
			got, err := r.Edit(ctx, p, desk.Edits{Site: "hut", Draft: draft, List: []edit.Operation{
				{Op: edit.PageNew, Page: page, Value: page}, {Op: edit.PageTitle, Page: "/a.html", Value: page}}})
			if count("written", err) != nil {
				draft = 0
				continue
			}
			draft = got.Draft.ID
			mu.Lock()
			all = append(all, made{draft, page})
			mu.Unlock()
			if i%3 == 2 {
				goLive(p, draft)
			}
		}
	}
	adopts := func() {
		for i := range rounds {
			got, err := r.AdoptAgain(ctx, keeper, "hut", folderOf(map[string]string{
				"index.html": fmt.Sprintf("<!doctype html><title>Hut</title><p>hut</p><p>%d</p>", i),
				"a.html":     "<!doctype html><p>a</p>"}), outside.Ask)
			if count("adopted", err) == nil && got.Draft != nil {
				goLive(keeper, got.Draft.ID)
			}
		}
	}
	delivers := func() {
		for range rounds {
			info, err := r.DeliveryOpen(ctx, librarian, "race", "1.0.0", "hut", plan.Request{Policy: "unattended"})
			if count("opened", err) != nil {
				continue
			}
			_, err = r.DeliveryStage(ctx, librarian, info.ID, "")
			if count("staged", err) != nil {
				continue
			}
			_, err = r.DeliveryGoLive(ctx, keeper, info.ID, nil)
			if count("delivered", err) == nil {
				_, err = r.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{})
				_ = count("undone", err)
			}
		}
	}
	brings := func() {
		for range rounds {
			got, err := r.BringBack(ctx, keeper, desk.BringBack{Site: "hut", Revision: 1,
				Items: []item.Address{address("page/home")}})
			if count("brought back", err) == nil && got.Draft != nil {
				_ = count("discarded", r.Discard(ctx, keeper, "hut", got.Draft.ID))
			}
		}
	}
	var done sync.WaitGroup
	for _, act := range []func(){func() { writes(keeper) },
		func() { writes(desk.Person{ID: 2, Name: "olga", Role: desk.Keeper}) }, adopts, delivers, brings} {
		done.Go(act)
	}
	done.Wait()
	t.Log(did)
	for _, what := range []string{"written", "live", "adopted", "opened", "brought back"} {
		assert.Positive(t, did[what], what)
	}
	live, err := r.Look(ctx, viewer, "hut", 0)
	require.NoError(t, err)
	for _, m := range all {
		dr, err := r.Store.FindDraft(ctx, m.draft)
		require.NoError(t, err)
		in := live
		if dr.State == store.DraftOpen {
			in, err = r.Look(ctx, viewer, "hut", m.draft)
			require.NoError(t, err)
			r.holds(m.draft)
		}
		_, there := in.PageAt(m.page)
		assert.True(t, there, "%s of draft %d, which is %s", m.page, m.draft, dr.State)
	}
	whole, err := r.Store.Verify(ctx, false, func(f store.Finding) { t.Logf("%+v", f) })
	require.NoError(t, err)
	assert.Zero(t, whole.Wrong)
}
