package test

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// send posts without waiting for a sound answer: the service may die under it.
func send(s *harness.Service, path string) {
	req, err := http.NewRequest(http.MethodPost, s.Console+path, nil)
	if err != nil {
		return
	}
	req.Header.Set("Authorization", "Bearer "+s.Token)
	if r, err := http.DefaultClient.Do(req); err == nil {
		r.Body.Close()
	}
}

func TestKilledBetweenStagingAndGoingLive(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	before := digest(t, s, "larch-saddle")
	d := staged(t, s, "0.1.0")
	orphan := s.MariaDB()
	s.Kill()
	require.NoError(t, syscall.Kill(orphan, 0), "the killed service leaves its database server behind")
	s.Up()
	assert.NotEqual(t, orphan, s.MariaDB(), "the orphan was stopped, and a new server started")
	assert.Equal(t, before, digest(t, s, "larch-saddle"))
	assert.Equal(t, 200, s.Visit(*d.Preview+"/").Status, "the draft is still there")
	require.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id), nil).Status)
	require.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/undo", d.Id), nil).Status)
	assert.Equal(t, before, digest(t, s, "larch-saddle"))
}

// Whenever the service is killed while it goes live, the site is wholly before or
// wholly after, and the delivery can go on. Half of the kills take MariaDB along.
func TestKilledInTheMiddleOfGoingLive(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	sealed(t, s, "0.1.0")
	before := digest(t, s, "larch-saddle")
	seen := map[api.DeliveryState]int{}
	for i := range 8 {
		d := staged(t, s, "0.1.0")
		go send(s, fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id))
		time.Sleep(time.Duration(i*14) * time.Millisecond)
		if pid := s.MariaDB(); i%2 == 1 && pid > 0 {
			syscall.Kill(pid, syscall.SIGKILL)
		}
		s.Kill()
		s.Up()
		s.Call("GET", fmt.Sprintf("/api/v1/deliveries/%d", d.Id), nil).Into(t, &d)
		seen[d.State]++
		now := digest(t, s, "larch-saddle")
		switch d.State {
		case api.DeliveryStateStaged:
			require.Equal(t, before, now, "wholly before")
			require.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/live", d.Id), nil).Status,
				"it can go on")
		case api.DeliveryStateLive:
			require.Equal(t, string(d.Receipt.After), now, "wholly after")
		default:
			t.Fatalf("the delivery is %s", d.State)
		}
		require.Equal(t, 200, s.Call("POST", fmt.Sprintf("/api/v1/deliveries/%d/undo", d.Id), nil).Status)
		require.Equal(t, before, digest(t, s, "larch-saddle"))
	}
	t.Logf("found after the kills: %v", seen)
}

func TestMariaDBIsStartedAgainWhenItDies(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	before := digest(t, s, "larch-saddle")
	old := s.MariaDB()
	require.NoError(t, syscall.Kill(old, syscall.SIGKILL))
	require.Eventually(t, func() bool {
		r, err := http.Get(s.Console + "/readyz")
		if err != nil {
			return false
		}
		r.Body.Close()
		return r.StatusCode == 200 && s.MariaDB() != old && s.MariaDB() > 0
	}, 30*time.Second, 100*time.Millisecond)
	assert.Equal(t, before, digest(t, s, "larch-saddle"))
	pid := s.MariaDB()
	s.Stop()
	assert.Error(t, syscall.Kill(pid, 0), "the service takes its database server down with itself")
}

func TestOneServiceInADataFolder(t *testing.T) {
	s := harness.Start(t, "--demo=sites")
	r := harness.Second(t, s)
	assert.NotEqual(t, 0, r.Code)
	assert.Contains(t, r.Err, "another service works in the data folder")
	assert.Equal(t, 200, s.Call("GET", "/api/v1/sites", nil).Status)
}

