package desk_test

import (
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"testing"
	"time"

	"compactparcel/core/edit"
	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/core/steps"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// together starts acts while a site's row is held, lets go of it when all of them wait, and
// gives what each ended with: the worst moment for a race.
func together(t *testing.T, d *desk.Desk, site string, acts ...func() error) []error {
	t.Helper()
	c, err := d.Store.Read(ctx).Collections().ByName(store.Site, site)
	require.NoError(t, err)
	errs := make([]error, len(acts))
	var done sync.WaitGroup
	require.NoError(t, d.Store.Tx(ctx, func(tx *store.Tx) error {
		if _, err := tx.Collections().Lock(c.ID); err != nil {
			return err
		}
		for i, act := range acts {
			done.Go(func() { errs[i] = act() })
		}
		for range 600 { // until they wait, or none of them will
			var waiting int
			if err := d.Store.DB(ctx).
				Raw("SELECT COUNT(*) FROM information_schema.processlist WHERE command = 'Query' AND id <> " +
					"CONNECTION_ID() AND info LIKE '%FOR UPDATE'").
				Scan(&waiting).
				Error; err != nil {
				return err
			}
			if waiting == len(acts) {
				break
			}
			time.Sleep(5 * time.Millisecond)
		}
		return nil
	}))
	done.Wait()
	return errs
}

// won counts the acts that succeeded; all others must have been told one of some types.
func won(t *testing.T, errs []error, types ...desk.ProblemType) int {
	t.Helper()
	n := 0
	for _, err := range errs {
		if err == nil {
			n++
			continue
		}
		var p *desk.Problem
		require.True(t, errors.As(err, &p), "%v", err)
		assert.Contains(t, types, p.Type, "%s", p.Error())
	}
	return n
}

// race is a desk with a site "hut" that several people change at once.
type race struct {
	*desk.Desk
	t *testing.T
}

func newRace(t *testing.T) *race {
	d := desk.New(harness.Records(t), slog.New(slog.DiscardHandler))
	_, err := d.Adopt(ctx, keeper, "hut", folderOf(map[string]string{
		"index.html": "<!doctype html><title>Hut</title><p>hut</p>", "a.html": "<!doctype html><p>a</p>",
	}), desk.PartsNone)
	require.NoError(t, err)
	return &race{d, t}
}

func (r *race) text(draft int64, a string) string {
	r.t.Helper()
	v, err := r.Look(ctx, viewer, "hut", draft)
	require.NoError(r.t, err)
	h, ok := v.Find(address(a))
	require.True(r.t, ok, a)
	b, err := item.Read(v, h)
	require.NoError(r.t, err)
	return string(b)
}

func (r *race) state(draft int64, a string) item.Digest {
	v, err := r.Look(ctx, viewer, "hut", draft)
	require.NoError(r.t, err)
	h, _ := v.Find(address(a))
	return h.State()
}

func (r *race) edit(draft int64, a, to string, seen item.Digest) (*store.Draft, error) {
	got, err := r.EditItem(ctx, keeper,
		desk.Edit{Site: "hut", Draft: draft, Address: address(a), Content: []byte(to), IfMatch: seen})
	if err != nil {
		return nil, err
	}
	return got.Draft, nil
}

func TestTwoEditsOfWhatBothHaveSeen(t *testing.T) {
	r := newRace(t)
	for range 5 {
		dr, err := r.edit(0, "block/x", "<p>first</p>", "")
		require.NoError(t, err)
		seen := r.state(dr.ID, "block/x")
		errs := together(
			t,
			r.Desk,
			"hut",
			func() error { _, err := r.edit(dr.ID, "block/x", "<p>left</p>", seen); return err },
			func() error { _, err := r.edit(dr.ID, "block/x", "<p>right</p>", seen); return err },
		)
		require.Equal(t, 1, won(t, errs, desk.Stale), "one of them is told")
		want := "<p>left</p>"
		if errs[0] != nil {
			want = "<p>right</p>"
		}
		assert.Equal(t, want, r.text(dr.ID, "block/x"), "and what is kept is what the other was told")
		require.NoError(t, r.Discard(ctx, keeper, "hut", dr.ID))
	}
}

func TestAnEditWhileItsDraftGoesLive(t *testing.T) {
	r := newRace(t)
	for i := range 6 {
		a := fmt.Sprintf("block/live-%d", i)
		dr, err := r.edit(0, a, "<p>one</p>", "")
		require.NoError(t, err)
		seen := r.state(dr.ID, a)
		errs := together(t, r.Desk, "hut", func() error { _, err := r.GoLive(ctx, keeper, "hut", dr.ID); return err },
			func() error { _, err := r.edit(dr.ID, a, "<p>two</p>", seen); return err })
		require.NoError(t, errs[0])
		if errs[1] == nil {
			assert.Equal(t, "<p>two</p>", r.text(0, a), "the edit was in time: it is live")
		} else {
			problem(t, errs[1], desk.Refused, "is live")
			assert.Equal(t, "<p>one</p>", r.text(0, a))
		}
	}
}

func TestOneDraftGoesLiveSeveralTimes(t *testing.T) {
	r := newRace(t)
	dr, err := r.edit(0, "block/once", "<p>once</p>", "")
	require.NoError(t, err)
	before, err := r.Site(ctx, viewer, "hut")
	require.NoError(t, err)
	act := func() error { _, err := r.GoLive(ctx, keeper, "hut", dr.ID); return err }
	assert.Equal(t, 1, won(t, together(t, r.Desk, "hut", act, act, act, act), desk.Refused))
	after, err := r.Site(ctx, viewer, "hut")
	require.NoError(t, err)
	assert.Equal(t, before.Revision+1, after.Revision)
}

func TestTwoPagesWantOneAddress(t *testing.T) {
	r := newRace(t)
	page := func(key string) int64 {
		got, err := r.EditItem(
			ctx,
			keeper,
			desk.Edit{
				Site:    "hut",
				Address: address("page/" + key),
				Content: []byte("<!doctype html><p>" + key),
				Meta:    &item.Meta{Slug: "/wanted/"},
			},
		)
		require.NoError(t, err)
		return got.Draft.ID
	}
	one, two := page("one"), page("two")
	errs := together(
		t,
		r.Desk,
		"hut",
		func() error { _, err := r.GoLive(ctx, keeper, "hut", one); return err },
		func() error { _, err := r.GoLive(ctx, keeper, "hut", two); return err },
	)
	assert.Equal(t, 1, won(t, errs, desk.Stale))
	late := errs[0]
	if late == nil {
		late = errs[1]
	}
	problem(t, late, desk.Stale, "wants the address /wanted/, at which page/")
	// The table holds the same, whoever writes.
	err := r.Store.DB(ctx).
		Exec("UPDATE items SET slug = '/wanted/' WHERE item_key = 'home' AND kind = 'page' AND to_rev = ?",
			store.Forever).
		Error
	assert.True(t, store.IsDuplicate(err), "%v", err)
}

// begin makes a kit of one of the site's pages.
func (r *race) begin() {
	r.t.Helper()
	_, err := r.NewKit(ctx, librarian, "race", "1.0.0",
		making.Draft{Title: "R", Terms: kit.Terms{License: "CC0-1.0"}})
	require.NoError(r.t, err)
	_, err = r.KitAdd(ctx, librarian, "race", "1.0.0", []making.Pick{{From: "hut", Address: address("page/a")}})
	require.NoError(r.t, err)
}

func TestSealingWhileItIsChanged(t *testing.T) {
	r := newRace(t)
	r.begin()
	var wg sync.WaitGroup
	var sealed, changed error
	wg.Go(func() { _, sealed = r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "") })
	wg.Go(func() {
		_, changed = r.KitDescribe(ctx, librarian, "race", "1.0.0", 0,
			func(m *making.Draft) { m.Title = "Changed" })
	})
	wg.Wait()
	if sealed != nil {
		problem(t, sealed, desk.Stale, "")
		require.NoError(t, changed)
		_, err := r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "")
		require.NoError(t, err)
	}
	info, err := r.Kit(ctx, viewer, "race", "1.0.0")
	require.NoError(t, err)
	if changed == nil {
		assert.Equal(t, "Changed", info.Packs.Title, "what was said before it was sealed is in it")
	}
}

