package httpapi_test

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	description "compactparcel/api"
	"compactparcel/internal/api"
	"compactparcel/internal/desk"
	"compactparcel/internal/httpapi"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var keeper = desk.Person{Name: "the-keeper", Role: desk.Keeper}

// aSite makes a site of one page.
func aSite(t *testing.T, d *desk.Desk, name string) {
	t.Helper()
	_, err := d.Adopt(
		context.Background(),
		keeper,
		name,
		fstest.MapFS{
			"index.html": {Data: []byte("<!doctype html><title>Home</title><p>home</p>")},
			"a.html":     {Data: []byte("<!doctype html><title>A</title><p>a</p>")},
		},
		desk.PartsNone,
	)
	require.NoError(t, err)
}

func withKey(key string) func(*http.Request) {
	return func(r *http.Request) { r.Header.Set("Idempotency-Key", key) }
}

func problemOf(t *testing.T, r *http.Response) api.Problem {
	t.Helper()
	var p api.Problem
	require.NoError(t, json.Unmarshal([]byte(harness.Text(t, r)), &p))
	return p
}

// A handler that panics does not keep its key for ever: the repeated request is answered.
func TestAHandlerThatFailsLetsGoOfItsKey(t *testing.T) {
	log := slog.New(slog.DiscardHandler)
	s := &httpapi.Server{Desk: desk.New(harness.Records(t), log), Log: log}
	calls := 0
	engine := gin.New()
	engine.POST("/x", func(c *gin.Context) { httpapi.Recover(s, c) }, func(c *gin.Context) {
		httpapi.Once(s, c, description.Operation{ID: "editItem", MaxBody: 4096}, keeper, "key")
	}, func(c *gin.Context) {
		if calls++; calls == 1 {
			panic("something that nobody thought of")
		}
		c.JSON(http.StatusOK, "done")
	})
	var got []int
	for range 3 {
		w := httptest.NewRecorder()
		engine.ServeHTTP(w, httptest.NewRequest(http.MethodPost, "/x", nil))
		got = append(got, w.Code)
	}
	assert.Equal(t, []int{500, 200, 200}, got)
	assert.Equal(t, 2, calls, "the third is the second's answer")
}

// The database dies behind a commit: the answer says that it may have happened, it has
// happened once, and the same request with the same key is answered as the first would
// have been. This for every act that has an answer of its own.
func TestACommitThatNobodySawIsToldAndCanBeRepeated(t *testing.T) {
	s, proxy := harness.RecordsThrough(t)
	srv := harness.Serve(t, s, nil)
	ctx := context.Background()
	aSite(t, srv.Desk, "hut")
	live := func() *store.Collection {
		c, err := s.Read(ctx).Collections().ByName(store.Site, "hut")
		require.NoError(t, err)
		return c
	}
	n := 0
	// lost sends a request whose commit nobody sees, then repeats it.
	lost := func(role desk.Role, method, path, body string, status int, edit ...func(*http.Request)) string {
		n++
		key := withKey(fmt.Sprintf("key-%d", n))
		proxy.LoseCommit(1)
		first := srv.Do(role, method, path, strings.NewReader(body), append(edit, key)...)
		p := problemOf(t, first)
		require.Equal(t, api.ProblemType(desk.Uncertain), p.Type, "%s %s: %+v", method, path, p)
		assert.Equal(t, 503, first.StatusCode)
		assert.Equal(t, api.RemedyCodeLookBefore, p.Remedy.Code)
		again := srv.Do(role, method, path, strings.NewReader(body), append(edit, key)...)
		text := harness.Text(t, again)
		require.Equal(t, status, again.StatusCode, "%s %s again: %s", method, path, text)
		third := srv.Do(role, method, path, strings.NewReader(body), append(edit, key)...)
		assert.Equal(t, text, harness.Text(t, third), "a kept answer")
		assert.Equal(t, "true", third.Header.Get("Idempotency-Replayed"))
		return text
	}
	var edited api.Edited
	require.NoError(
		t,
		json.Unmarshal(
			[]byte(
				lost(desk.Keeper, "PUT", "/api/v1/sites/hut/item?address=block/new", `{"content":"<p>new</p>"}`, 200),
			),
			&edited,
		),
	)
	drafts, err := srv.Desk.Drafts(ctx, keeper, "hut")
	require.NoError(t, err)
	require.Len(t, drafts.List, 1, "one draft, not two")
	assert.Equal(t, drafts.List[0].ID, edited.Draft)

	before := live().Revision
	var went api.GoLiveResponse
	require.NoError(
		t,
		json.Unmarshal(
			[]byte(lost(desk.Keeper, "POST", fmt.Sprintf("/api/v1/sites/hut/drafts/%d/live", edited.Draft), "", 200)),
			&went,
		),
	)
	assert.Equal(t, before+1, live().Revision, "it went live once")
	assert.Equal(t, before+1, went.Revision)

	lost(desk.Librarian, "POST", "/api/v1/kits", `{"name":"basics","version":"0.1.0","title":"B","license":"CC0-1.0"}`,
		201)
	lost(desk.Librarian, "POST", "/api/v1/kits/basics/0.1.0/picks", `{"picks":[{"from":"hut","address":"block/new"}]}`,
		200)
	lost(desk.Librarian, "POST", "/api/v1/kits/basics/0.1.0/seal", "", 200)
	aSite(t, srv.Desk, "other")
	var d api.Delivery
	require.NoError(
		t,
		json.Unmarshal(
			[]byte(
				lost(desk.Librarian, "POST", "/api/v1/deliveries", `{"kit":"basics","version":"0.1.0","site":"other"}`,
					201),
			),
			&d,
		),
	)
	all, err := srv.Desk.Deliveries(ctx, keeper)
	require.NoError(t, err)
	require.Len(t, all, 1, "one delivery, not two")
	at := fmt.Sprintf("/api/v1/deliveries/%d", d.Id)
	lost(desk.Librarian, "POST", at+"/stage", "", 200)
	lost(desk.Keeper, "POST", at+"/live", "", 200)
	require.NoError(t, json.Unmarshal([]byte(lost(desk.Keeper, "POST", at+"/undo", "{}", 200)), &d))
	assert.Equal(t, api.DeliveryState(desk.Undone), d.State)

	// What cannot be answered again says so, and is not done twice.
	n++
	key := withKey("a token")
	proxy.LoseCommit(1)
	first := srv.Do(desk.Viewer, "POST", "/api/v1/access-tokens", strings.NewReader(`{"name":"mine"}`), key)
	assert.Equal(t, api.ProblemType(desk.Uncertain), problemOf(t, first).Type)
	again := srv.Do(desk.Viewer, "POST", "/api/v1/access-tokens", strings.NewReader(`{"name":"mine"}`), key)
	assert.Equal(t, api.ProblemType(desk.DoneBefore), problemOf(t, again).Type)
	var tokens api.TokenList
	require.NoError(t,
		json.Unmarshal([]byte(harness.Text(t, srv.Do(desk.Viewer, "GET", "/api/v1/access-tokens", nil))), &tokens))
	assert.Len(t, tokens.Tokens, 2, "that of the test, and one more")
	for _, a := range []string{"mine", "test"} {
		assert.Contains(t, fmt.Sprint(tokens.Tokens), a)
	}
}

