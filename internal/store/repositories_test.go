package store_test

import (
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestADeliveryIsChangedOnlyAsSomebodySawIt(t *testing.T) {
	s := harness.Records(t)
	c, r := collection(t, s, "hut"), s.Read(ctx)
	v, err := r.Kits().Begin("basics", "1.0.0", "{}", "ida", now())
	require.NoError(t, err)
	d := &store.Delivery{CollectionID: c.ID, KitVersionID: v.ID, State: store.Opened, Ask: "{}", Etag: 1, ByUser: "ida",
		CreatedAt: now(), UpdatedAt: now()}
	require.NoError(t, r.Deliveries().Create(d))
	stamp, err := r.Deliveries().Stamp(d.ID)
	require.NoError(t, err)
	planned := store.DeliveryPlan{Ask: "{}", Plan: "{}", Digest: item.DigestOf([]byte("p")), Base: 7}

	assert.ErrorIs(t, r.Deliveries().Stage(d.ID, 1, 1, 0, "", now()), store.ErrMoved, "it is not planned")
	require.NoError(t, r.Deliveries().Plan(d.ID, 1, planned, now()))
	assert.ErrorIs(t, r.Deliveries().Plan(d.ID, 1, planned, now()), store.ErrMoved, "somebody planned it meanwhile")
	require.NoError(t, r.Deliveries().Plan(d.ID, 2, planned, now()), "a plan can be made again")
	other, err := r.Deliveries().Stamp(d.ID)
	require.NoError(t, err)
	assert.NotEqual(t, stamp, other)

	assert.ErrorIs(t, r.Deliveries().GoLive(d.ID, 1, "{}", now()), store.ErrMoved, "it is not staged")
	var dr *store.Draft
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error {
		dr, err = tx.NewDraft(c, "d", "ida", now())
		require.NoError(t, err)
		return tx.Deliveries().Stage(d.ID, 3, dr.ID, 7, "{}", now())
	}))
	of, err := r.Deliveries().OfDraft(dr.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Staged, of.State)
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error { return tx.DiscardDraft(dr.ID) }))
	of, err = r.Deliveries().ByID(d.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Planned, of.State, "without its draft it is planned again")
	_, err = r.Deliveries().OfDraft(dr.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = r.Deliveries().ByID(99)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestAKitVersionIsSealedOnce(t *testing.T) {
	s := harness.Records(t)
	c, r := collection(t, s, "hut"), s.Read(ctx)
	v, err := r.Kits().Begin("basics", "1.0.0", "{}", "ida", now())
	require.NoError(t, err)
	_, err = r.Kits().Begin("basics", "1.0.0", "{}", "ida", now())
	assert.True(t, store.IsDuplicate(err), "%v", err)
	_, err = r.Kits().Begin("basics", "1.1.0", "{}", "ida", now())
	require.NoError(t, err, "another version of the same kit")
	require.NoError(t, r.Kits().SetMaking(v, `{"title":"x"}`))
	sealed := store.SealedKit{Collection: c.ID, List: "{}", Digest: item.DigestOf([]byte("k"))}
	assert.ErrorIs(t, r.Kits().Seal(v.ID, 1, sealed, now()), store.ErrMoved, "it was changed since")
	require.NoError(t, r.Kits().Seal(v.ID, 2, sealed, now()))
	assert.ErrorIs(t, r.Kits().Seal(v.ID, 3, sealed, now()), store.ErrMoved, "it is already sealed")
	got, err := r.Kits().ByName("basics", "1.0.0")
	require.NoError(t, err)
	assert.Equal(t, store.Sealed, got.State)
	require.NoError(t, r.Kits().Sign(&got.KitVersion, "one", "", 1))
	assert.ErrorIs(t, r.Kits().Sign(&got.KitVersion, "two", "", 1), store.ErrMoved, "another signature came first")
	of, err := r.Kits().SealedOf(got.KitID)
	require.NoError(t, err)
	assert.Len(t, of, 1)
}

func TestAccountsAndSignIns(t *testing.T) {
	s := harness.Records(t)
	r := s.Read(ctx)
	u := &store.User{Name: "ida", Role: "keeper", Password: "old", CreatedAt: now()}
	require.NoError(t, r.Users().Create(u))
	assert.True(t, store.IsDuplicate(r.Users().Create(&store.User{Name: "ida", CreatedAt: now()})))
	require.NoError(t, r.Users().SwapPassword(u, "new"))
	assert.ErrorIs(t, r.Users().SwapPassword(u, "newer"), store.ErrMoved, "it was changed at the same time")
	off := true
	require.NoError(t, r.Users().Change(u.ID, store.UserChange{Disabled: &off}))
	_, err := r.Users().Active(u.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.True(t, store.UserChange{}.IsZero())

	in := func(hash, family string, ends time.Duration) *store.Session {
		x := &store.Session{Hash: hash, UserID: u.ID, Family: family, StartedAt: now(), CreatedAt: now(),
			RenewedAt: now(), ExpiresAt: now().Add(ends)}
		require.NoError(t, r.Sessions().Create(x))
		return x
	}
	a := in("a", "one", time.Hour)
	in("b", "two", time.Hour)
	in("c", "three", -time.Hour)
	_, err = r.Sessions().Valid("c", now())
	assert.ErrorIs(t, err, store.ErrNotFound, "it has expired")
	require.NoError(t, r.Sessions().Retire(a, now().Add(time.Second), now().Add(time.Minute)))
	assert.ErrorIs(t, r.Sessions().Retire(a, now(), now()), store.ErrMoved, "another request renewed it")
	require.NoError(t, r.Sessions().EndOthers(u.ID, "one"))
	left, err := r.Sessions().Of(u.ID, now())
	require.NoError(t, err)
	assert.Len(t, left, 1)
	was, err := r.Sessions().EndFamily(u.ID, "two")
	require.NoError(t, err)
	assert.False(t, was)

	require.NoError(t, r.SetupLinks().Replace(&store.SetupLink{Hash: "x", ExpiresAt: now().Add(time.Hour)}))
	require.NoError(t, r.SetupLinks().Replace(&store.SetupLink{Hash: "y", ExpiresAt: now().Add(time.Hour)}))
	for hash, want := range map[string]bool{"x": false, "y": true} {
		t.Run(hash, func(t *testing.T) {
			used, err := r.SetupLinks().Use(hash, now())
			require.NoError(t, err)
			assert.Equal(t, want, used, hash)
		})
	}
}

func TestOutletsBehindTheirSite(t *testing.T) {
	s := harness.Records(t)
	c, r := collection(t, s, "hut"), s.Read(ctx)
	o := &store.Outlet{CollectionID: c.ID, Name: "main", Folder: "hut/main", Links: "rooted", SiteDigest: c.Digest,
		ByUser: "ida", CreatedAt: now()}
	require.NoError(t, r.Outlets().Create(o))
	behind := func() []int64 {
		ids, err := r.Outlets().Behind(now())
		require.NoError(t, err)
		return ids
	}
	assert.Empty(t, behind())
	write(t, s, c, store.Change{Head: head(t, s, "block/a", "<p>a</p>", item.Meta{})})
	assert.Equal(t, []int64{c.ID}, behind())
	later := now().Add(time.Hour)
	o.TryAt = &later
	require.NoError(t, r.Outlets().Note(o))
	assert.Empty(t, behind(), "its time has not come")
	was, err := r.Outlets().Delete(c.ID, "main")
	require.NoError(t, err)
	assert.True(t, was)
	_, err = r.Outlets().ByName(c.ID, "main")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestWhatFailsLeavesNothing(t *testing.T) {
	s := harness.Records(t)
	err := s.Tx(ctx, func(tx *store.Tx) error {
		_, err := tx.Collections().Create(store.Site, "half", "Half", now())
		require.NoError(t, err)
		_, err = s.Read(tx.Context()).Collections().ByName(store.Site, "half")
		require.NoError(t, err, "with the transaction's context one reads within it")
		return store.ErrMoved
	})
	require.ErrorIs(t, err, store.ErrMoved)
	_, err = s.Read(ctx).Collections().ByName(store.Site, "half")
	assert.ErrorIs(t, err, store.ErrNotFound)
	trust, err := s.Read(ctx).TrustOf(1)
	require.NoError(t, err)
	assert.Equal(t, store.TrustIgnore, trust.Policy, "where none was set")
}
