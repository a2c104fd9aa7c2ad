package uploads_test

import (
	"context"
	"encoding/base64"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"compactparcel/internal/uploads"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sent is a folder of uploads behind a server, whose requests come from somebody.
func sent(t *testing.T) (u *uploads.Uploads, dir string, do func(method, at, by string, body string,
	headers ...string) *http.Response) {
	t.Helper()
	dir = t.TempDir()
	u, err := uploads.Open(dir)
	require.NoError(t, err)
	do = func(method, at, by, body string, headers ...string) *http.Response {
		r := httptest.NewRequest(method, at, strings.NewReader(body))
		r.Header.Set("Tus-Resumable", "1.0.0")
		for i := 0; i+1 < len(headers); i += 2 {
			r.Header.Set(headers[i], headers[i+1])
		}
		w := httptest.NewRecorder()
		if method == http.MethodPost {
			err = u.Begin(w, r, by, func(operation string) (int64, error) {
				if operation != "importKit" {
					return 0, errors.New("no such operation")
				}
				return 100, nil
			})
		} else {
			err = u.Continue(w, r, path.Base(at), by)
		}
		if err != nil {
			w.Header().Set("Refused", err.Error())
		}
		return w.Result()
	}
	return u, dir, do
}

func operation(name string) string {
	return "operation " + base64.StdEncoding.EncodeToString([]byte(name))
}

func TestAnUploadComesInPiecesAndIsItsOwners(t *testing.T) {
	u, dir, do := sent(t)
	for why, headers := range map[string][]string{
		"more than 0 MB":    {"Upload-Length", "101", "Upload-Metadata", operation("importKit")},
		"no such operation": {"Upload-Length", "5", "Upload-Metadata", operation("goLive")},
		"say how long":      {"Upload-Defer-Length", "1", "Upload-Metadata", operation("importKit")},
	} {
		t.Run(why, func(t *testing.T) {
			r := do(http.MethodPost, uploads.Root, "ida", "", headers...)
			assert.Contains(t, r.Header.Get("Refused"), why)
		})
	}
	left, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	assert.Empty(t, left, "what is refused leaves nothing")

	r := do(http.MethodPost, uploads.Root, "ida", "", "Upload-Length", "10", "Upload-Metadata",
		operation("importKit")+",owner "+base64.StdEncoding.EncodeToString([]byte("tomas")))
	require.Equal(t, http.StatusCreated, r.StatusCode)
	at := uploads.Root + "/" + path.Base(r.Header.Get("Location"))
	piece := func(by, from, text string) *http.Response {
		return do(http.MethodPatch, at, by, text, "Upload-Offset", from, "Content-Type",
			"application/offset+octet-stream")
	}
	assert.Contains(t, piece("tomas", "0", "theirs").Header.Get("Refused"), "no such upload", "it is ida's")
	require.Equal(t, http.StatusNoContent, piece("ida", "0", "hello").StatusCode)
	assert.Equal(t, http.StatusConflict, piece("ida", "0", "again").StatusCode, "a piece comes once")
	_, _, err = u.Body(context.Background(), path.Base(at), "ida", "importKit")
	assert.ErrorContains(t, err, "5 of 10 bytes")
	assert.Equal(t, "5", do(http.MethodHead, at, "ida", "").Header.Get("Upload-Offset"))
	require.Equal(t, http.StatusNoContent, piece("ida", "5", "world").StatusCode)

	_, _, err = u.Body(context.Background(), path.Base(at), "ida", "adoptSite")
	assert.ErrorContains(t, err, "is for importKit")
	_, _, err = u.Body(context.Background(), path.Base(at), "tomas", "importKit")
	assert.ErrorIs(t, err, uploads.ErrNoUpload)
	_, _, err = u.Body(context.Background(), "../../etc/passwd", "ida", "importKit")
	assert.ErrorIs(t, err, uploads.ErrNoUpload)
	body, n, err := u.Body(context.Background(), path.Base(at), "ida", "importKit")
	require.NoError(t, err)
	defer body.Close()
	text, err := io.ReadAll(body)
	require.NoError(t, err)
	assert.Equal(t, "helloworld", string(text))
	assert.Equal(t, int64(10), n)
}

func TestUploadsThatNobodyGoesOnWithAreSwept(t *testing.T) {
	u, dir, do := sent(t)
	begin := func() string {
		r := do(http.MethodPost, uploads.Root, "ida", "", "Upload-Length", "5", "Upload-Metadata",
			operation("importKit"))
		require.Equal(t, http.StatusCreated, r.StatusCode)
		return path.Base(r.Header.Get("Location"))
	}
	whole, part := begin(), begin()
	do(http.MethodPatch, uploads.Root+"/"+whole, "ida", "hello", "Upload-Offset", "0", "Content-Type",
		"application/offset+octet-stream")
	there := func() (out []bool) {
		for _, id := range []string{whole, part} {
			_, err := os.Stat(filepath.Join(dir, id))
			out = append(out, err == nil)
		}
		return out
	}
	now := time.Now()
	u.Sweep(context.Background(), now, slog.New(slog.DiscardHandler))
	assert.Equal(t, []bool{true, true}, there())
	u.Sweep(context.Background(), now.Add(2*time.Hour), slog.New(slog.DiscardHandler))
	assert.Equal(t, []bool{false, true}, there(), "what has come whole was used by then")
	u.Sweep(context.Background(), now.Add(25*time.Hour), slog.New(slog.DiscardHandler))
	assert.Equal(t, []bool{false, false}, there())
}

// Nobody begins more than they finish; what is ended, or has come whole, counts no more, and others begin theirs.
func TestNobodyBeginsMoreThanTheyFinish(t *testing.T) {
	_, _, do := sent(t)
	begin := func(by string) *http.Response {
		return do(
			http.MethodPost,
			uploads.Root,
			by,
			"",
			"Upload-Length",
			"5",
			"Upload-Metadata",
			operation("importKit"),
		)
	}
	var at []string
	for range uploads.MaxBegun {
		r := begin("ida")
		require.Equal(t, http.StatusCreated, r.StatusCode)
		at = append(at, uploads.Root+"/"+path.Base(r.Header.Get("Location")))
	}
	assert.Contains(t, begin("ida").Header.Get("Refused"), "are not finished")
	assert.Equal(t, http.StatusCreated, begin("tomas").StatusCode)
	do(http.MethodDelete, at[0], "ida", "")
	do(http.MethodPatch, at[1], "ida", "12345", "Upload-Offset", "0", "Content-Type", "application/offset+octet-stream")
	assert.Equal(t, http.StatusCreated, begin("ida").StatusCode)
	assert.Equal(t, http.StatusCreated, begin("ida").StatusCode)
	assert.NotEmpty(t, begin("ida").Header.Get("Refused"))
}
