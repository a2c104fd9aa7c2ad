package test

import (
	"os"
	"path/filepath"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A site is kept in one file, and comes back page for page; what is its own is sealed, or left out and told.
func TestASiteIsArchivedAndBroughtBack(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo")
	dir := t.TempDir()
	phrase := filepath.Join(dir, "phrase")
	require.NoError(t, os.WriteFile(phrase, []byte("larch and stone\n"), 0o600))
	wrong := filepath.Join(dir, "wrong")
	require.NoError(t, os.WriteFile(wrong, []byte("stone and larch\n"), 0o600))
	file, bare := filepath.Join(dir, "kestrel.zip"), filepath.Join(dir, "bare.zip")
	s.Must("site", "archive", "kestrel-refuge", file, "--passphrase-file", phrase)
	assert.Contains(t, s.Must("site", "archive", "kestrel-refuge", bare), "left out")
	assert.Contains(t, s.Client("site", "restore", file, "kestrel-two").Err, "pass phrase")
	assert.Contains(t, s.Client("site", "restore", file, "kestrel-two", "--passphrase-file", wrong).Err,
		"does not open")
	s.Must("site", "restore", file, "kestrel-two", "--passphrase-file", phrase)
	for _, at := range []string{"/", "/contact/", "/getting-here/", "/bunks-and-prices/", "/attic/", "/404.html"} {
		was, is := s.Visit(s.Live("kestrel-refuge")+at), s.Visit(s.Live("kestrel-two")+at)
		assert.Equal(t, was.Status, is.Status, at)
		assert.Equal(t, string(was.Body), string(is.Body), at)
	}
	var forms api.SiteFormList
	s.Call("GET", "/api/v1/sites/kestrel-two/forms", nil).Into(t, &forms)
	assert.Equal(t, []string{"warden@kestrel.highmoor.example"}, forms.Forms[0].Receiver.To)
	assert.Contains(t, s.Must("site", "restore", bare, "kestrel-three"), "left out: setting/forms")
	assert.Contains(t, s.Client("site", "restore", bare, "kestrel-three").Err, "already")
	b, err := os.ReadFile(file)
	require.NoError(t, err)
	cut := filepath.Join(dir, "cut.zip")
	require.NoError(t, os.WriteFile(cut, b[:len(b)/2], 0o600))
	assert.Contains(t, s.Client("site", "restore", cut, "kestrel-four").Err, "no archive")
	assert.NotContains(t, s.Must("site", "list"), "kestrel-four")
	assert.Contains(t, s.Client("site", "restore", dir, "kestrel-four").Err, "is a folder")
}

// A backup file is one of the ways in which a new site begins in the console.
func TestASiteIsMadeOfABackupInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	phrase, file := filepath.Join(dir, "phrase"), filepath.Join(dir, "kestrel.zip")
	require.NoError(t, os.WriteFile(phrase, []byte("larch and stone\n"), 0o600))
	s.Must("site", "archive", "kestrel-refuge", file, "--passphrase-file", phrase)
	b := signedIn(t, s, "ida")
	b.Go(s.Console + "/sites")
	b.Click(`input[name="site-from"][value="backup"]`)
	b.Do(chromedp.SetUploadFiles(`[data-new-site] input[type=file]`, []string{file}))
	b.Type("#site-title", "Kestrel again")
	b.Type("#site-name", "kestrel-again")
	b.Type("#site-phrase", "stone and larch")
	b.Press("Make the site")
	b.Sees("does not open")
	b.Type("#site-phrase", "larch and stone")
	b.Press("Make the site")
	b.Sees("Edit the home page")
	assert.Equal(t, s.Visit(s.Live("kestrel-refuge")+"/").Body, s.Visit(s.Live("kestrel-again")+"/").Body)
}
