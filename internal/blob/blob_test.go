package blob

import (
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type broken struct{}

func (broken) Read([]byte) (int, error) { return 0, errors.New("the line broke") }

func TestBlobs(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	require.NoError(t, err)
	d, n, err := s.Put(strings.NewReader("a picture"))
	require.NoError(t, err)
	assert.EqualValues(t, 9, n)
	assert.Equal(t, item.DigestOf([]byte("a picture")), d)
	again, _, err := s.Put(strings.NewReader("a picture"))
	require.NoError(t, err)
	assert.Equal(t, d, again)
	f, err := s.File(d)
	require.NoError(t, err)
	b, _ := io.ReadAll(f)
	f.Close()
	assert.Equal(t, "a picture", string(b))

	_, _, err = s.Put(io.MultiReader(strings.NewReader("half"), broken{}))
	assert.ErrorContains(t, err, "the line broke")
	left, _ := filepath.Glob(filepath.Join(dir, "incoming", "*"))
	assert.Empty(t, left, "nothing half done is left")
	_, err = s.File(item.DigestOf([]byte("half")))
	assert.ErrorIs(t, err, ErrMissing)
	_, err = s.File("../../etc/passwd")
	assert.ErrorContains(t, err, "no digest")
}

func TestTheSweepTakesOnlyWhatIsOldAndUnwanted(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	require.NoError(t, err)
	put := func(text string, old bool) item.Digest {
		d, _, err := s.Put(strings.NewReader(text))
		require.NoError(t, err)
		if old {
			past := time.Now().Add(-48 * time.Hour)
			require.NoError(t, os.Chtimes(s.path(d), past, past))
		}
		return d
	}
	young, wanted, unwanted, doubted := put("young", false), put("wanted", true), put("unwanted", true), put("doubted",
		true)
	touched := put("touched", true)
	put("touched", false) // put again: young again
	n, err := s.Sweep(24*time.Hour, func(d item.Digest) (bool, error) { return d == wanted || d == doubted, nil })
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	for d, there := range map[item.Digest]bool{young: true, wanted: true, unwanted: false, doubted: true,
		touched: true} {
		_, err := os.Stat(s.path(d))
		assert.Equal(t, there, err == nil)
	}
	_, err = s.Sweep(0, func(item.Digest) (bool, error) { return false, errors.New("the database is away") })
	assert.ErrorContains(t, err, "away", "in doubt nothing goes")
	_, err = os.Stat(s.path(wanted))
	assert.NoError(t, err)
}

func TestWhatIsWantedAtTheLastMomentGoesBack(t *testing.T) {
	s, err := Open(t.TempDir())
	require.NoError(t, err)
	d, _, err := s.Put(strings.NewReader("a picture"))
	require.NoError(t, err)
	asked := 0
	n, err := s.Sweep(0, func(item.Digest) (bool, error) { asked++; return asked > 1, nil })
	require.NoError(t, err)
	assert.Equal(t, 0, n)
	assert.Equal(t, 2, asked, "asked again when it lies aside")
	f, err := s.File(d)
	require.NoError(t, err)
	f.Close()

	// Put again while the sweep looks: it is written anew, whatever the sweep does.
	n, err = s.Sweep(0, func(item.Digest) (bool, error) {
		_, _, err := s.Put(strings.NewReader("a picture"))
		return false, err
	})
	require.NoError(t, err)
	assert.LessOrEqual(t, n, 1)
	f, err = s.File(d)
	require.NoError(t, err)
	f.Close()
}
