package store_test

import (
	"bytes"
	"database/sql"
	"io"
	"testing"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/views"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Data that were written under the names of before are read under those of today: the same
// site, with digests that fit, drafts that still go live, and kits that still open.
func TestDataOfBeforeIsConverted(t *testing.T) {
	open, dsn := harness.Database(t)
	s := open()
	c := collection(t, s, "hut")
	top := head(t, s, "part/top", "<h1><cp-tagline></cp-tagline></h1>", item.Meta{Role: item.Header})
	write(t, s, c,
		store.Change{Head: head(t, s, "setting/tagline", `"Above the mist"`, item.Meta{})},
		store.Change{Head: head(t, s, "setting/search-visibility", "false", item.Meta{})},
		store.Change{Head: head(t, s, "page/home", "<p>home</p>", item.Meta{Slug: "/"})}, store.Change{Head: top})
	write(t, s, c, store.Change{Head: head(t, s, "block/new", "<p>new</p>", item.Meta{})})
	k := collectionOf(t, s, store.Kit, "tops@1.0.0")
	write(t, s, k, store.Change{Head: top})
	both := collection(t, s, "both") // it has a setting of its own under a new name
	write(t, s, both, store.Change{Head: head(t, s, "setting/home-page", `"page/a"`, item.Meta{})},
		store.Change{Head: head(t, s, "setting/home", `"a stove"`, item.Meta{})})
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	exec := func(q string, args ...any) {
		t.Helper()
		_, err := db.Exec(q, args...)
		require.NoError(t, err, q)
	}
	exec(`UPDATE items SET meta = '{"role":"header","placement":{"on":["home"],"except":["search"]},` +
		`"trigger":{"on":"depth","value":40,"once":true},"width":"full"}' WHERE kind = 'part'`)
	exec(`UPDATE items SET meta = '{"slug":"/","width":"odd"}' WHERE kind = 'page'`)
	exec("INSERT IGNORE INTO item_refs (collection_id, item_id, to_name) SELECT collection_id, item_id, " +
		"'setting/tagline' " +
		"FROM items WHERE kind = 'part'")
	exec("DELETE FROM item_refs WHERE to_name = 'setting/strapline'")
	exec("UPDATE items SET state = SHA2(id, 256)") // whatever they were
	exec(`INSERT INTO drafts (id, collection_id, name, token, state, base_rev, by_user, created_at) VALUES ` +
		`(1, 1, 'd', 't', 'open', 2, 'ida', NOW())`)
	exec(`INSERT INTO draft_items SELECT 1, item_id, 'put', kind, item_key, doc, normalized_digest, bytes, meta, ` +
		`state ` +
		`FROM items WHERE collection_id = 1 AND kind = 'part'`)
	exec(`INSERT INTO draft_preconditions SELECT 1, kind, item_key, state FROM items WHERE item_key = 'tagline'`)
	exec(`INSERT INTO kits (id, name, created_at) VALUES (1, 'tops', NOW())`)
	exec(`INSERT INTO kit_versions (id, kit_id, version, state, making, collection_id, list, seal, digest, file, `+
		`by_user,
		created_at) VALUES (1, 1, '1.0.0', 'sealed', '{"picks":[{"from":"hut","address":"setting/tagline"}],`+
		`"leaves":[{"address":"menu/main"}]}', `+
		`2, ?, 'x',
		SHA2('old', 256), SHA2('file', 256), 'ida', NOW())`, `{"format":1,"kit":"tops","version":"1.0.0","terms":`+
		`{"license":"CC0-1.0","resale":false,"sites":null},"engine":"^0.1.0","items":[{"kind":"part","key":"top",`+
		`"path":"site-parts/top.html","sha256":"`+string(top.Doc)+`","sense":"`+string(top.NormalizedDigest)+
		`","bytes":34,"meta":{"role":"header","placement":{"on":["home"]}}}]}`)
	exec(`INSERT INTO deliveries (id, collection_id, kit_version_id, state, ask, plan, receipt, staged, by_user, ` +
		`created_at,
		updated_at) VALUES (1, 1, 1, 'live', ` +
		`'{"partsMayGiveWay":true,"fills":{"about":"setting/tagline","says":"hello"},` +
		`"decisions":{"propose:setting/home-page":{"decision":"keep"},"setting/tagline":{"decision":"take",` +
		`"about":"` + string(top.Doc) + `"}}}', '{"questions":[{"about":"menu/main","says":"Which?","choices":` +
		`[{"decision":"take","leads":"it comes"}]}],"seats":[{"decidedBy":"you, at the last delivery"}]}', '', ` +
		`'', 'ida', NOW(),
		NOW())`)
	var before string
	require.NoError(t, db.QueryRow("SELECT digest FROM collections WHERE id = 1").Scan(&before))
	exec("DELETE FROM goose_db_version WHERE version_id >= 7")

	for range 2 { // and nothing the second time
		s = open()
		var told []string
		_, err := s.Verify(ctx, false, func(f store.Finding) { told = append(told, f.What+": "+f.Message) })
		require.NoError(t, err)
		assert.Empty(t, told)
		c, err = s.Read(ctx).Collections().ByName(store.Site, "hut")
		require.NoError(t, err)
		assert.NotEqual(t, before, string(c.Digest))
		live := live(t, s, c)
		assert.Equal(t, c.Digest, live.Digest())
		assert.Equal(t, `"Above the mist"`, text(t, live, "setting/strapline"))
		assert.Equal(t, `"noindex"`, text(t, live, "setting/robots"))
		assert.Equal(t, "<h1><cp-strapline></cp-strapline></h1>", text(t, live, "part/top"))
		part, _ := live.Find(item.MustAddress("part/top"))
		assert.Equal(t, &item.Placement{Where: []string{"home"}, Unless: []string{"search"}}, part.Meta.Placement)
		assert.Equal(t, &item.Trigger{On: item.OnScroll, Value: 0.4, Repeat: item.RepeatNever}, part.Meta.Trigger)
		assert.Equal(t, item.WidthEdge, part.Meta.Width)
		users, err := live.UsedBy(item.MustAddress("setting/strapline"))
		require.NoError(t, err)
		assert.Equal(t, []item.Address{part.Address}, users)
		exec("DELETE FROM goose_db_version WHERE version_id >= 7")
	}
	d, err := s.FindDraft(ctx, 1)
	require.NoError(t, err)
	require.NoError(t, s.Tx(ctx, func(tx *store.Tx) error {
		locked, err := tx.Collections().Lock(c.ID)
		require.NoError(t, err)
		_, err = tx.GoLive(locked, d, store.Note{By: "ida", At: now()})
		return err
	}), "what the draft relied on is as it was")

	both, err = s.Read(ctx).Collections().ByName(store.Site, "both")
	require.NoError(t, err)
	assert.Equal(t, `"a stove"`, text(t, live(t, s, both), "setting/home"), "nobody's own setting is replaced")
	assert.Equal(t, `"page/a"`, text(t, live(t, s, both), "setting/home-page"))

	v, err := s.Read(ctx).Kits().ByName("tops", "1.0.0")
	require.NoError(t, err)
	assert.Empty(t, v.Seal, "a signature was over the old list")
	assert.JSONEq(t, `{"picks":[{"from":"hut","address":"setting/strapline"}],"exclusions":[{"address":"menu/main"}]}`,
		v.Making)
	f, err := s.Blobs.Open(v.File)
	require.NoError(t, err)
	defer f.Close()
	packed, err := io.ReadAll(f)
	require.NoError(t, err)
	opened, err := kit.Open(bytes.NewReader(packed), v.FileBytes)
	require.NoError(t, err)
	require.NoError(t, opened.Verify())
	assert.Equal(t, v.Digest, opened.Digest)
	own, err := views.Own(&opened.List, opened)
	require.NoError(t, err)
	assert.True(t, own)

	del, err := s.Read(ctx).Deliveries().ByID(1)
	require.NoError(t, err)
	assert.JSONEq(t, `{"seats":"kit","fills":{"about":"setting/tagline","says":"hello"},`+
		`"decisions":{"propose:setting/home":{"decision":"keep"},"setting/strapline":{"decision":"take",`+
		`"subjectDigest":"`+
		string(opened.List.Items[0].SHA256)+`"}}}`, del.Ask)
	assert.JSONEq(t, `{"questions":[{"key":"menu/main","message":"Which?","choices":[{"decision":"take","effect":`+
		`"it comes"}]}],"seats":[{"decidedBy":"prior-delivery"}]}`, del.Plan)
}
