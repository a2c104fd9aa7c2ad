package store_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/steps"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

func now() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }

// head keeps a content and gives its head.
func head(t *testing.T, s *store.Store, address, text string, m item.Meta) item.Head {
	t.Helper()
	h := item.Head{ID: store.NewID(), Address: item.MustAddress(address), Meta: m, Bytes: int64(len(text))}
	var err error
	h.Doc, err = s.PutContent(ctx, h.Address.Kind, []byte(text), now())
	require.NoError(t, err)
	f, err := s.KeepFacts(ctx, h, []byte(text))
	require.NoError(t, err)
	h.NormalizedDigest = f.NormalizedDigest
	return h
}

func collection(t *testing.T, s *store.Store, name string) *store.Collection {
	return collectionOf(t, s, store.Site, name)
}

func collectionOf(t *testing.T, s *store.Store, kind store.CollectionKind, name string) *store.Collection {
	t.Helper()
	var c *store.Collection
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) (err error) {
		c, err = tx.Collections().Create(kind, name, name, now())
		return err
	}))
	return c
}

func write(t *testing.T, s *store.Store, c *store.Collection, changes ...store.Change) int64 {
	t.Helper()
	var rev int64
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(c.ID)
		if err != nil {
			return err
		}
		rev, err = tx.Write(locked, changes, store.Note{By: "ida", Act: "test", Message: "test", At: now()})
		*c = *locked
		return err
	}))
	return rev
}

func live(t *testing.T, s *store.Store, c *store.Collection) *store.View {
	t.Helper()
	v, err := s.Live(ctx, c)
	require.NoError(t, err)
	return v
}

func text(t *testing.T, v *store.View, address string) string {
	t.Helper()
	h, ok := v.Find(item.MustAddress(address))
	require.True(t, ok, address)
	b, err := item.Read(v, h)
	require.NoError(t, err)
	return string(b)
}

func TestHistory(t *testing.T) {
	s := harness.Records(t)
	c := collection(t, s, "history")
	a := head(t, s, "page/a", "<p>one</p>", item.Meta{Slug: "/a/"})
	b := head(t, s, "menu/b", `{"entries":[]}`, item.Meta{})
	require.EqualValues(t, 1, write(t, s, c, store.Change{Head: a}, store.Change{Head: b}))
	first := c.Digest
	assert.Equal(t, first, live(t, s, c).Digest(), "the stored digest is that of the state")
	assert.EqualValues(t, 1, write(t, s, c, store.Change{Head: a}),
		"a change that changes nothing makes no revision")

	// A rename keeps the permanent id; two items can swap their names at once.
	a2, b2 := a, head(t, s, "page/b", "<p>other</p>", item.Meta{Slug: "/b/"})
	write(t, s, c, store.Change{Head: b2})
	a2.Address, b2.Address = b2.Address, a2.Address
	a2.Meta.Slug, b2.Meta.Slug = "/b/", "/a/"
	require.EqualValues(t, 3, write(t, s, c, store.Change{Head: a2}, store.Change{Head: b2}))
	v := live(t, s, c)
	assert.Equal(t, "<p>one</p>", text(t, v, "page/b"))
	h, ok := v.ByID(a.ID)
	require.True(t, ok)
	assert.Equal(t, "page/b", h.Address.String())

	write(t, s, c, store.Change{Delete: true, Head: a2}, store.Change{Delete: true, Head: b2})
	assert.Equal(t, first, func() item.Digest { // set back by hand
		write(t, s, c, store.Change{Head: a})
		return c.Digest
	}(), "the same state has the same digest again")
	old, err := s.At(ctx, c, 2)
	require.NoError(t, err)
	assert.Equal(t, "<p>one</p>", text(t, old, "page/a"))
	assert.Equal(t, "<p>other</p>", text(t, old, "page/b"))
	slug, ok := old.PageAt("/b/")
	assert.True(t, ok)
	assert.Equal(t, item.MustAddress("page/b"), slug)

	err = s.Tx(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(c.ID)
		require.NoError(t, err)
		_, err = tx.Write(locked, []store.Change{{Head: head(t, s, "page/a", "x", item.Meta{})}},
			store.Note{At: now()})
		return err
	})
	assert.ErrorContains(t, err, "page/a has been added since",
		"another item cannot take a name that is in use")
	assert.EqualValues(
		t,
		5,
		func() int64 { f, _ := s.Read(ctx).Collections().ByName(store.Site, "history"); return f.Revision }(),
		"nothing of it was kept",
	)
}

