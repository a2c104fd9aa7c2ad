package desk_test

import (
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/making"
	"compactparcel/core/plan"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Of several deliveries of one kit an earlier one is undone: what later ones brought keeps its origin, and undoing
// those goes back past it.
func TestUndoingAnEarlierDeliveryKeepsTheOriginsOfLaterOnes(t *testing.T) {
	shop := newWorkshop(t)
	_, err := shop.Adopt(ctx, keeper, "guest", folderOf(map[string]string{
		"index.html": "<!doctype html><p>guest</p>"}), desk.PartsNone)
	require.NoError(t, err)
	change := func(a, text string) {
		e := desk.Edit{Site: "hut", Address: address(a), Content: []byte(text)}
		if got, err := shop.Item(ctx, viewer, "hut", e.Address, 0); err == nil {
			e.IfMatch = got.Head.State()
		}
		got, err := shop.EditItem(ctx, keeper, e)
		require.NoError(t, err)
		_, err = shop.GoLive(ctx, keeper, "hut", got.Draft.ID)
		require.NoError(t, err)
	}
	deliver := func(version string) *desk.DeliveryInfo {
		shop.begin("trio", version, making.Pick{From: "hut", Address: address("block/a")},
			making.Pick{From: "hut", Address: address("block/b")})
		shop.seal("trio", version)
		info, err := shop.DeliveryOpen(ctx, librarian, "trio", version, "guest", plan.Request{Policy: "unattended"})
		require.NoError(t, err)
		info, err = shop.DeliveryStage(ctx, librarian, info.ID, "")
		require.NoError(t, err)
		info, err = shop.DeliveryGoLive(ctx, keeper, info.ID, nil)
		require.NoError(t, err)
		return info
	}
	versions := func() map[string]string {
		c, err := shop.Store.Read(ctx).Collections().ByName(store.Site, "guest")
		require.NoError(t, err)
		list, err := shop.Store.Read(ctx).Origins().OfKit(c.ID, "trio")
		require.NoError(t, err)
		out := map[string]string{}
		for _, o := range list {
			out[o.KitKey] = o.Version
		}
		return out
	}
	text := func(a string) string {
		got, err := shop.Item(ctx, viewer, "guest", address(a), 0)
		require.NoError(t, err)
		return string(got.Content)
	}
	change("block/a", "<p>a 1.0</p>")
	change("block/b", "<p>b 1.0</p>")
	deliver("1.0.0")
	change("block/a", "<p>a 1.1</p>")
	middle := deliver("1.1.0")
	change("block/b", "<p>b 1.2</p>")
	last := deliver("1.2.0")
	require.Equal(t, map[string]string{"a": "1.2.0", "b": "1.2.0"}, versions())

	_, err = shop.DeliveryUndo(ctx, keeper, middle.ID, desk.Undo{})
	require.NoError(t, err)
	assert.Equal(t, []string{"<p>a 1.0</p>", "<p>b 1.2</p>"}, []string{text("block/a"), text("block/b")})
	assert.Equal(
		t,
		map[string]string{"a": "1.2.0", "b": "1.2.0"},
		versions(),
		"the site has 1.2.0, less what was undone",
	)

	_, err = shop.DeliveryUndo(ctx, keeper, last.ID, desk.Undo{Items: []item.Address{address("block/b")}})
	require.NoError(t, err)
	assert.Equal(t, "<p>b 1.0</p>", text("block/b"))
	assert.Equal(t, map[string]string{"a": "1.2.0", "b": "1.0.0"}, versions(), "1.1.0 is not come back to")
}

// A delivery that changes nothing, since the site has all of it, is undone without touching what somebody else put live
// before it.
func TestUndoingADeliveryThatChangedNothing(t *testing.T) {
	r := newRace(t)
	r.begin()
	_, err := r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "")
	require.NoError(t, err)
	dr, err := r.edit(0, "block/olgas", "<p>olga's work</p>", "")
	require.NoError(t, err)
	_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	for range 2 {
		info, err := r.DeliveryOpen(ctx, librarian, "race", "1.0.0", "hut", plan.Request{Policy: "unattended"})
		require.NoError(t, err)
		_, err = r.DeliveryStage(ctx, librarian, info.ID, "")
		require.NoError(t, err)
		_, err = r.DeliveryGoLive(ctx, keeper, info.ID, nil)
		require.NoError(t, err)
		_, err = r.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{Items: []item.Address{address("block/olgas")}})
		problem(t, err, desk.BadInput, "the delivery did not write block/olgas")
		_, err = r.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{})
		require.NoError(t, err)
		assert.Equal(t, "<p>olga's work</p>", r.text(0, "block/olgas"))
	}
}

// Every transaction may be tried again after a deadlock: what the first try left outside the records says
// nothing.
func TestTransactionsThatAreTriedAgain(t *testing.T) {
	r := newRace(t)
	r.Store.Rehearse()
	dr, err := r.OpenDraft(ctx, keeper, "hut", "")
	require.NoError(t, err)
	require.NoError(t, r.words(keeper, dr.ID, "/a.html", "p", "words", ""))
	same, err := r.OpenDraft(ctx, keeper, "hut", "")
	require.NoError(t, err)
	assert.Equal(t, dr.ID, same.ID, "it goes on in the last one")
	_, err = r.DraftUndo(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	_, err = r.DraftRedo(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	_, err = r.GoLive(ctx, keeper, "hut", dr.ID)
	require.NoError(t, err)
	assert.Contains(t, r.text(0, "page/a"), "words")
	r.begin()
	_, err = r.KitSeal(ctx, librarian, "race", "1.0.0", 0, "")
	require.NoError(t, err)
	info, err := r.DeliveryOpen(ctx, librarian, "race", "1.0.0", "hut", plan.Request{Policy: "unattended"})
	require.NoError(t, err)
	_, err = r.DeliveryStage(ctx, librarian, info.ID, "")
	require.NoError(t, err)
	_, err = r.DeliveryGoLive(ctx, keeper, info.ID, nil)
	require.NoError(t, err)
	_, err = r.DeliveryUndo(ctx, keeper, info.ID, desk.Undo{})
	require.NoError(t, err)
}
