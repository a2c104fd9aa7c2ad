package harness

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"slices"
	"sync"
	"testing"

	"compactparcel/internal/blob"
	"compactparcel/internal/desk"
	"compactparcel/internal/httpapi"
	"compactparcel/internal/pictures"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"
	"compactparcel/internal/uploads"

	"github.com/stretchr/testify/require"
)

// Served is the interface and the previews over records of their own, in this process.
type Served struct {
	*httptest.Server
	Desk     *desk.Desk
	Previews *preview.Previews
	Tokens   map[desk.Role]string
	Log      *bytes.Buffer

	t testing.TB
}

// Serve serves a store: one account for each role, with a token.
func Serve(t testing.TB, s *store.Store, change func(*httpapi.Server)) *Served {
	t.Helper()
	ctx := context.Background()
	out := &Served{t: t, Tokens: map[desk.Role]string{}, Log: &bytes.Buffer{}}
	log := slog.New(slog.NewJSONHandler(out.Log, nil))
	out.Desk = desk.New(s, log)
	out.Desk.OutletRoot = t.TempDir()
	scratch, err := blob.OpenScratch(filepath.Join(t.TempDir(), "scratch"))
	require.NoError(t, err)
	out.Desk.Scratch = scratch
	for _, r := range desk.Roles {
		p := out.account(ctx, s, r)
		out.Tokens[r], _, err = out.Desk.NewToken(ctx, p, desk.TokenWish{Name: "test"})
		require.NoError(t, err)
	}
	out.Previews = &preview.Previews{
		Store:     s,
		Log:       log,
		Pattern:   "http://{host}.localhost",
		Framers:   []string{"'self'"},
		Secret:    []byte("secret"),
		InMaking:  out.Desk.KitInMaking,
		AsPlanned: out.Desk.DeliveryAsPlanned,
	}
	files, err := blob.Open(t.TempDir())
	require.NoError(t, err)
	sent, err := uploads.Open(t.TempDir())
	require.NoError(t, err)
	server := &httpapi.Server{
		Uploads:  sent,
		Pictures: pictures.New(s, files, out.Previews, log),
		Desk:     out.Desk,
		Previews: out.Previews,
		Log:      log,
		Console:  http.NotFoundHandler(),
		Ready:    s.Ping,
	}
	if change != nil {
		change(server)
	}
	h, err := server.Handler()
	require.NoError(t, err)
	out.Server = httptest.NewServer(h)
	t.Cleanup(out.Server.Close)
	return out
}

// hashed is the password of all accounts as it is kept, made once: under the race detector each would take a while.
var hashed struct {
	sync.Mutex
	password string
}

// account makes the account of a role, with the password “a long password”.
func (s *Served) account(ctx context.Context, records *store.Store, r desk.Role) desk.Person {
	name := "the-" + string(r)
	hashed.Lock()
	defer hashed.Unlock()
	users := records.Read(ctx).Users()
	if hashed.password == "" {
		loader := desk.Person{Name: "loader", Role: desk.Admin}
		require.NoError(s.t, s.Desk.NewUser(ctx, loader, name, "a long password", r))
	} else {
		require.NoError(s.t, users.Create(&store.User{Name: name, Role: string(r), Password: hashed.password,
			CreatedAt: s.Desk.Now()}))
	}
	row, err := users.ByName(name)
	require.NoError(s.t, err)
	hashed.password = row.Password
	return desk.Person{ID: row.ID, Name: name, Role: r}
}

// Do sends a request with a role's token, or without one for "". edit may change it.
func (s *Served) Do(role desk.Role, method, path string, body io.Reader, edit ...func(*http.Request)) *http.Response {
	s.t.Helper()
	r, err := http.NewRequest(method, s.URL+path, body)
	require.NoError(s.t, err)
	if role != "" {
		r.Header.Set("Authorization", "Bearer "+s.Tokens[role])
	}
	for _, e := range edit {
		e(r)
	}
	answer, err := s.Client().Do(r)
	require.NoError(s.t, err)
	s.t.Cleanup(func() { answer.Body.Close() })
	return answer
}

// Text reads an answer.
func Text(t testing.TB, r *http.Response) string {
	t.Helper()
	b, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	return string(b)
}

// JSON sends a request, requires the status, holds the answer against the interface's
// description and decodes it into a T; a body that is no reader is sent as JSON.
func JSON[T any](s *Served, role desk.Role, status int, method, path string, body any,
	edit ...func(*http.Request)) T {
	s.t.Helper()
	var send io.Reader
	switch b := body.(type) {
	case nil:
	case io.Reader:
		send = b
	default:
		text, err := json.Marshal(b)
		require.NoError(s.t, err)
		send = bytes.NewReader(text)
		edit = append(edit, func(r *http.Request) { r.Header.Set("Content-Type", "application/json") })
	}
	r := s.Do(role, method, path, send, edit...) //nolint:bodyclose // Do closes it when the test ends
	text := []byte(Text(s.t, r))
	require.Equal(s.t, status, r.StatusCode, "%s %s: %s", method, path, text)
	hold(s.t, r.Request, r, text)
	var out T
	if len(text) > 0 {
		require.NoError(s.t, json.Unmarshal(text, &out), "%s %s: %s", method, path, text)
	}
	return out
}

// Zipped gives a ZIP of files by their paths.
func Zipped(t testing.TB, files map[string]string) *bytes.Reader {
	t.Helper()
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, path := range slices.Sorted(maps.Keys(files)) {
		f, err := w.Create(path)
		require.NoError(t, err)
		_, err = f.Write([]byte(files[path]))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return bytes.NewReader(out.Bytes())
}