func TestADeliveryTwiceAtOnce(t *testing.T) {
	r := newRace(t)
	r.begin()
	_, err := r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "")
	require.NoError(t, err)
	info, err := r.DeliveryOpen(ctx, librarian, "race", "1.0.0", "hut", plan.Request{Policy: "unattended"})
	require.NoError(t, err)
	stage := func() error { _, err := r.DeliveryStage(ctx, librarian, info.ID, ""); return err }
	won(t, together(t, r.Desk, "hut", stage, stage, stage), desk.Stale)
	drafts, err := r.Drafts(ctx, viewer, "hut")
	require.NoError(t, err)
	n := 0
	for _, dr := range drafts.List {
		if strings.HasPrefix(dr.Name, "race@") {
			n++
		}
	}
	assert.Equal(t, 1, n, "one draft, not three")
	live := func() error { _, err := r.DeliveryGoLive(ctx, keeper, info.ID, nil); return err }
	discard := func() error { return r.Discard(ctx, keeper, "hut", drafts.List[len(drafts.List)-1].ID) }
	errs := together(t, r.Desk, "hut", live, live, discard)
	assert.Equal(t, 1, won(t, errs, desk.Refused, desk.Stale, desk.NotFound), "live once, or discarded")
	if errs[2] == nil {
		require.NoError(t, stage())
		require.NoError(t, live())
	}
	undo := func() error { _, err := r.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{}); return err }
	assert.Equal(t, 1, won(t, together(t, r.Desk, "hut", undo, undo, undo), desk.Refused))
}

