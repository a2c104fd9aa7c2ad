package folder

import (
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What was worked out of a file is not said of one that was written to since.
func TestAFileThatIsWrittenToMeanwhileIsNoticed(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) {
		p := filepath.Join(dir, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(p), 0o755))
		require.NoError(t, os.WriteFile(p, []byte(text), 0o644))
	}
	put("site.json", `{"format":1}`)
	put("pages/home.html", "<p>one")
	put("media/a.png", "\x89PNG\r\n\x1a\n1")
	set, report, err := Read(os.DirFS(dir))
	require.NoError(t, err)
	assert.Contains(t, report.Facts, item.MustAddress("page/home"))
	for _, a := range []string{"page/home", "media/a.png"} {
		t.Run(a, func(t *testing.T) {
			h, ok := set.Find(item.MustAddress(a))
			require.True(t, ok)
			b, err := item.Read(set, h)
			require.NoError(t, err)
			assert.Equal(t, h.Doc, item.DigestOf(b))
			put(h.Address.Path(), string(b)+" and more")
			_, err = item.Read(set, h)
			assert.ErrorContains(t, err, "was changed after it was read", a)
		})
	}
}

func TestOurLayoutIsKnownWithoutItsList(t *testing.T) {
	file := &fstest.MapFile{Data: []byte("<p>")}
	assert.True(t, InOurLayout(fstest.MapFS{"surround/header.html": file}))
	assert.True(t, InOurLayout(fstest.MapFS{"sections/a.html": file}))
	assert.False(t, InOurLayout(fstest.MapFS{"pages/a.html": file, "media/a.png": file}), "anybody names folders so")
	assert.False(t, InOurLayout(fstest.MapFS{"sections/a.html": file, "site.json": file}), "then the list says so")
}
