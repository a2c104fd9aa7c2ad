package console

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// get asks for a path; the console has to be built into this binary.
func get(t *testing.T, path string) *httptest.ResponseRecorder {
	t.Helper()
	if _, err := files.ReadFile("dist/index.html"); err != nil {
		t.Fatal("the console is not built: run make build")
	}
	w := httptest.NewRecorder()
	Handler("http://*.localhost:8461").ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
	return w
}

func TestEveryPlaceIsTheOnePageAndMayFrameNothingButPreviews(t *testing.T) {
	home := get(t, "/")
	for _, path := range []string{"/", "/index.html", "/library", "/sites/kestrel-refuge/edit/",
		"/assets/../index.html", "/..%2f..%2fetc/passwd"} {
		t.Run(path, func(t *testing.T) {
			r := get(t, path)
			assert.Equal(t, http.StatusOK, r.Code)
			assert.Equal(t, home.Body.String(), r.Body.String())
			assert.Equal(t, "no-cache", r.Header().Get("Cache-Control"), "a new version is seen at once")
			policy := r.Header().Get("Content-Security-Policy")
			assert.Contains(t, policy, "default-src 'self'")
			assert.Contains(t, policy, "frame-src http://*.localhost:8461;")
			assert.Contains(t, policy, "frame-ancestors 'none'")
			assert.NotContains(t, policy, "'unsafe-eval'")
			assert.Equal(t, "nosniff", r.Header().Get("X-Content-Type-Options"))
		})
	}
}

func TestFilesOfAVersionAreKeptByBrowsers(t *testing.T) {
	for _, a := range assetsOf(t, get(t, "/").Body.String()) {
		if !strings.HasPrefix(a, "/assets/") {
			continue // of one name in all versions
		}
		r := get(t, a)
		assert.Equal(t, http.StatusOK, r.Code, a)
		assert.Contains(t, r.Header().Get("Cache-Control"), "immutable", a)
	}
	r := get(t, "/assets/of-another-version.js")
	assert.Equal(t, http.StatusNotFound, r.Code, "a script that is gone is no page")
}

var (
	linked   = regexp.MustCompile(`(?:src|href)="(/[^"]+)"`)
	imported = regexp.MustCompile(`(?:from|import)\s*["'](\./[^"']+)["']`)
	fonts    = regexp.MustCompile(`url\((/assets/[^)]+-latin-wght-normal[^)]*\.woff2)\)`)
)

// assetsOf gives what a page asks for by itself.
func assetsOf(t *testing.T, page string) []string {
	t.Helper()
	var out []string
	for _, m := range linked.FindAllStringSubmatch(page, -1) {
		out = append(out, m[1])
	}
	require.NotEmpty(t, out)
	return out
}

// firstView bounds what a browser fetches before it shows somebody the first view, compressed, in bytes.
const firstView = 150_000

func TestTheFirstViewIsSmall(t *testing.T) {
	page := get(t, "/").Body.String()
	size := map[string]int{}
	var add func(path string)
	add = func(path string) {
		if _, seen := size[path]; seen {
			return
		}
		b, err := fs.ReadFile(files, "dist"+path)
		require.NoError(t, err, path)
		size[path] = compressed(t, b)
		if strings.HasSuffix(path, ".woff2") {
			size[path] = len(b)
		}
		for _, m := range imported.FindAllSubmatch(b, -1) {
			if strings.HasSuffix(path, ".js") {
				add("/assets/" + strings.TrimPrefix(string(m[1]), "./"))
			}
		}
		for _, m := range fonts.FindAllSubmatch(b, -1) {
			add(string(m[1]))
		}
	}
	for _, a := range assetsOf(t, page) {
		add(a)
	}
	for _, view := range []string{"SignInView", "LibraryView"} {
		t.Run(view, func(t *testing.T) {
			all, err := fs.Glob(files, "dist/assets/"+view+"-*.js")
			require.NoError(t, err)
			require.Len(t, all, 1, view)
			add(strings.TrimPrefix(all[0], "dist"))
		})
	}
	total := compressed(t, []byte(page))
	for _, n := range size {
		total += n
	}
	t.Logf("%d files, %d bytes", len(size), total)
	assert.Less(t, total, firstView, "%v", size)
}

func compressed(t *testing.T, b []byte) int {
	t.Helper()
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, err := w.Write(b)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Len()
}