func TestTheFirstAdminTwiceAtOnce(t *testing.T) {
	fresh := desk.New(harness.Records(t), slog.New(slog.DiscardHandler))
	link, err := fresh.SetupLink(ctx)
	require.NoError(t, err)
	errs := make([]error, 6)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Go(func() { errs[i] = fresh.Setup(ctx, link, fmt.Sprintf("admin-%d", i), "a long password") })
	}
	wg.Wait()
	assert.Equal(t, 1, won(t, errs, desk.Forbidden))
	all, err := fresh.Users(ctx, admin)
	require.NoError(t, err)
	require.Len(t, all, 1)
	// Two admins who switch each other off leave one.
	require.NoError(t, fresh.NewUser(ctx, admin, "second", "a long password", desk.Admin))
	off := true
	for i, name := range []string{all[0].Name, "second"} {
		wg.Go(func() { _, errs[i] = fresh.ChangeUser(ctx, admin, name, desk.UserChange{Disabled: &off}) })
	}
	wg.Wait()
	assert.Equal(t, 1, won(t, errs[:2], desk.Refused))
}

func TestOutletsTwiceAtOnce(t *testing.T) {
	r := newRace(t)
	r.OutletRoot = t.TempDir()
	errs := make([]error, 4)
	var wg sync.WaitGroup
	for i, f := range []string{"a", "a/b", "a/b/c", "a"} {
		wg.Go(func() {
			_, errs[i] = r.AddOutlet(ctx, keeper, "hut", desk.NewOutlet{Name: fmt.Sprintf("o%d", i), Folder: f})
		})
	}
	wg.Wait()
	assert.Equal(t, 1, won(t, errs, desk.Exists), "no two overlap")
	for _, f := range []string{".", "..", "../x", "/x", "x.releases", "x.next/y", ".hidden", "a\x00b",
		strings.Repeat("x", 401)} {
		t.Run(f, func(t *testing.T) {
			_, err := r.AddOutlet(ctx, keeper, "hut", desk.NewOutlet{Name: "bad", Folder: f})
			problem(t, err, desk.BadInput, "")
		})
	}
}