// Whenever the service is killed while it publishes, visitors see one release or another,
// each whole, and the outlet comes level by itself.
func TestKilledWhilePublishing(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "outlet", "add", "kestrel-refuge", "main")
	dir := filepath.Join(s.Data, "outlets", "kestrel-refuge", "main")
	for i := range 6 {
		var e api.Edited
		words := fmt.Sprintf("<section>words of %d</section>", i)
		item := s.Call("GET", "/api/v1/sites/kestrel-refuge/item?address=section/opening-hours", nil)
		s.Call("PUT", "/api/v1/sites/kestrel-refuge/item?address=section/opening-hours",
			map[string]string{"content": words}, "If-Match", item.Header.Get("ETag")).
			Into(t, &e)
		go send(s, fmt.Sprintf("/api/v1/sites/kestrel-refuge/drafts/%d/live", e.Draft))
		time.Sleep(time.Duration(10+i*12) * time.Millisecond)
		s.Kill()
		b, err := os.ReadFile(filepath.Join(dir, "_cp", "release.json"))
		require.NoError(t, err, "there is always a release")
		var rel struct {
			Files map[string]struct{ Sha256 string }
		}
		require.NoError(t, json.Unmarshal(b, &rel))
		require.NotEmpty(t, rel.Files)
		for name, f := range rel.Files {
			text, err := os.ReadFile(filepath.Join(dir, filepath.FromSlash(name)))
			require.NoError(t, err, name)
			if f.Sha256 != "" {
				require.Equal(t, f.Sha256, fmt.Sprintf("%x", sha256.Sum256(text)), name)
			}
		}
		s.Up()
		if d := s.Call("GET", fmt.Sprintf("/api/v1/sites/kestrel-refuge/items?draft=%d", e.Draft),
			nil); d.Status == 200 {
			send(s, fmt.Sprintf("/api/v1/sites/kestrel-refuge/drafts/%d/live", e.Draft)) // it may be live already
		}
		require.Eventually(t, func() bool {
			b, err := os.ReadFile(filepath.Join(dir, "index.html"))
			return err == nil && strings.Contains(string(b), words)
		}, 40*time.Second, 100*time.Millisecond, "it comes level by itself")
	}
}

// The database is killed while a page of many sections goes live and is published: no
// release goes out without them, none is called current that lacks one, and previews are
// whole again when the database is.
func TestTheDatabaseIsKilledWhilePublishing(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	const sections = 200
	dir := t.TempDir()
	page := &strings.Builder{}
	manifest := &strings.Builder{}
	page.WriteString("<!doctype html><html><body>")
	manifest.WriteString(`{"format":1,"items":[{"kind":"page","key":"home","slug":"/"}]}`)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "sections"), 0o755))
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "pages"), 0o755))
	for i := range sections {
		fmt.Fprintf(page, `<cp-section name="s%d"></cp-section>`, i)
		require.NoError(
			t,
			os.WriteFile(filepath.Join(dir, "sections", fmt.Sprintf("s%d.html", i)),
				[]byte(fmt.Sprintf("<section class=\"s%d\">words</section>", i)), 0o644),
		)
	}
	require.NoError(t,
		os.WriteFile(filepath.Join(dir, "pages", "home.html"), []byte(page.String()+"</body></html>"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "site.json"), []byte(manifest.String()), 0o644))
	s.Must("site", "adopt", dir, "--name", "many")
	s.Must("site", "outlet", "add", "many", "main")
	index := filepath.Join(s.Data, "outlets", "many", "main", "index.html")
	whole := func(text string) int { return strings.Count(text, "<section class=") }
	for i := range 6 {
		item := s.Call("GET", "/api/v1/sites/many/item?address=section/s0", nil)
		require.Equal(t, 200, item.Status)
		var e api.Edited
		s.Call("PUT", "/api/v1/sites/many/item?address=section/s0",
			map[string]string{"content": fmt.Sprintf(`<section class="s0">words of %d</section>`, i)}, "If-Match",
			item.Header.Get("ETag")).
			Into(t, &e)
		go send(s, fmt.Sprintf("/api/v1/sites/many/drafts/%d/live", e.Draft))
		time.Sleep(time.Duration(5+8*i) * time.Millisecond)
		old := s.MariaDB()
		syscall.Kill(old, syscall.SIGKILL)
		for range 50 { // meanwhile nothing is shown or published in part
			if b, err := os.ReadFile(index); err == nil {
				require.Equal(t, sections, whole(string(b)), "kill %d: a release has every section", i)
			}
			if v := s.Visit(s.Live("many") + "/"); v.Status == 200 {
				require.Equal(t, sections, whole(string(v.Body)), "kill %d: a preview has every section", i)
			}
			time.Sleep(5 * time.Millisecond)
		}
		require.Eventually(t, func() bool {
			r, err := http.Get(s.Console + "/readyz")
			if err != nil {
				return false
			}
			r.Body.Close()
			return r.StatusCode == 200 && s.MariaDB() != old
		}, 30*time.Second, 50*time.Millisecond)
		send(s, fmt.Sprintf("/api/v1/sites/many/drafts/%d/live", e.Draft)) // if it is not live yet
		require.Eventually(t, func() bool {
			b, err := os.ReadFile(index)
			return err == nil && whole(string(b)) == sections &&
				strings.Contains(string(b), fmt.Sprintf("words of %d", i))
		}, 40*time.Second, 50*time.Millisecond, "kill %d: the outlet comes level", i)
		v := s.Visit(s.Live("many") + "/")
		require.Equal(t, 200, v.Status)
		require.Equal(t, sections, whole(string(v.Body)))
	}
}

