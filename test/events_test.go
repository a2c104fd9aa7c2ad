package test

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"os/exec"
	"strings"
	"testing"
	"time"

	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// stream opens a stream of events and gives its lines.
func stream(t *testing.T, s *harness.Service, query, last string) <-chan string {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	t.Cleanup(cancel)
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, s.Console+"/api/v1/events"+query, nil)
	require.NoError(t, err)
	req.Header.Set("Authorization", "Bearer "+s.Token)
	if last != "" {
		req.Header.Set("Last-Event-ID", last)
	}
	resp, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	require.Equal(t, 200, resp.StatusCode)
	lines := make(chan string, 1000)
	go func() {
		defer close(lines)
		defer resp.Body.Close()
		for sc := bufio.NewScanner(resp.Body); sc.Scan(); {
			lines <- sc.Text()
		}
	}()
	return lines
}

// until reads lines until one holds some words, and gives those before it.
func until(t *testing.T, lines <-chan string, words string) (before []string) {
	t.Helper()
	over := time.After(20 * time.Second)
	for {
		select {
		case l, ok := <-lines:
			require.True(t, ok, "the stream ended before %q; %v", words, before)
			before = append(before, l)
			if strings.Contains(l, words) {
				return before
			}
		case <-over:
			require.Fail(t, "nothing told", "%q; %v", words, before)
		}
	}
}

// What changes is told as it does, by names alone, in its order; a stream that broke off goes on where
// it was, also after the service was killed.
func TestWhatChangesIsTold(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	lines := stream(t, s, "", "")
	begun := until(t, lines, "event: begun")
	id := strings.TrimPrefix(begun[0], "id: ")
	s.Must("site", "edit", "larch-saddle", "setting/strapline", "set", "--value", "Open", "--draft", "spring")
	until(t, lines, `"kind":"draft","site":"larch-saddle","subject":"1"`)
	s.Must("site", "go-live", "larch-saddle", "spring")
	until(t, lines, `"kind":"site","site":"larch-saddle"`)
	s.Must("library", "add", "kestrel-refuge", "section/opening-hours")
	until(t, lines, `"kind":"library"`)

	only := stream(t, s, "?site=kestrel-refuge&kind=draft", "")
	until(t, only, "event: begun")
	s.Must("site", "edit", "larch-saddle", "setting/strapline", "set", "--value", "Shut", "--draft", "other")
	s.Must("site", "edit", "kestrel-refuge", "setting/strapline", "set", "--value", "Shut", "--draft", "other")
	assert.NotContains(t, strings.Join(until(t, only, "event: draft"), "\n"), "larch")
	assert.Equal(t, 400, s.Call("GET", "/api/v1/events?kind=weather", nil).Status)

	// From where it was, each once, in their order.
	s.Kill()
	assert.Contains(t, s.Client("watch").Err, "is the service running", "it does not wait for what was never there")
	s.Up()
	again := stream(t, s, "", id)
	seen := until(t, again, `"site":"kestrel-refuge","subject":"3"`)
	last := int64(0)
	for _, l := range seen {
		if n, ok := strings.CutPrefix(l, "id: "); ok {
			var k int64
			_, err := fmt.Sscan(n, &k)
			require.NoError(t, err)
			assert.Greater(t, k, last)
			last = k
		}
	}
	assert.Contains(t, strings.Join(seen, "\n"), `"kind":"library"`)
	until(t, stream(t, s, "", "999999999"), "event: reset")

	// The client waits for a draft that goes live at its time, and watches.
	at := time.Now().Add(3 * time.Second).UTC().Format(time.RFC3339Nano)
	assert.Contains(t, s.Must("site", "go-live", "larch-saddle", "other", "--at", at, "--wait"), "is live")
	cmd := exec.Command(harness.Binaries(t)+"/cparcel", "watch", "larch-saddle", "--count", "1", "--server", s.Console,
		"--token", s.Token)
	var out strings.Builder
	cmd.Stdout = &out
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		s.Must("site", "edit", "larch-saddle", "setting/strapline", "set", "--value",
			fmt.Sprint("At ", time.Now().UnixNano()), "--draft", "last")
		return exec.Command("kill", "-0", fmt.Sprint(cmd.Process.Pid)).Run() != nil || out.Len() > 0
	}, 20*time.Second, 300*time.Millisecond)
	require.NoError(t, cmd.Wait())
	assert.Contains(t, out.String(), "draft  larch-saddle")
}