// A plan that is asked for while another delivery goes live is of before or of after, and
// whichever it is, staging holds it against the site as it is: what goes live in the end is
// what a plan says of the site then.
func TestAPlanWhileAnotherDeliveryGoesLive(t *testing.T) {
	r := newRace(t)
	r.begin()
	_, err := r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "")
	require.NoError(t, err)
	_, err = r.Adopt(ctx, keeper, "other",
		folderOf(map[string]string{"index.html": "<!doctype html><title>Other</title><p>other</p>"}), desk.PartsNone)
	require.NoError(t, err)
	ask := plan.Request{Policy: "unattended"}
	first, err := r.DeliveryOpen(ctx, librarian, "race", "1.0.0", "other", ask)
	require.NoError(t, err)
	_, err = r.DeliveryStage(ctx, librarian, first.ID, "")
	require.NoError(t, err)
	second, err := r.DeliveryOpen(ctx, librarian, "race", "1.0.0", "other", ask)
	require.NoError(t, err)

	var again sync.WaitGroup
	var planned [4]error
	for i := range planned {
		again.Go(func() { _, planned[i] = r.Replan(ctx, librarian, second.ID) })
	}
	_, live := r.DeliveryGoLive(ctx, keeper, first.ID, nil)
	again.Wait()
	require.NoError(t, live)
	assert.Positive(t, won(t, planned[:], desk.Stale), "plans made at once: one is kept, others are told")

	second, err = r.Delivery(ctx, viewer, second.ID)
	require.NoError(t, err)
	if _, err = r.DeliveryStage(ctx, librarian, second.ID, second.PlanDigest); err != nil {
		problem(t, err, desk.Stale, "since the plan was made")
		second, err = r.Replan(ctx, librarian, second.ID)
		require.NoError(t, err)
		_, err = r.DeliveryStage(ctx, librarian, second.ID, second.PlanDigest)
	}
	require.NoError(t, err)
	second, err = r.Delivery(ctx, viewer, second.ID)
	require.NoError(t, err)
	for _, row := range second.Planned.Rows {
		assert.Equal(t, plan.Same, row.Standing, "%s has come with the other delivery: %s", row.Address, row.Why)
	}
	_, err = r.DeliveryGoLive(ctx, keeper, second.ID, nil)
	require.NoError(t, err)
}

// words writes words into an element of a page, as it was seen.
func (r *race) words(p desk.Person, draft int64, page, element, value, seen string, done ...edit.Operation) error {
	r.t.Helper()
	in := desk.Edits{Site: "hut", Draft: draft, Done: done,
		List: []edit.Operation{{Op: edit.Text, Page: page, Element: element, Value: value}}}
	if seen != "" {
		moment, err := steps.ParseSeen(seen)
		require.NoError(r.t, err)
		in.Seen = &moment
	}
	_, err := r.Edit(ctx, p, in)
	return err
}

// seen gives the moment that a page shows.
func (r *race) seen(draft int64, page string) string {
	r.t.Helper()
	o, err := r.Outline(ctx, viewer, "hut", page, draft)
	require.NoError(r.t, err)
	return o.Seen.String()
}