func TestWhereUsedAndSearch(t *testing.T) {
	s := harness.Records(t)
	c := collection(t, s, "used")
	page := head(
		t,
		s,
		"page/home",
		`<!doctype html><body><h1>Larches and ridges</h1><cp-section name="hours"></cp-section><a `+
			`href="/contact/">c</a></body>`,
		item.Meta{Slug: "/", Title: "Home"},
	)
	write(t, s, c, store.Change{Head: page})
	v := live(t, s, c)
	users, err := v.UsedBy(item.MustAddress("section/hours"))
	require.NoError(t, err)
	assert.Equal(t, []item.Address{page.Address}, users, "also of what is not there yet")
	linked, err := v.LinkedFrom("/contact/")
	require.NoError(t, err)
	assert.Equal(t, []item.Address{page.Address}, linked)
	c = collectionOf(t, s, store.Library, "shelf")
	page.ID = store.NewID()
	write(t, s, c, store.Change{Head: page})
	found, err := s.Search(ctx, c, "LARCH home")
	require.NoError(t, err)
	assert.True(t, found[page.ID])
	found, err = s.Search(ctx, c, "larch spruce")
	require.NoError(t, err)
	assert.Empty(t, found)
	found, err = s.Search(ctx, c, "100%_")
	require.NoError(t, err)
	assert.Empty(t, found)

	page2 := page
	page2.Doc, err = s.PutContent(ctx, item.Page, []byte("<p>other</p>"), now())
	require.NoError(t, err)
	page2.Bytes = 12
	write(t, s, c, store.Change{Head: page2})
	users, err = live(t, s, c).UsedBy(item.MustAddress("section/hours"))
	require.NoError(t, err)
	assert.Empty(t, users, "an edit renews what it uses")
}

func TestDrafts(t *testing.T) {
	s := harness.Records(t)
	c := collection(t, s, "drafts")
	a := head(t, s, "block/a", "<p>a</p>", item.Meta{})
	b := head(t, s, "block/b", "<p>b</p>", item.Meta{})
	write(t, s, c, store.Change{Head: a}, store.Change{Head: b})
	draft := func(premise item.Address, state item.Digest, changes ...store.Change) *store.Draft {
		var d *store.Draft
		require.NoError(t, s.Tx(ctx, func(tx *store.Tx) (err error) {
			if d, err = tx.NewDraft(c, "d", "ida", now()); err != nil {
				return err
			}
			for _, ch := range changes {
				base := item.Digest("")
				if h, ok := live(t, s, c).ByID(ch.Head.ID); ok {
					base = h.State()
				}
				if err := tx.PutDraftItem(d, ch, base); err != nil {
					return err
				}
			}
			if !premise.IsZero() {
				return s.DB(tx.Context()).Create(&store.DraftPrecondition{DraftID: d.ID, Kind: premise.Kind,
					Key: premise.Key, State: state}).Error
			}
			return nil
		}))
		return d
	}
	goLive := func(d *store.Draft) error {
		return s.Tx(ctx, func(tx *store.Tx) error {
			locked, err := tx.Collections().Lock(c.ID)
			if err != nil {
				return err
			}
			_, err = tx.GoLive(locked, d, store.Note{By: "ida", At: now()})
			if err == nil {
				*c = *locked
			}
			return err
		})
	}
	edited := func(h item.Head, to string) item.Head {
		n := head(t, s, h.Address.String(), to, h.Meta)
		n.ID = h.ID
		return n
	}
	one := draft(item.Address{}, "", store.Change{Head: edited(a, "<p>a1</p>")},
		store.Change{Head: head(t, s, "block/c", "<p>c</p>", item.Meta{})})
	two := draft(item.Address{}, "", store.Change{Head: edited(a, "<p>a2</p>")})
	three := draft(a.Address, a.State(), store.Change{Head: edited(b, "<p>b1</p>")})
	four := draft(item.MustAddress("block/d"), "", store.Change{Delete: true, Head: b})
	over, err := s.Over(ctx, c, one)
	require.NoError(t, err)
	assert.Equal(t, "<p>a1</p>", text(t, over, "block/a"))
	assert.Equal(t, "<p>a</p>", text(t, live(t, s, c), "block/a"),
		"a draft lies over the live state and leaves it")

	require.NoError(t, goLive(one))
	var stale *store.StaleError
	require.ErrorAs(t, goLive(two), &stale, "the item was changed meanwhile")
	assert.Equal(t, "block/a", stale.Conflicts[0].Address.String())
	require.ErrorAs(t, goLive(three), &stale, "what it relied on was changed meanwhile")
	require.NoError(t, goLive(four), "it touches something else")
	assert.ErrorContains(t, goLive(one), "is live", "a draft goes live once")
	_, there := live(t, s, c).Find(b.Address)
	assert.False(t, there)
	assert.Equal(t, "<p>a1</p>", text(t, live(t, s, c), "block/a"))
}

