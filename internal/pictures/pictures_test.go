package pictures_test

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/pictures"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"
	"compactparcel/test/harness"
	"compactparcel/test/needs"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

// shown are previews of which a test says what they show.
type shown struct {
	text  func(path string) string
	asked atomic.Int64
}

func (s *shown) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	s.asked.Add(1)
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	fmt.Fprint(w, s.text(r.URL.Path))
}

func (s *shown) Digest(_ context.Context, at string) (item.Digest, error) {
	path, ok := strings.CutPrefix(at, "http://hut.localhost:7")
	if !ok {
		return "", preview.ErrNotShown
	}
	return item.DigestOf([]byte(s.text(path))), nil
}

// studio makes pictures of what a test says.
func studio(t *testing.T, s *shown) *pictures.Pictures {
	t.Helper()
	files, err := blob.Open(t.TempDir())
	require.NoError(t, err)
	p := pictures.New(harness.Records(t), files, s, slog.New(slog.DiscardHandler))
	b, err := pictures.Find("auto", slog.New(slog.DiscardHandler))
	require.NoError(t, err, "Debian's package chromium is needed: make test installs it")
	needs.Sandbox(t, b.Check(ctx))
	t.Cleanup(b.Close)
	b.Limits.Rest = 3 * time.Second // what misbehaves is not waited for as long
	p.Use(b)
	return p
}

func at(paths ...string) (list []pictures.Wanted) {
	for _, p := range paths {
		list = append(list, pictures.Wanted{At: "http://hut.localhost:7" + p, Width: 390})
	}
	return list
}

func TestWhatIsWantedLastIsMadeFirstAndNothingTwice(t *testing.T) {
	words := atomic.Value{}
	words.Store("calm")
	s := &shown{text: func(path string) string { return "<p>" + words.Load().(string) + path }}
	p := studio(t, s)
	clock := time.Now().UTC().Truncate(time.Microsecond)
	p.Now = func() time.Time { return clock }
	want := func(paths ...string) []pictures.Found {
		found, err := p.Want(ctx, at(paths...))
		require.NoError(t, err)
		return found
	}
	want("/1", "/2")
	clock = clock.Add(time.Second)
	want("/3", "/4")
	made := func(paths ...string) (out []bool) {
		for _, f := range want(paths...) {
			out = append(out, f.Picture.State == store.PictureMade)
		}
		return out
	}
	did, err := p.Once(ctx)
	require.NoError(t, err)
	assert.True(t, did)
	there, err := p.Store.Read(ctx).Pictures().Count(store.PictureWaiting)
	require.NoError(t, err)
	assert.Equal(t, int64(3), there)
	assert.Equal(t, []bool{true}, made("/3"), "the first of the last list")
	for did {
		did, err = p.Once(ctx)
		require.NoError(t, err)
	}
	assert.Equal(t, []bool{true, true, true, true}, made("/1", "/2", "/3", "/4"))
	asked := s.asked.Load()
	want("/1", "/2", "/3", "/4")
	did, err = p.Once(ctx)
	require.NoError(t, err)
	assert.False(t, did, "what is made is not made again")
	assert.Equal(t, asked, s.asked.Load())

	// What shows something else by the time it would be made is not made under the wrong name.
	want("/5")
	words.Store("other")
	_, err = p.Once(ctx)
	require.NoError(t, err)
	there, err = p.Store.Read(ctx).Pictures().Count(store.PictureWaiting)
	require.NoError(t, err)
	assert.Zero(t, there)
	assert.Equal(t, []bool{false}, made("/5"))

	f := want("/1")[0]
	require.NotNil(t, f.Picture)
	assert.NotEqual(t, store.PictureMade, f.Picture.State, "it shows other words now")

	// Unused ones go, with their files; what a lost file was of is made again.
	clock = clock.Add(40 * 24 * time.Hour)
	require.NoError(t, p.Sweep(ctx))
	n, err := p.Store.Read(ctx).Pictures().Count(store.PictureMade)
	require.NoError(t, err)
	assert.Zero(t, n)
}

func TestAPageThatMisbehavesFailsAndTheNextIsMade(t *testing.T) {
	s := &shown{text: func(path string) string {
		if path == "/loop" {
			return "<p>x<script>for(;;){}</script>"
		}
		return "<p>calm"
	}}
	p := studio(t, s)
	_, err := p.Want(ctx, at("/loop", "/calm"))
	require.NoError(t, err)
	for did := true; did; {
		did, err = p.Once(ctx)
		require.NoError(t, err)
	}
	found, err := p.Want(ctx, append(at("/loop", "/calm"),
		pictures.Wanted{At: "http://elsewhere.example/", Width: 390}))
	require.NoError(t, err)
	assert.Equal(t, store.PictureFailed, found[0].Picture.State)
	assert.NotEmpty(t, found[0].Picture.Message)
	assert.Equal(t, store.PictureMade, found[1].Picture.State)
	assert.Nil(t, found[2].Picture, "what is no preview has no picture")
	f, err := p.Open(ctx, found[1].Key, true)
	require.NoError(t, err)
	f.Close()
	_, err = p.Open(ctx, found[0].Key, false)
	assert.ErrorIs(t, err, pictures.ErrNoPicture)
}