// What another draft put live below mine since I loaded the page is not written over in silence.
func TestWhatWentLiveSinceIsNotOverwritten(t *testing.T) {
	r := newRace(t)
	r.live("page/a", "<!doctype html><main><h1>Two</h1><p>words</p></main>")
	mine, err := r.OpenDraft(ctx, keeper, "hut", "mine")
	require.NoError(t, err)
	other, err := r.OpenDraft(ctx, keeper, "hut", "other")
	require.NoError(t, err)
	seen := r.seen(mine.ID, "/a.html")
	require.NoError(t, r.words(keeper, other.ID, "/a.html", "main p", "theirs", ""))
	_, err = r.GoLive(ctx, keeper, "hut", other.ID)
	require.NoError(t, err)

	problem(t, r.words(keeper, mine.ID, "/a.html", "main p", "mine", seen), desk.Stale, "meanwhile")
	assert.Contains(t, r.text(mine.ID, "page/a"), "theirs")
	require.NoError(t, r.words(keeper, mine.ID, "/a.html", "main h1", "Mine", seen), "what they did not touch")
	assert.Contains(t, r.text(mine.ID, "page/a"), "<h1>Mine</h1><p>theirs</p>")

	// Once the draft changes the page itself, what goes live is brought in by a step, and that counts.
	seen = r.seen(mine.ID, "/a.html")
	third, err := r.OpenDraft(ctx, keeper, "hut", "third")
	require.NoError(t, err)
	require.NoError(t, r.words(keeper, third.ID, "/a.html", "main p", "third", ""))
	_, err = r.GoLive(ctx, keeper, "hut", third.ID)
	require.NoError(t, err)
	_, err = r.DraftRebase(ctx, keeper, "hut", mine.ID, nil)
	require.NoError(t, err)
	problem(t, r.words(keeper, mine.ID, "/a.html", "main p", "mine", seen), desk.Stale, "meanwhile")
	require.NoError(t, r.words(keeper, mine.ID, "/a.html", "main p", "mine", r.seen(mine.ID, "/a.html")))

	problem(t, r.words(keeper, mine.ID, "/a.html", "main p", "x", "999@1"), desk.Stale, "no moment 999@1")
}

// Typing that goes on in one step is seen as new by whoever loaded the page while it grew.
func TestTypingThatGrewIsNotOverwritten(t *testing.T) {
	r := newRace(t)
	r.live("page/a", "<!doctype html><main><h1>Two</h1><p>words</p></main>")
	dr, err := r.OpenDraft(ctx, keeper, "hut", "mine")
	require.NoError(t, err)
	ida, ben := keeper, keeper
	ida.Name, ben.Name = "ida", "ben"
	ida, ben = ida.In("first"), ben.In("second")
	start := r.seen(dr.ID, "/a.html")
	type2 := func(words string, done ...edit.Operation) {
		require.NoError(t, r.words(ida, dr.ID, "/a.html", "main p", words, start, done...))
	}
	type2("w")
	first := edit.Operation{Op: edit.Text, Page: "/a.html", Element: "main p", Value: "w"}
	seen := r.seen(dr.ID, "/a.html")
	type2("we ar", first)
	log, err := r.DraftSteps(ctx, ida, "hut", dr.ID)
	require.NoError(t, err)
	require.Len(t, log, 1, "it is one step that grew")
	assert.NotEqual(t, seen, r.seen(dr.ID, "/a.html"))
	problem(t, r.words(ben, dr.ID, "/a.html", "main p", "mine", seen), desk.Stale, "meanwhile")
	assert.Contains(t, r.text(dr.ID, "page/a"), "we ar")
	require.NoError(t, r.words(ben, dr.ID, "/a.html", "main h1", "Ben's", seen))
	assert.Contains(t, r.text(dr.ID, "page/a"), "<h1>Ben's</h1><p>we ar</p>")
	_, err = r.DraftUndo(ctx, ida, "hut", dr.ID)
	require.NoError(t, err)
	assert.Contains(t, r.text(dr.ID, "page/a"), "<h1>Ben's</h1><p>words</p>", "one undo takes all of it back")
}

