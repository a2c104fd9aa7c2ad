package store_test

import (
	"bytes"
	"context"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func slugged(slug string) item.Meta { return item.Meta{Slug: slug} }

// flip changes one byte of a file on the disk.
func flip(t *testing.T, dir string, d item.Digest) {
	t.Helper()
	var at string
	require.NoError(t, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err == nil && !e.IsDir() && filepath.Base(filepath.Dir(p))+e.Name() == string(d) {
			at = p
		}
		return err
	}))
	require.NotEmpty(t, at)
	b, err := os.ReadFile(at)
	require.NoError(t, err)
	b[len(b)/2] ^= 1
	require.NoError(t, os.WriteFile(at, b, 0o600))
}

// A changed byte is noticed whoever reads, is not taken for known, and heals when the right
// content comes again; verify names it and what leans on it.
func TestAChangedByteIsNoticedEverywhereAndHeals(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	open, _ := harness.Database(t)
	s := open()
	blobs, err := blob.Open(dir)
	require.NoError(t, err)
	s.Blobs = blobs
	c := collection(t, s, "hut")
	picture := bytes.Repeat([]byte("picture "), 40_000)
	page, pic := head(t, s, "page/home", "<p>home</p><cp-section name=\"hours\"></cp-section>", slugged("/")), head(t,
		s, "media/a.png", string(picture), item.Meta{MediaType: "image/png"})
	write(t, s, c, store.Change{Head: page}, store.Change{Head: pic})
	findings := func(mend bool) (string, *store.Verified) {
		t.Helper()
		var told strings.Builder
		sum, err := s.Verify(ctx, mend, func(f store.Finding) { told.WriteString(f.What + ": " + f.Message + "\n") })
		require.NoError(t, err)
		return told.String(), sum
	}
	told, sum := findings(false)
	require.Empty(t, told)
	assert.Positive(t, sum.Texts+sum.Files)
	read := func(h item.Head) error {
		_, err := item.Read(live(t, s, c), h)
		return err
	}

	flip(t, dir, pic.Doc)
	assert.True(t, store.IsDamaged(read(pic)), "%v", read(pic))
	_, err = blobs.File(pic.Doc)
	assert.ErrorIs(t, err, blob.ErrDamaged)
	require.NoError(t,
		s.DB(ctx).Exec("UPDATE docs SET body = 'other', coding = 'plain' WHERE digest = ?", page.Doc).Error)
	assert.True(t, store.IsDamaged(read(page)), "%v", read(page))
	_, err = live(t, s, c).ReadMany([]item.Head{page})
	assert.True(t, store.IsDamaged(err), "%v", err)
	told, sum = findings(true)
	assert.Contains(t, told, "content "+pic.Doc.Short()+": its bytes do not match its digest")
	assert.Contains(t, told, "site hut page/home: its content is damaged")
	assert.Zero(t, sum.Mended, "nothing on the shelf has them")

	// The right content heals both.
	_, _, err = s.PutBlob(ctx, bytes.NewReader(picture), now())
	require.NoError(t, err)
	_, err = s.PutContent(ctx, item.Page, []byte("<p>home</p><cp-section name=\"hours\"></cp-section>"), now())
	require.NoError(t, err)
	require.NoError(t, read(pic))
	require.NoError(t, read(page))
	told, _ = findings(false)
	assert.Empty(t, told)

	// A row that is gone is missing, and never an item that is not there.
	require.NoError(t, s.DB(ctx).Exec("DELETE FROM docs WHERE digest = ?", page.Doc).Error)
	err = read(page)
	assert.True(t, store.IsDamaged(err), "%v", err)
	assert.NotErrorIs(t, err, store.ErrNotFound)
	told, _ = findings(false)
	assert.Contains(t, told, "is missing")
	_, err = s.PutContent(ctx, item.Page, []byte("<p>home</p><cp-section name=\"hours\"></cp-section>"), now())
	require.NoError(t, err)

	// What is remembered of uses, states and digests is made anew.
	for _, q := range []string{"DELETE FROM item_refs",
		"INSERT INTO item_refs (collection_id, item_id, to_name) VALUES (1, 'nobody', 'section/x')",
		"UPDATE items SET state = REPEAT('0', 64) WHERE item_key = 'home'",
		"UPDATE collections SET digest = REPEAT('1', 64) WHERE name = 'hut'", "UPDATE facts SET body = 'x'"} {
		require.NoError(t, s.DB(ctx).Exec(q).Error)
	}
	told, _ = findings(false)
	for _, want := range []string{"what is recorded of what it uses", "its state's digest",
		"its digest does not match its items"} {
		assert.Contains(t, told, want)
	}
	_, sum = findings(true)
	assert.Equal(t, sum.Wrong, sum.Mended)
	told, _ = findings(false)
	assert.Empty(t, told, "all is mended")
	users, err := live(t, open(), c).UsedBy(item.MustAddress("section/hours"))
	require.NoError(t, err)
	assert.Equal(t, []item.Address{page.Address}, users)
	rc, err := s.Content(ctx, pic)
	require.NoError(t, err)
	defer rc.Close()
	b, err := io.ReadAll(rc)
	require.NoError(t, err)
	assert.Equal(t, picture, b)
}
