package archive

import (
	"bytes"
	"os"
	"testing"
	"time"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func scratch(t *testing.T) Scratch {
	return func(use func(*os.File) error) error {
		f, err := os.CreateTemp(t.TempDir(), "")
		require.NoError(t, err)
		defer f.Close()
		return use(f)
	}
}

func TestASiteIsKeptInOneFile(t *testing.T) {
	c := item.NewSet()
	put := func(a, text string, m item.Meta) {
		at := item.MustAddress(a)
		c.Put(item.Head{Address: at, Meta: m,
			NormalizedDigest: facts.Extract(at.Kind, "", []byte(text)).NormalizedDigest},
			[]byte(text))
	}
	put("page/home", "<!doctype html><h1>Hut</h1>", item.Meta{Slug: "/", Title: "Hut"})
	put("stylesheet/base", "h1{top:0}", item.Meta{})
	put("setting/style-order", `["stylesheet/base"]`, item.Meta{})
	put("setting/language", `"en"`, item.Meta{})
	put("setting/forms", `{"booking":{"to":["warden@hut.example"]}}`, item.Meta{})
	about := About{Site: "hut", Title: "Hut", Revision: 3, At: time.Date(2026, 11, 28, 0, 0, 0, 0, time.UTC)}
	write := func(pass string) *bytes.Reader {
		var b bytes.Buffer
		require.NoError(t, Write(&b, c, about, pass, scratch(t)))
		return bytes.NewReader(b.Bytes())
	}
	closed := write("larch and stone")
	assert.False(t, bytes.Contains(read(t, closed), []byte("warden@hut.example")), "it is sealed")
	_, err := Read(closed, closed.Size(), "", false)
	assert.ErrorIs(t, err, ErrNeedsPass)
	_, err = Read(closed, closed.Size(), "wrong", false)
	assert.ErrorIs(t, err, ErrPass)
	got, err := Read(closed, closed.Size(), "larch and stone", false)
	require.NoError(t, err)
	assert.JSONEq(t, `{"booking":{"to":["warden@hut.example"]}}`, string(got.Own[item.MustAddress("setting/forms")]))
	assert.Equal(t, []item.Address{item.MustAddress("stylesheet/base")}, got.Kit.List.StyleOrder)
	assert.Len(t, got.Kit.List.Items, 3)
	left, err := Read(closed, closed.Size(), "", true)
	require.NoError(t, err)
	assert.Nil(t, left.Own)

	open := write("")
	got, err = Read(open, open.Size(), "", false)
	require.NoError(t, err)
	assert.Nil(t, got.Own)
	assert.Equal(t, []item.Address{item.MustAddress("setting/forms")}, got.About.Own, "what was left out is told")

	whole := read(t, open)
	for n := 0; n < len(whole); n += 97 { // cut anywhere, or changed anywhere: never believed
		_, err := Read(bytes.NewReader(whole[:n]), int64(n), "", false)
		assert.Error(t, err, n)
		bad := bytes.Clone(whole)
		bad[n] ^= 0xff
		x, err := Read(bytes.NewReader(bad), int64(len(bad)), "", false)
		if err == nil {
			assert.Equal(t, got.Kit.Digest, x.Kit.Digest, "only what says nothing of the site")
		}
	}
}

func read(t *testing.T, r *bytes.Reader) []byte {
	t.Helper()
	b := make([]byte, r.Size())
	_, err := r.ReadAt(b, 0)
	require.NoError(t, err)
	return b
}

// Of the cost of opening it a file is believed what is written here, and nothing else.
func TestAnArchiveSaysNothingOfItsCost(t *testing.T) {
	box, err := seal([]byte("secret"), "a phrase")
	require.NoError(t, err)
	text, err := box.open("a phrase")
	require.NoError(t, err)
	assert.Equal(t, "secret", string(text))
	for _, n := range []int{1, scryptN / 2, scryptN * 2, 1 << 20, -1} {
		dear := *box
		dear.N = n
		_, err = dear.open("a phrase")
		assert.ErrorIs(t, err, ErrNewer, "%d", n)
	}
}