// A list of operations that changes an item and then removes it removes it.
func TestChangedAndThenRemovedInOneListIsGone(t *testing.T) {
	r := newRace(t)
	got, err := r.Edit(ctx, keeper, desk.Edits{Site: "hut", List: []edit.Operation{
		{Op: edit.PageTitle, Page: "/a.html", Value: "Other"}, {Op: edit.PageRemove, Page: "/a.html"},
	}})
	require.NoError(t, err)
	v, err := r.Look(ctx, viewer, "hut", got.Draft.ID)
	require.NoError(t, err)
	_, there := v.Find(address("page/a"))
	assert.False(t, there)
	_, there = v.PageAt("/a.html")
	assert.False(t, there)
}

// Operations are worked out before the site is held: what cannot be done is told while somebody else holds it, and
// what can is worked out again where the draft moved on.
func TestOperationsAreWorkedOutOutsideTheLock(t *testing.T) {
	r := newRace(t)
	dr, err := r.OpenDraft(ctx, keeper, "hut", "mine")
	require.NoError(t, err)
	c, err := r.Store.Read(ctx).Collections().ByName(store.Site, "hut")
	require.NoError(t, err)
	require.NoError(t, r.Store.Tx(ctx, func(tx *store.Tx) error {
		if _, err := tx.Collections().Lock(c.ID); err != nil {
			return err
		}
		problem(t, r.words(keeper, dr.ID, "/a.html", "p.none", "x", ""), desk.Refused, "")
		return nil
	}))
	acts := make([]func() error, 8)
	for i := range acts {
		acts[i] = func() error {
			_, err := r.Edit(ctx, keeper, desk.Edits{Site: "hut", Draft: dr.ID, List: []edit.Operation{
				{Op: edit.PageNew, Page: fmt.Sprintf("/new-%d/", i), Value: "New"}}})
			return err
		}
	}
	for _, err := range together(t, r.Desk, "hut", acts...) {
		require.NoError(t, err)
	}
	v, err := r.Look(ctx, viewer, "hut", dr.ID)
	require.NoError(t, err)
	for i := range acts {
		_, there := v.PageAt(fmt.Sprintf("/new-%d/", i))
		assert.True(t, there)
	}
	r.holds(dr.ID)
}

// So is a piece that is used: what cannot be done is told while somebody else holds the site, and what can is laid
// under the lock, each piece once, at the end of a page that has no main.
func TestAPieceIsPlannedOutsideTheLock(t *testing.T) {
	r := newRace(t)
	_, err := r.Adopt(ctx, keeper, "barn", folderOf(map[string]string{"site.json": header,
		"pages/home.html": "<!doctype html><main><p>Barn</p></main>", "surround/top.html": "<header>Barn</header>",
		"sections/hours.html": "<section>Always</section>"}), desk.PartsNone)
	require.NoError(t, err)
	dr, err := r.edit(0, "section/hours", "<section>Never</section>", "")
	require.NoError(t, err)
	c, err := r.Store.Read(ctx).Collections().ByName(store.Site, "hut")
	require.NoError(t, err)
	require.NoError(t, r.Store.Tx(ctx, func(tx *store.Tx) error {
		if _, err := tx.Collections().Lock(c.ID); err != nil {
			return err
		}
		_, err := r.Use(ctx, keeper, desk.Use{Site: "hut", Draft: dr.ID, From: "barn", Piece: address("section/hours"),
			Page: "/a.html", Beside: "p.none"})
		problem(t, err, desk.Refused, "names no element")
		return nil
	}))
	acts := make([]func() error, 6)
	for i := range acts {
		acts[i] = func() error {
			_, err := r.Use(ctx, keeper, desk.Use{Site: "hut", Draft: dr.ID, From: "barn", Piece: address("page/home"),
				Element: "p", As: address(fmt.Sprintf("section/came-%d", i)), Page: "/a.html"})
			return err
		}
	}
	for _, err := range together(t, r.Desk, "hut", acts...) {
		require.NoError(t, err)
	}
	for i := range acts {
		assert.Equal(t, 1, strings.Count(r.text(dr.ID, "page/a"), fmt.Sprintf(`name="came-%d"`, i)))
	}
	r.holds(dr.ID)
}
