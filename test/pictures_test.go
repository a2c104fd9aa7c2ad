package test

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/internal/pictures"
	"compactparcel/test/harness"
	"compactparcel/test/needs"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// withBrowser is a service with a browser that makes pictures.
func withBrowser(t *testing.T, demo string) *harness.Service {
	t.Helper()
	needs.Sandbox(t, sandboxed())
	return harness.Start(t, demo, "--browser", "auto")
}

// sandboxed tells why the browser does not work in its sandbox here; nil where it does.
var sandboxed = sync.OnceValue(func() error {
	b, err := pictures.Find("auto", slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	defer b.Close()
	return b.Check(context.Background())
})

// A keeper changes words and sees where pages differ; what is the same is told to be; a picture is the page as it
// is, and each is made once.
func TestADraftIsSeenBeforeAndAfter(t *testing.T) {
	t.Parallel()
	s := withBrowser(t, "--demo=sites")
	dir := t.TempDir()
	s.Must("site", "edit", "kestrel-refuge", "/contact/", "text", "h1", "--value", "Write to us", "--draft", "words")
	var got api.BeforeAfter
	s.JSON(&got, "draft", "pictures", "kestrel-refuge", "words", "--folder", dir)
	require.Len(t, got.Pages, 1)
	assert.Equal(t, "/contact/", got.Pages[0].Slug)
	assert.True(t, got.Pages[0].Expected)
	require.Len(t, got.Pages[0].Pairs, 2)
	for _, p := range got.Pages[0].Pairs {
		require.NotNil(t, p.Differs)
		assert.True(t, *p.Differs)
		assert.Less(t, *p.Share, 0.1)
		for _, a := range *p.Areas {
			assert.Less(t, a.Y, 400, "only the heading, which stands at the top")
		}
	}
	for _, name := range []string{"contact-1280-before.png", "contact-390-after.png"} {
		b, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		img, err := png.DecodeConfig(bytes.NewReader(b))
		require.NoError(t, err)
		assert.Contains(t, name, map[int]string{1280: "1280", 390: "390"}[img.Width])
	}
	assert.Greater(t, *got.Others, 1, "the other pages are held against each other, too")

	// What a draft leaves alone looks the same to the byte, whoever shows it.
	live, draft := filepath.Join(dir, "live.png"), filepath.Join(dir, "draft.png")
	s.Must("site", "picture", "kestrel-refuge", "/getting-here/", live)
	s.Must("site", "picture", "kestrel-refuge", "/getting-here/", draft, "--draft", "words")
	a, err := os.ReadFile(live)
	require.NoError(t, err)
	b, err := os.ReadFile(draft)
	require.NoError(t, err)
	assert.Equal(t, a, b)
	r := s.Client("site", "picture", "kestrel-refuge", "/nowhere/", live)
	assert.Zero(t, r.Code, "the page that says that nothing is there is a page: %s", r.Err)
	assert.Contains(t, s.Must("site", "picture", "kestrel-refuge", "page/contact", live), "/contact/ is in")
	assert.Contains(t, s.Must("draft", "pictures", "kestrel-refuge", "words"), "/contact/")
}

// A librarian seals a kit and finds its pictures in the file; a delivery's pages are seen before and after, and
// are kept with its receipt.
func TestAKitHasItsFaceAndADeliveryItsSides(t *testing.T) {
	t.Parallel()
	s := withBrowser(t, "--demo=sites")
	s.Must("kit", "new", "hut@1.0.0", "--license", "CC-BY-4.0")
	s.Must("kit", "describe", "hut@1.0.0", "--credit", "Highmoor web room", "--title", "A hut")
	s.Must("kit", "add", "hut@1.0.0", "section/opening-hours", "--from", "kestrel-refuge")
	s.Must("kit", "seal", "hut@1.0.0")
	file := filepath.Join(t.TempDir(), "hut.cpkit")
	s.Must("kit", "get", "hut@1.0.0", "-f", file)
	face := filepath.Join(unzip(t, file), "pictures", "section--opening-hours.webp")
	b, err := os.ReadFile(face)
	require.NoError(t, err)
	assert.Equal(t, "WEBP", string(b[8:12]))

	sealed(t, s, "1.0.0")
	s.Must("deliver", "hut-basics@1.0.0", "larch-saddle", "--fill", "hut-name=Larch", "--decide", "menu/main=both")
	var list api.DeliveryList
	s.JSON(&list, "delivery", "list")
	require.Len(t, list.Deliveries, 1)
	require.Equal(t, api.DeliveryStateStaged, list.Deliveries[0].State)
	id := fmt.Sprint(list.Deliveries[0].Id)
	out := s.Must("delivery", "pictures", id)
	assert.NotContains(t, out, "should be the same")
	assert.NotContains(t, out, "no picture")
	s.Must("delivery", "go-live", id)
	rows := func(text string) (out []string) {
		for _, line := range strings.Split(text, "\n") {
			if strings.HasPrefix(line, "/") && !strings.HasSuffix(strings.TrimSpace(line), "no") {
				out = append(out, strings.Join(strings.Fields(line), " "))
			}
		}
		return out
	}
	require.NotEmpty(t, rows(out))
	assert.Equal(t, rows(out), rows(s.Must("delivery", "pictures", id)), "kept with the receipt")
}

// A delivery that goes live before its pictures are made: what came is made of the live site, and what was before is
// told as not made; no page is said to be gone that is there.
func TestADeliveryThatGoesLiveSoonSaysNoPageIsGone(t *testing.T) {
	t.Parallel()
	s := withBrowser(t, "--demo=sites")
	sealed(t, s, "1.0.0")
	s.Must("deliver", "hut-basics@1.0.0", "larch-saddle", "--fill", "hut-name=Larch", "--decide", "menu/main=both",
		"--live")
	var list api.DeliveryList
	s.JSON(&list, "delivery", "list")
	id := fmt.Sprint(list.Deliveries[0].Id)
	out := s.Must("delivery", "pictures", id)
	assert.NotContains(t, out, "gone")
	assert.NotContains(t, out, "no picture")
	assert.Regexp(t, `(?m)^/ .*(%|not made in time)`, out)
}

// What the service does by itself is listed; a keeper stops it and lets it go on.
func TestJobsAreSeenStoppedAndGoOn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "edit", "kestrel-refuge", "/contact/", "text", "h1", "--value", "Write to us", "--draft", "words")
	at := time.Now().Add(2 * time.Second).UTC().Format(time.RFC3339)
	s.Must("site", "go-live", "kestrel-refuge", "words", "--at", at)
	var list api.JobList
	s.JSON(&list, "job", "list")
	job := ""
	for _, j := range list.Jobs {
		if j.Kind == api.JobKindGoLive {
			job = fmt.Sprint(j.Id)
			assert.Contains(t, j.About, "of kestrel-refuge goes live")
			assert.Equal(t, "ida", *j.For)
		}
	}
	require.NotEmpty(t, job)
	assert.Contains(t, s.Must("job", "stop", job), "is stopped")
	assert.Contains(t, s.Must("job", "stop", job), "is stopped", "twice is once")
	time.Sleep(3 * time.Second)
	assert.Contains(t, s.Must("job", "list"), "stopped")
	var drafts api.DraftList
	s.JSON(&drafts, "draft", "list", "kestrel-refuge")
	require.Len(t, drafts.Drafts, 1, "it did not go live")
	s.Must("job", "go-on", job)
	require.Eventually(t, func() bool {
		return strings.Contains(s.Must("job", "show", job), "is done")
	}, 20*time.Second, 200*time.Millisecond)
	assert.Contains(t, s.Must("draft", "list", "kestrel-refuge"), "No open drafts")
	assert.NotZero(t, s.Client("job", "stop", job).Code, "what is done cannot be stopped")
	assert.NotZero(t, s.Client("job", "show", "999999").Code)
}