func TestContents(t *testing.T) {
	s := harness.Records(t)
	big := strings.Repeat("a long text ", 200_000)
	for address, body := range map[string]string{"block/empty": "", "block/small": "<p>ü</p>", "block/big": big,
		"media/x.png": "png"} {
		t.Run(address, func(t *testing.T) {
			h := head(t, s, address, body, item.Meta{})
			rc, err := s.Content(ctx, h)
			require.NoError(t, err, address)
			rc.Close()
			c := collection(t, s, "contents-"+strings.ReplaceAll(strings.ReplaceAll(address, "/", "-"), ".", "-"))
			write(t, s, c, store.Change{Head: h})
			assert.Equal(t, body, text(t, live(t, s, c), address), "%s", address)
		})
	}
	assert.True(t, wants(t, s, item.DigestOf([]byte("png")), now()), "an item refers to it")
	d, _, err := s.PutBlob(ctx, strings.NewReader("leased"), now())
	require.NoError(t, err)
	for at, want := range map[time.Duration]bool{0: true, 2 * store.Lease: false} {
		assert.Equal(t, want, wants(t, s, d, now().Add(at)), "after %s", at)
	}
	_, err = s.Content(ctx,
		item.Head{Address: item.MustAddress("block/x"), Doc: item.DigestOf([]byte("never kept"))})
	assert.Error(t, err)
}

// A file that only a step of a draft names is wanted while the draft is open: the step can be taken
// back.
func TestFilesOfStepsAreWanted(t *testing.T) {
	s := harness.Records(t)
	c := collection(t, s, "steps")
	d, _, err := s.PutBlob(ctx, strings.NewReader("a picture that was replaced"), now())
	require.NoError(t, err)
	var draft *store.Draft
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error {
		if draft, err = tx.NewDraft(c, "spring", "ida", now()); err != nil {
			return err
		}
		state := &steps.State{Address: item.MustAddress("media/x.png"), Doc: d}
		n, err := tx.AppendStep(draft, steps.Step{Kind: steps.Do, By: "ida",
			Edits: []steps.Edit{{Item: store.NewID(), Before: state}}}, "removed it", now())
		assert.Equal(t, 1, n)
		return err
	}))
	later := now().Add(2 * store.Lease)
	assert.True(t, wants(t, s, d, later))
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error { return tx.DiscardDraft(draft.ID) }))
	assert.False(t, wants(t, s, d, later), "who discards a draft takes nothing back")
}

func TestManyWritersAtOnce(t *testing.T) {
	s := harness.Records(t)
	c := collection(t, s, "many")
	errs := make(chan error, 8)
	for i := range 8 {
		h := head(t, s, fmt.Sprintf("block/n%d", i), "<p>x</p>", item.Meta{})
		go func() {
			errs <- s.Tx(ctx, func(tx *store.Tx) error {
				locked, err := tx.Collections().Lock(c.ID)
				if err != nil {
					return err
				}
				_, err = tx.Write(locked, []store.Change{{Head: h}}, store.Note{By: "x", At: now()})
				return err
			})
		}()
	}
	for range 8 {
		require.NoError(t, <-errs)
	}
	f, err := s.Read(ctx).Collections().ByName(store.Site, "many")
	require.NoError(t, err)
	assert.EqualValues(t, 8, f.Revision, "one line of revisions")
	assert.Len(t, live(t, s, f).Heads(), 8)
	assert.Equal(t, f.Digest, live(t, s, f).Digest())
}

// Metadata that cannot be decoded is a failure: never an item without an address.
func TestMetadataThatCannotBeRead(t *testing.T) {
	s := harness.Records(t)
	c := collection(t, s, "torn")
	write(t, s, c, store.Change{Head: head(t, s, "page/a", "<p>a", item.Meta{Slug: "/a/"})})
	require.NoError(t, s.DB(ctx).Exec("UPDATE items SET meta = LEFT(meta, 5)").Error)
	_, err := s.At(ctx, c, c.Revision-1)
	require.NoError(t, err, "it is not read there")
	var rows []store.Item
	err = s.DB(ctx).Find(&rows).Error
	require.ErrorIs(t, err, store.ErrDamaged)
	assert.True(t, store.IsDamaged(err))
}
