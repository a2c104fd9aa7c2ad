package test

import (
	"path/filepath"
	"testing"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
)

// A site that is published for files is opened from disk: its links lead on, its styles and
// pictures show, and it looks as the service shows it.
func TestASiteOpenedFromDisk(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	b.Size(1280, 800)
	made := filepath.Join(t.TempDir(), "made")
	s.Must("site", "publish", "kestrel-refuge", made, "--links", "file")
	dir, err := filepath.EvalSymlinks(made)
	assert.NoError(t, err)
	for _, page := range []string{"/", "/contact/"} {
		for width, pixels := range b.Differ("disk", s.Live("kestrel-refuge")+page, "file://"+dir+page+"index.html",
			1280) {
			assert.Zero(t, pixels, "%s at %d", page, width)
		}
	}
	b.Go("file://" + dir + "/index.html")
	b.Click(`a[href="getting-here/index.html"]`)
	b.Sees("The bus ends at Lower Moor")
	b.Click(`a[href="../index.html"]`)
	b.Sees("Kestrel Refuge")
	assert.NotContains(t, harness.Eval[string](b, "document.documentElement.outerHTML"), `type="module"`)
}
