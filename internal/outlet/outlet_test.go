package outlet

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"compactparcel/core/folder"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// release fills a folder with files by their content.
func release(t *testing.T, dir string, over bool, files map[string]string) (*Result, error) {
	t.Helper()
	f, err := Open(dir)
	require.NoError(t, err)
	return f.Publish(over, func(out folder.Out) (*folder.Release, error) {
		rel := &folder.Release{Site: "x", Digest: item.Digest(fmt.Sprint(files)), Files: map[string]folder.Published{}}
		for p, text := range files {
			x := folder.Published{Digest: item.DigestOf([]byte(text)), Bytes: int64(len(text))}
			rel.Files[p] = x
			if err := out(
				p,
				x,
				func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader(text)), nil },
			); err != nil {
				return nil, err
			}
		}
		return rel, out(
			folder.ReleaseFile,
			folder.Published{},
			func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader("{}")), nil },
		)
	})
}

func read(t *testing.T, parts ...string) string {
	t.Helper()
	b, err := os.ReadFile(filepath.Join(parts...))
	require.NoError(t, err)
	return string(b)
}

func TestReleases(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "www")
	require.NoError(t, os.Mkdir(dir, 0o755), "an empty folder may be there")
	r, err := release(t, dir, false, map[string]string{"index.html": "one", "a/b.html": "same", "old.html": "old"})
	require.NoError(t, err)
	assert.Equal(t, Result{Number: 1, Files: 3, Written: 3, Edits: []Edit{}}, *r)
	r, err = release(t, dir, false, map[string]string{"index.html": "two", "a/b.html": "same"})
	require.NoError(t, err)
	assert.Equal(t, Result{Number: 2, Files: 2, Written: 1, Removed: 1, Edits: []Edit{}}, *r)
	assert.Equal(t, "two", read(t, dir, "index.html"))
	assert.NoFileExists(t, filepath.Join(dir, "old.html"))
	one, err := os.Stat(filepath.Join(dir+".releases", "1", "a", "b.html"))
	require.NoError(t, err)
	two, err := os.Stat(filepath.Join(dir, "a", "b.html"))
	require.NoError(t, err)
	assert.True(t, os.SameFile(one, two), "what did not change is not written again")

	f, err := Open(dir)
	require.NoError(t, err)
	require.NoError(t, f.Back(1))
	assert.Equal(t, "one", read(t, dir, "index.html"))
	assert.ErrorContains(t, f.Back(9), "no release 9 (kept: [1 2])")
	r, err = release(t, dir, false, map[string]string{"index.html": "three"})
	require.NoError(t, err)
	assert.Equal(t, 3, r.Number, "a number is never used twice")
	for n := range Keep {
		_, err = release(t, dir, false, map[string]string{"index.html": fmt.Sprint(n)})
		require.NoError(t, err)
	}
	assert.Len(t, f.Numbers(), Keep)
}

func TestWhatSomebodyChangedIsNotWrittenOver(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "www")
	_, err := release(t, dir, false, map[string]string{"index.html": "one", "b.html": "b", "c.html": "c"})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "new.html"), []byte("new"), 0o644))
	require.NoError(t, os.Remove(filepath.Join(dir, "b.html")))
	require.NoError(t, os.Remove(filepath.Join(dir, "c.html")))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "c.html"), []byte("C"), 0o644))
	_, err = release(t, dir, false, map[string]string{"index.html": "two", "b.html": "b"})
	var edited *EditedError
	require.ErrorAs(t, err, &edited)
	assert.Equal(t, []Edit{{"b.html", "removed"}, {"c.html", "changed"}, {"new.html", "added"}}, edited.Edits)
	assert.Equal(t, "one", read(t, dir, "index.html"), "nothing happened")
	f, err := Open(dir)
	require.NoError(t, err)
	same, err := f.Unchanged(folder.Options{Site: "x"}, "")
	require.NoError(t, err)
	assert.Nil(t, same, "an edited folder is not level")
	_, err = release(t, dir, true, map[string]string{"index.html": "two", "c.html": "c"})
	require.NoError(t, err)
	assert.Equal(t, "c", read(t, dir, "c.html"), "an edited file is written anew, not linked")
	assert.Equal(t, "C", read(t, dir+".releases", "1", "c.html"), "what was written over stays in the old release")
}

func TestAnEditThatWasBroughtHomeIsNoLoss(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "www")
	_, err := release(t, dir, false, map[string]string{"index.html": "one", "b.html": "b", "c.html": "c"})
	require.NoError(t, err)
	require.NoError(t, os.Remove(filepath.Join(dir, "b.html")))
	require.NoError(t, os.Remove(filepath.Join(dir, "c.html")))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "c.html"), []byte("C"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "new.html"), []byte("new"), 0o644))
	r, err := release(t, dir, false, map[string]string{"index.html": "one", "c.html": "C", "new.html": "new"})
	require.NoError(t, err)
	assert.Empty(t, r.Edits)
	assert.Equal(t, "C", read(t, dir, "c.html"))
	assert.NoFileExists(t, filepath.Join(dir, "b.html"))
}

func TestFoldersThatAreNotOurs(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "mine.txt"), []byte("mine"), 0o644))
	_, err := release(t, dir, true, map[string]string{"index.html": "x"})
	assert.ErrorContains(t, err, "nothing in it is overwritten")
	link := filepath.Join(t.TempDir(), "link")
	require.NoError(t, os.Symlink(dir, link))
	_, err = release(t, link, true, map[string]string{"index.html": "x"})
	assert.ErrorContains(t, err, "which is no release")
	assert.Equal(t, "mine", read(t, dir, "mine.txt"))
	for name, fill := range map[string]func(folder.Out) (*folder.Release, error){
		"leaves the folder": func(out folder.Out) (*folder.Release, error) {
			return nil, out("../out.html", folder.Published{},
				func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader("x")), nil })
		},
		"other bytes": func(out folder.Out) (*folder.Release, error) {
			err := out("a.html", folder.Published{},
				func() (io.ReadCloser, error) { return io.NopCloser(strings.NewReader("x")), nil })
			return &folder.Release{Files: map[string]folder.Published{"a.html": {Digest: item.DigestOf([]byte("y"))}}},
				err
		},
		"did not come": func(folder.Out) (*folder.Release, error) {
			return &folder.Release{Files: map[string]folder.Published{"a.html": {}}}, nil
		},
		"broke off midway": func(folder.Out) (*folder.Release, error) { return nil, fmt.Errorf("broke off midway") },
	} {
		t.Run(name, func(t *testing.T) {
			at := filepath.Join(t.TempDir(), "www")
			f, err := Open(at)
			require.NoError(t, err)
			_, err = f.Publish(false, fill)
			assert.ErrorContains(t, err, name)
			assert.NoFileExists(t, at, "nothing half done is shown")
			assert.Empty(t, f.Numbers())
		})
	}
}