// A key belongs to one request; two with one key at once are done once.
func TestKeysOfRequests(t *testing.T) {
	srv := harness.Serve(t, harness.Records(t), nil)
	aSite(t, srv.Desk, "hut")
	put := func(address, key string) *http.Response {
		return srv.Do(desk.Keeper, "PUT", "/api/v1/sites/hut/item?address="+address,
			strings.NewReader(`{"content":"<p>x</p>"}`), withKey(key))
	}
	require.Equal(t, 200, put("block/a", "one").StatusCode)
	other := put("block/b", "one")
	assert.Equal(t, api.ProblemType(desk.BadInput), problemOf(t, other).Type, "another request")
	assert.Equal(t, 400, put("block/c", strings.Repeat("x", 300)).StatusCode)
	stranger := srv.Do(desk.Admin, "PUT", "/api/v1/sites/hut/item?address=block/a",
		strings.NewReader(`{"content":"<p>x</p>"}`), withKey("one"))
	assert.Empty(t, stranger.Header.Get("Idempotency-Replayed"), "somebody else's key is another key")
	var wg sync.WaitGroup
	codes := make([]int, 8)
	for i := range codes {
		wg.Go(func() { codes[i] = put("block/at-once", "at once").StatusCode })
	}
	wg.Wait()
	drafts, err := srv.Desk.Drafts(context.Background(), keeper, "hut")
	require.NoError(t, err)
	assert.Len(t, drafts.List, 3, "a, the admin's, at-once: %v", codes)
	for _, c := range codes {
		assert.Contains(t, []int{200, 409}, c, "the answer, or that it is under way")
	}
	assert.Contains(t, codes, 200)
}

// A database that stops answering is told of within five seconds, by new requests at once,
// and all goes on when it answers again.
func TestAStalledDatabaseIsTold(t *testing.T) {
	s, proxy := harness.RecordsThrough(t)
	srv := harness.Serve(t, s, nil)
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	go s.Watch(ctx)
	require.Equal(t, 200, srv.Do(desk.Viewer, "GET", "/api/v1/sites", nil).StatusCode)
	proxy.Stall()
	began := time.Now()
	answer := srv.Do(desk.Viewer, "GET", "/api/v1/sites", nil)
	p := problemOf(t, answer)
	assert.Equal(t, 503, answer.StatusCode)
	assert.Equal(t, api.ProblemType(desk.Unavailable), p.Type, "and never that the account is gone")
	assert.Less(t, time.Since(began), 8*time.Second, "a bound for a slow machine; it is meant to be five")
	began = time.Now()
	assert.Equal(t, 503, srv.Do(desk.Viewer, "GET", "/api/v1/sites", nil).StatusCode)
	assert.Less(t, time.Since(began), 2*time.Second, "nobody else waits")
	proxy.Resume()
	require.Eventually(
		t,
		func() bool { return srv.Do(desk.Viewer, "GET", "/api/v1/sites", nil).StatusCode == 200 },
		20*time.Second,
		100*time.Millisecond,
	)
	proxy.Down()
	for _, path := range []string{"/api/v1/sites", "/api/v1/session", "/api/v1/users"} {
		t.Run(path, func(t *testing.T) {
			answer := srv.Do(desk.Admin, "GET", path, nil)
			assert.Equal(t, 503, answer.StatusCode, "a database that is gone: %s", path)
			assert.Equal(t, api.ProblemType(desk.Unavailable), problemOf(t, answer).Type)
		})
	}
	signIn := srv.Do("", "POST", "/api/v1/session",
		strings.NewReader(`{"name":"the-admin","password":"a long password"}`))
	assert.Equal(t, 503, signIn.StatusCode)
	assert.NotContains(t, srv.Log.String(), "a long password")
}
