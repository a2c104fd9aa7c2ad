package preview

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
)

func TestHosts(t *testing.T) {
	p := &Previews{Pattern: "http://{host}.localhost:8461", Secret: []byte("secret")}
	assert.Equal(t, "http://larch-saddle.localhost:8461", p.Site("larch-saddle"))
	assert.Equal(t, "http://d7-abc--larch-saddle.localhost:8461", p.Draft("larch-saddle", 7, "abc"))
	for host, want := range map[string]string{"larch-saddle.localhost:8461": "larch-saddle",
		"LARCH-saddle.LOCALHOST": "larch-saddle", "a.b.localhost:8461": "", "localhost:8461": "", ".localhost": "",
		"larch-saddle.example": "", "127.0.0.1:8461": "", "[::1]:8461": ""} {
		t.Run(host, func(t *testing.T) {
			got, ok := p.host(host)
			if want == "" {
				assert.False(t, ok, host)
				return
			}
			assert.True(t, ok, host)
			assert.Equal(t, want, got, host)
		})
	}
	behind := &Previews{Pattern: "https://preview-{host}.parcel.example"}
	got, ok := behind.host("preview-larch-saddle.parcel.example")
	assert.True(t, ok)
	assert.Equal(t, "larch-saddle", got)
	_, ok = behind.host("larch-saddle.parcel.example")
	assert.False(t, ok)
}

func TestHostsOfKitsAndLibraryCannotBeGuessed(t *testing.T) {
	one, two := &Previews{
		Pattern: "http://{host}.localhost",
		Secret:  []byte("one"),
	}, &Previews{
		Pattern: "http://{host}.localhost",
		Secret:  []byte("two"),
	}
	assert.NotEqual(t, one.Library(), two.Library())
	assert.NotEqual(t, one.Kit(1), one.Kit(2))
	assert.NotEqual(t, one.Kit(1), two.Kit(1))
	for _, address := range []string{one.Kit(1 << 20), one.Library(),
		one.Draft("a-site-with-the-longest-name-ok", 999999, "0123456789abcdef0123"),
		one.Editing("a-site-with-the-longest-name-ok", 999999, "somebody's sign-in")} {
		t.Run(address, func(t *testing.T) {
			name, ok := one.host(address[len("http://"):])
			assert.True(t, ok, address)
			assert.LessOrEqual(t, len(name), 63, "a label of a host name has at most 63 characters")
		})
	}
	for _, host := range []string{"k1-00000000000000000000--kits", "kx--kits", "library-0", "library-", "--kits",
		"--deliveries", "p--deliveries", "b1-00000000000000000000--deliveries", "-1--deliveries",
		"e1-00000000000000000000--hut"} {
		t.Run(host, func(t *testing.T) {
			_, err := one.state(t.Context(), host)
			assert.ErrorIs(t, err, errNoPreview, host)
		})
	}
}

// A draft is edited at an origin that is another in each sign-in, and none of them can be guessed from another.
func TestEachSignInEditsAtAnOriginOfItsOwn(t *testing.T) {
	p := &Previews{Pattern: "http://{host}.localhost", Secret: []byte("one")}
	seen := map[string]bool{}
	for _, in := range []string{"one", "two"} {
		for draft := range int64(2) {
			for _, site := range []string{"hut", "other"} {
				seen[p.Editing(site, draft, in)] = true
			}
		}
	}
	assert.Len(t, seen, 8)
	assert.Equal(t, p.Editing("hut", 1, "one"), p.Editing("hut", 1, "one"), "it stays while one works")
}

// A site's script that would go on answering in our place is refused, wherever it is asked for.
func TestPreviewsHaveNoServiceWorkers(t *testing.T) {
	p := &Previews{Pattern: "http://{host}.localhost:8461"}
	w := httptest.NewRecorder()
	r := httptest.NewRequest(http.MethodGet, "http://hut.localhost:8461/sw.js", nil)
	r.Header.Set("Service-Worker", "script")
	p.ServeHTTP(w, r)
	assert.Equal(t, http.StatusForbidden, w.Code)
}

func TestAStrangersHostShowsNothing(t *testing.T) {
	p := &Previews{Pattern: "http://{host}.localhost:8461"}
	w := httptest.NewRecorder()
	r := httptest.NewRequest(http.MethodGet, "http://evil.example/", nil)
	p.ServeHTTP(w, r)
	assert.Equal(t, http.StatusNotFound, w.Code)
	assert.Equal(t, "/_cp/alone/part/site-header", Alone(item.MustAddress("part/site-header")))
}
