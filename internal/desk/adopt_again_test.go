package desk_test

import (
	"archive/zip"
	"bytes"
	"io/fs"
	"strings"
	"sync/atomic"
	"testing"
	"testing/fstest"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/outside"
	"compactparcel/internal/desk"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The base of the next comparison with a folder outlives the sweep, whatever its size, also where the pages
// stand in the site otherwise than in the folder.
func TestAFolderIsComparedAgainAfterTheSweep(t *testing.T) {
	d := newDesk(t)
	around := func(name, main string) string {
		return "<!doctype html><html><head><title>" + name + "</title></head><body><header><nav>" +
			"<a href=\"/\">Home</a><a href=\"/b.html\">B</a></nav></header>" +
			"<main>" + main + "</main><footer><p>The hut, 2,030 m</p>" +
			"<p>Open all year, with a warden</p></footer></body></html>"
	}
	long := strings.Repeat("<p>"+strings.Repeat("over the moor and the ridge, ", 20)+"home</p>\n", 2_000) // over 1 MB
	files := map[string]string{"index.html": around("Home", "<p>home</p>"), "b.html": around("B", "<p>b</p>"),
		"c.html": around("C", "<p>c</p>"), "long.html": around("Long", long)}
	_, err := d.Adopt(ctx, keeper, "hut", folderOf(files), desk.PartsAuto)
	require.NoError(t, err)
	now := d.Now
	d.Now = func() time.Time { return now().Add(48 * time.Hour) }
	_, err = d.Sweep(ctx, nil)
	require.NoError(t, err)
	files["b.html"] = around("B", "<p>b, changed</p>")
	files["long.html"] = around("Long", "<p>first</p>\n"+long)
	got, err := d.AdoptAgain(ctx, keeper, "hut", folderOf(files), outside.Ask)
	require.NoError(t, err)
	require.NotNil(t, got.Draft)
	for _, c := range got.Changes {
		assert.Equal(t, desk.FileChanged, c.What, "%s: %s", c.Path, c.Says)
	}
	assert.Len(t, got.Changes, 2)
}

// Two files that came outside under names of which one key is made both come, each as its own item.
func TestTwoFilesThatCameUnderOneName(t *testing.T) {
	d := newDesk(t)
	_, err := d.Adopt(ctx, keeper, "hut", folderOf(map[string]string{
		"index.html": "<!doctype html><title>Hut</title><p>hut</p>"}), desk.PartsNone)
	require.NoError(t, err)
	for name, made := range map[string]func() fstest.MapFS{
		"adopted": func() fstest.MapFS {
			return folderOf(map[string]string{"index.html": "<!doctype html><title>Hut</title><p>hut</p>"})
		},
		"published": func() fstest.MapFS { return published(t, d, "hut") },
	} {
		t.Run(name, func(t *testing.T) {
			fsys := made()
			fsys["walks.html"] = &fstest.MapFile{Data: []byte("<!doctype html><title>Walks</title><p>one</p>")}
			fsys["walks/index.html"] = &fstest.MapFile{Data: []byte("<!doctype html><title>Walks</title><p>two</p>")}
			got, err := d.AdoptAgain(ctx, keeper, "hut", fsys, outside.Ask)
			require.NoError(t, err, name)
			require.NotNil(t, got.Draft, name)
			v, err := d.Look(ctx, viewer, "hut", got.Draft.ID)
			require.NoError(t, err)
			added := 0
			for _, c := range got.Changes {
				if c.What != desk.FileAdded {
					continue
				}
				added++
				h, there := v.Find(c.Address)
				require.True(t, there, "%s: %s", name, c.Address)
				b, err := item.Read(v, h)
				require.NoError(t, err)
				assert.Contains(t, string(b), string(fsys[c.Path].Data[len(fsys[c.Path].Data)-10:]), name)
			}
			assert.Equal(t, 2, added, name)
			for _, slug := range []string{"/walks.html", "/walks/"} {
				_, there := v.PageAt(slug)
				assert.True(t, there, "%s: %s", name, slug)
			}
			require.NoError(t, d.Discard(ctx, keeper, "hut", got.Draft.ID))
		})
	}
}

// A file that came or was replaced outside goes where it belongs in pieces: no film is held in memory.
func TestFilesOfAFolderAreNotHeld(t *testing.T) {
	d := newDesk(t)
	page := "<!doctype html><title>Hut</title><video src=\"film.mp4\"></video>"
	film := func(first byte) *fstest.MapFile {
		return &fstest.MapFile{Data: bytes.Repeat([]byte{first, 1, 2, 3}, 2<<20)}
	}
	own := folderOf(map[string]string{"index.html": page})
	own["film.mp4"] = film('a')
	_, err := d.Adopt(ctx, keeper, "hut", own, desk.PartsNone)
	require.NoError(t, err)
	for name, fsys := range map[string]fstest.MapFS{"adopted": own, "published": published(t, d, "hut")} {
		t.Run(name, func(t *testing.T) {
			for path := range fsys {
				if strings.HasSuffix(path, ".mp4") {
					fsys[path] = film('b')
				}
			}
			fsys["second.mp4"] = film('c')
			watched := &watchedFS{FS: fsys}
			got, err := d.AdoptAgain(ctx, keeper, "hut", watched, outside.Ask)
			require.NoError(t, err, name)
			require.NotNil(t, got.Draft, name)
			v, err := d.Look(ctx, viewer, "hut", got.Draft.ID)
			require.NoError(t, err)
			var doc []string
			for _, c := range got.Changes {
				h, there := v.Find(c.Address)
				require.True(t, there, "%s: %s %s", name, c.Address, c.Says)
				b, err := item.Read(v, h)
				require.NoError(t, err)
				assert.Equal(t, fsys[c.Path].Data, b, c.Path)
				doc = append(doc, c.What)
			}
			assert.ElementsMatch(t, []string{desk.FileChanged, desk.FileAdded}, doc, "%s: %v", name, got.Changes)
			assert.LessOrEqual(t, watched.most.Load(), int64(1<<20), "%s: so much was read at once", name)
			require.NoError(t, d.Discard(ctx, keeper, "hut", got.Draft.ID))
		})
	}
}

// watchedFS tells the most bytes that were asked of one of its files at once.
type watchedFS struct {
	fs.FS
	most atomic.Int64
}

func (w *watchedFS) Open(name string) (fs.File, error) {
	f, err := w.FS.Open(name)
	if dir, is := f.(fs.ReadDirFile); is || err != nil {
		return dir, err
	}
	return &watchedFile{f, w}, nil
}

type watchedFile struct {
	fs.File
	of *watchedFS
}

func (f *watchedFile) Read(b []byte) (int, error) {
	for n := f.of.most.Load(); int64(len(b)) > n && !f.of.most.CompareAndSwap(n, int64(len(b))); n = f.of.most.Load() {
		continue
	}
	return f.File.Read(b)
}

// published gives the folder that a site is published as.
func published(t *testing.T, d *desk.Desk, site string) fstest.MapFS {
	t.Helper()
	var b bytes.Buffer
	_, _, err := d.PublishZip(ctx, keeper, desk.Publication{Site: site}, &b)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	out := fstest.MapFS{}
	for _, f := range z.File {
		if f.FileInfo().IsDir() {
			continue
		}
		r, err := f.Open()
		require.NoError(t, err)
		out[f.Name] = &fstest.MapFile{Data: readAll(t, r)}
	}
	return out
}
