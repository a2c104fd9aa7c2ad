package test

import (
	"archive/zip"
	"crypto/rand"
	"encoding/base64"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// cutting is a way to a service that breaks off after so many bytes, some times.
func cutting(t *testing.T, to string, after int64, times int32) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { l.Close() })
	var cut atomic.Int32
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				defer in.Close()
				out, err := net.Dial("tcp", to)
				if err != nil {
					return
				}
				defer out.Close()
				go func() {
					_, _ = io.Copy(in, out)
					in.Close()
				}()
				if cut.Add(1) > times+1 { // the first begins the upload
					_, _ = io.Copy(out, in)
					return
				}
				_, _ = io.CopyN(out, in, after)
			}()
		}
	}()
	return "http://" + l.Addr().String()
}

// largeZip writes a ZIP of loose files that does not get smaller.
func largeZip(t *testing.T, bytes int64) string {
	t.Helper()
	name := filepath.Join(t.TempDir(), "loose.zip")
	f, err := os.Create(name)
	require.NoError(t, err)
	defer f.Close()
	z := zip.NewWriter(f)
	w, err := z.Create("index.html")
	require.NoError(t, err)
	_, err = w.Write([]byte(`<!doctype html><html lang="en"><title>Loose</title><body><main><h1>Loose</h1>` +
		`<a href="film.bin">Film</a></main>`))
	require.NoError(t, err)
	w, err = z.CreateHeader(&zip.FileHeader{Name: "film.mp4", Method: zip.Store})
	require.NoError(t, err)
	_, err = io.CopyN(w, rand.Reader, bytes)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return name
}

// A file that is cut off three times goes on where it was, and is taken in once; two of one file are two uploads.
func TestAnUploadThatIsCutOffGoesOn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	file := largeZip(t, 40<<20)
	way := cutting(t, strings.TrimPrefix(s.Console, "http://"), 9<<20, 3)
	r := s.Client("kit", "import", file, "--as", "loose@1.0.0", "--server", way)
	require.Zero(t, r.Code, r.Out+r.Err)
	assert.Contains(t, r.Out, "loose@1.0.0")
	pieces := strings.Count(s.Logged(), `"method":"PATCH","path":"/api/v1/uploads/`)
	assert.GreaterOrEqual(t, pieces, 4, "three were cut off:\n%s", s.Logged())
	s.Must("kit", "import", file, "--as", "loose@1.0.1")
	assert.Contains(t, s.Must("kit", "list"), "1.0.1")
}

// Whether somebody may do what a file is for, and whether it is small enough, is told before its first byte.
func TestAnUploadIsRefusedBeforeItsFirstByte(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	begin := func(operation string, size int64, headers ...string) harness.Reply {
		return s.Call(http.MethodPost, "/api/v1/uploads", nil,
			append([]string{"Tus-Resumable", "1.0.0", "Upload-Length",
				strconv.FormatInt(size, 10), "Upload-Metadata",
				"operation " + base64.StdEncoding.EncodeToString([]byte(operation))}, headers...)...)
	}
	got := begin("importKit", 9<<30)
	assert.Equal(t, http.StatusRequestEntityTooLarge, got.Status, string(got.Body))
	got = begin("goLive", 5)
	assert.Equal(t, http.StatusBadRequest, got.Status, string(got.Body))
	got = begin("importKit", 5, "Authorization", "Bearer nobody")
	assert.Equal(t, http.StatusUnauthorized, got.Status, string(got.Body))
	got = begin("importKit", 5)
	require.Equal(t, http.StatusCreated, got.Status, string(got.Body))
	id := filepath.Base(got.Header.Get("Location"))
	got = s.Call(http.MethodPost, "/api/v1/kit-files?name=x.zip", nil, api.UploadID, id)
	assert.Equal(t, http.StatusBadRequest, got.Status, "it has not come whole")
	got = s.Call(http.MethodPost, "/api/v1/kit-files?name=x.zip", nil, api.UploadID, "0123")
	assert.Equal(t, http.StatusNotFound, got.Status)
	got = s.Call(http.MethodDelete, "/api/v1/uploads/"+id, nil, "Tus-Resumable", "1.0.0")
	assert.Equal(t, http.StatusNoContent, got.Status)
	left, err := filepath.Glob(filepath.Join(s.Data, "uploads", "*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

// A keeper adds a large film to a site in the console: it goes in pieces, into a draft; and replaces it.
func TestMediaAreAddedInTheConsole(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	film := filepath.Join(t.TempDir(), "Über den Grat.mp4")
	f, err := os.Create(film)
	require.NoError(t, err)
	_, err = io.CopyN(f, rand.Reader, 20<<20)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	b := harness.NewBrowser(t)
	b.Go(s.Console + "/sites/larch-saddle/pictures")
	b.Type("#name", "ida")
	b.Type("#password", "highmoor-demo")
	b.Press("Sign in")
	b.Sees("Drop a picture or another file here")
	b.Do(chromedp.SetUploadFiles(`[data-add-media] input[type=file]`, []string{film}))
	b.Sees("Added uber-den-grat.mp4")
	assert.Contains(t, s.Logged(), `"method":"PATCH","path":"/api/v1/uploads/`, "in pieces")
	var drafts api.DraftList
	s.JSON(&drafts, "draft", "list", "larch-saddle")
	require.Len(t, drafts.Drafts, 1)
	var list api.MediaList
	s.JSON(&list, "site", "media", "larch-saddle", "--draft", fmt.Sprint(drafts.Drafts[0].Id))
	require.Len(t, list.Media, 1)
	assert.Equal(t, "media/uber-den-grat.mp4", list.Media[0].Item.Address.String())
	assert.Equal(t, int64(20<<20), list.Media[0].Item.Bytes)
}