// Whenever the service is killed while people work in drafts, no step is half there: a draft is what its
// last step says, and what was answered is not lost.
func TestKilledWhileDraftsAreWorkedIn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	const people = 3
	for range 4 {
		var drafts, answered [people]int64
		var all, begun sync.WaitGroup
		begun.Add(people)
		for k := range people {
			all.Go(func() {
				first := sync.OnceFunc(begun.Done)
				defer first()
				for n := int64(1); ; n++ {
					got, ok := trySend(t, s, "/api/v1/sites/larch-saddle/edits",
						fmt.Sprintf(`{"draft":%d,"operations":[{"op":`+
							`"set","item":"setting/strapline","value":"%d"},{"op":"set","item":"setting/words",`+
							`"value":"%d"}]}`,
							drafts[k], n, n))
					if !ok {
						return
					}
					drafts[k], answered[k] = got, n
					first()
				}
			})
		}
		begun.Wait() // however slow the machine is
		time.Sleep(500 * time.Millisecond)
		s.Kill()
		all.Wait()
		s.Up()
		for k, id := range drafts {
			require.NotZero(t, id, "nothing was refused before the kill")
			var list api.DraftStepList
			s.Call("GET", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d/steps", id), nil).Into(t, &list)
			n := int64(len(list.Steps))
			assert.GreaterOrEqual(t, n, answered[k], "what was answered is there")
			assert.LessOrEqual(t, n, answered[k]+1)
			for _, key := range []string{"strapline", "words"} {
				var d api.ItemDetail
				s.Call("GET", fmt.Sprintf("/api/v1/sites/larch-saddle/item?draft=%d&address=setting/%s", id, key),
					nil).Into(t, &d)
				assert.Equal(t, fmt.Sprint(n), *d.Content, "both of the step, or none")
			}
		}
	}
}

// trySend posts a JSON text that makes or continues a draft, and gives its number; false when the service
// died under it.
func trySend(t *testing.T, s *harness.Service, path, body string) (int64, bool) {
	body = strings.Replace(body, `"draft":0,`, "", 1)
	req, err := http.NewRequest(http.MethodPost, s.Console+path, strings.NewReader(body))
	if err != nil {
		return 0, false
	}
	req.Header.Set("Authorization", "Bearer "+s.Token)
	req.Header.Set("Content-Type", "application/json")
	r, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, false
	}
	defer r.Body.Close()
	var got struct {
		Draft        int64
		Type, Detail string
	}
	err = json.NewDecoder(r.Body).Decode(&got)
	if err == nil && r.StatusCode != http.StatusOK {
		t.Logf("an edit was answered with %d: %s, %s", r.StatusCode, got.Type, got.Detail)
	}
	return got.Draft, err == nil && r.StatusCode == http.StatusOK && got.Draft > 0
}
