package test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// peak is the most memory that the service has held, in bytes.
func peak(t *testing.T, s *harness.Service) int64 {
	t.Helper()
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.PID()))
	require.NoError(t, err)
	for _, line := range strings.Split(string(b), "\n") {
		if v, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			n, err := strconv.ParseInt(strings.Fields(v)[0], 10, 64)
			require.NoError(t, err)
			return n << 10
		}
	}
	t.Fatal("no VmHWM")
	return 0
}

func zipped(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range files {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// maxPeak bounds the service's memory for anything that an upload limit lets in.
const maxPeak = 512 << 20

// Small files that are large inside, and documents that mean to keep a reader busy: each is
// taken or refused in clear words, and the service stays small and goes on.
func TestHostileContentIsBounded(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	page := func(body string) map[string]string {
		return map[string]string{"index.html": "<!doctype html><title>x</title>" + body}
	}
	fan := &strings.Builder{}
	fan.WriteString(`{"t0":{"$value":"#000"}`)
	for i := 1; i < 40; i++ {
		fmt.Fprintf(fan, `,"t%d":{"$value":["{t%d}","{t%[2]d}"]}`, i, i-1)
	}
	fan.WriteString("}")
	for name, files := range map[string]map[string]string{
		"divs":       page(strings.Repeat("<div>", 2_000_000)),
		"pairs":      page(strings.Repeat("<div></div>", 1_400_000)),
		"attributes": page("<p " + strings.Repeat("a1=x ", 1_000_000) + ">"),
		"words":      page("<p>" + strings.Repeat("höhe ", 2_500_000)),
		"rules": {"index.html": "<!doctype html><link rel=stylesheet href=a.css><p>x",
			"a.css": strings.Repeat(".a{top:0}", 1_500_000)},
		"selectors": {"index.html": "<!doctype html><link rel=stylesheet href=a.css><p>x",
			"a.css": strings.Repeat(":not(", 1_000_000) + "a" + strings.Repeat(")", 1_000_000) + "{top:0}"},
		"script": {"index.html": "<!doctype html><script src=a.js></script><p>x",
			"a.js": strings.Repeat("f('a b c');", 1_000_000)},
	} {
		site := "bomb-" + name
		r := s.Call("PUT", "/api/v1/sites/"+site+"?parts=ask", zipped(t, files), "Content-Type", "application/zip")
		require.Equal(t, 201, r.Status, "%s: %.300s", name, r.Body)
		visits := 1
		if soaking() { // memory that a visit leaves behind adds up
			visits = 3
		}
		for range visits {
			assert.Equal(t, 200, s.Visit(s.Live(site)+"/").Status, name)
		}
		at := peak(t, s)
		t.Logf("%s: %d MB at the most", name, at>>20)
		require.Less(t, at, int64(maxPeak), name)
	}
	// Tokens: in an edit, in a site, in a kit.
	r := s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=tokens/bomb",
		map[string]string{"content": fan.String()})
	assert.Equal(t, 400, r.Status, "%s", r.Body)
	assert.Contains(t, string(r.Body), "values when all aliases are followed")
	r = s.Call(
		"PUT",
		"/api/v1/sites/bomb-tokens",
		zipped(
			t,
			map[string]string{
				"site.json": `{"format":1,"items":[{"kind":"page","key":"home","slug":"/",` +
					`"styles":["tokens/bomb"]}]}`,
				"pages/home.html":         "<!doctype html><p>x",
				"tokens/bomb.tokens.json": fan.String(),
			},
		),
		"Content-Type",
		"application/zip",
	)
	assert.Less(t, r.Status, 500, "%s", r.Body)
	// A selector that is deep, or long, is refused to whoever may send it.
	require.Equal(t, 201, s.Call("POST", "/api/v1/kits", map[string]string{"name": "deep", "version": "1.0.0"}).Status)
	for _, sel := range []string{strings.Repeat(":not(", 4000) + "a" + strings.Repeat(")", 4000),
		strings.Repeat("a ", 50_000), strings.Repeat("a,", 50_000) + "a",
		strings.Repeat(":has(> ", 20) + "a" + strings.Repeat(")", 20)} {
		r := s.Call(
			"POST",
			"/api/v1/kits/deep/1.0.0/picks",
			map[string]any{
				"picks": []map[string]string{
					{"from": "kestrel-refuge", "address": "page/home", "element": sel, "as": "block/x"},
				},
			},
		)
		assert.Equal(t, 400, r.Status, "%.200s", r.Body)
	}
	// Words to search for.
	r = s.Call("GET", "/api/v1/library?q="+strings.Repeat("word+", 8000), nil)
	assert.Equal(t, 400, r.Status)
	v := s.Visit(s.Live("kestrel-refuge") + "/search/?q=" + strings.Repeat("word+", 8000))
	assert.Equal(t, 400, v.Status)
	// Media stream.
	big := bytes.Repeat([]byte("0123456789abcdef"), 120<<16)
	for i := range 3 {
		r = s.Call("PUT", fmt.Sprintf("/api/v1/sites/larch-saddle/media?address=media/big-%d.bin", i), big,
			"Content-Type", "application/octet-stream")
		require.Equal(t, 200, r.Status, "%.200s", r.Body)
	}
	require.Less(t, peak(t, s), int64(maxPeak), "media of 120 MB")
	t.Logf("at the end: %d MB", peak(t, s)>>20)
	assert.Equal(t, 200, s.Visit(s.Live("kestrel-refuge")+"/").Status, "and it goes on")
}

// What is too long, too many or too deep is a 400 that names the limit.
func TestTooLongIsToldWithItsLimit(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	long := strings.Repeat("x", 70_000)
	require.Equal(t, 201, s.Call("POST", "/api/v1/kits", map[string]string{"name": "k", "version": "1.0.0"}).Status)
	for name, call := range map[string]func() harness.Reply{
		"the title of an item": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=block/x",
				map[string]any{"content": "<p>x", "meta": map[string]string{"title": long}})
		},
		"the address of a page": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=page/x",
				map[string]any{"content": "<p>x", "meta": map[string]string{"slug": "/" + long + "/"}})
		},
		"a double slash": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=page/x",
				map[string]any{"content": "<p>x", "meta": map[string]string{"slug": "//x/"}})
		},
		"a NUL": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=page/x",
				map[string]any{"content": "<p>x", "meta": map[string]string{"slug": "/a\x00b/"}})
		},
		"the engine's own": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=page/x",
				map[string]any{"content": "<p>x", "meta": map[string]string{"slug": "/_cp/x/"}})
		},
		"the metadata": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=block/x",
				map[string]any{"content": "<p>x", "meta": map[string]any{"tags": strings.Split(long, "")}})
		},
		"a key": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/item?address=block/"+long[:2000],
				map[string]any{"content": "<p>x"})
		},
		"the title of a kit": func() harness.Reply {
			return s.Call("POST", "/api/v1/kits", map[string]string{"name": "t", "version": "1.0.0", "title": long})
		},
		"the version of a kit": func() harness.Reply {
			return s.Call("POST", "/api/v1/kits", map[string]string{"name": "v", "version": "1.0.0-" + long[:500]})
		},
		"the name of a kit": func() harness.Reply {
			return s.Call("POST", "/api/v1/kits", map[string]string{"name": long[:3000], "version": "1.0.0"})
		},
		"the changes of a kit": func() harness.Reply {
			return s.Call("PATCH", "/api/v1/kits/k/1.0.0", map[string]string{"changes": long})
		},
		"the reason of a seal": func() harness.Reply {
			return s.Call("POST",
				"/api/v1/kits/k/1.0.0/seal?because="+long[:30_000], nil)
		},
		"the name of a token": func() harness.Reply {
			return s.Call("POST", "/api/v1/access-tokens", map[string]string{"name": long[:200]})
		},
		"the team of a key": func() harness.Reply {
			return s.Call("POST", "/api/v1/trust/keys", map[string]string{"team": long[:200], "key": "x"})
		},
		"a deep JSON": func() harness.Reply {
			return s.Call("POST", "/api/v1/kits", []byte(strings.Repeat(`{"a":`, 20_000)), "Content-Type",
				"application/json")
		},
		"a decision": func() harness.Reply {
			return s.Call("PATCH", "/api/v1/deliveries/999",
				map[string]any{"decisions": map[string]string{long: long}})
		},
		"the name of an outlet": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/outlets/"+long[:100], map[string]string{})
		},
		"the base of an outlet": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/outlets/o",
				map[string]string{"base": "/" + long[:600] + "/"})
		},
		"the folder of an outlet": func() harness.Reply {
			return s.Call("PUT", "/api/v1/sites/larch-saddle/outlets/o", map[string]string{"folder": long[:500]})
		},
	} {
		r := call()
		assert.Contains(t, []int{400, 404}, r.Status, "%s: %.300s", name, r.Body)
		assert.Less(t, len(r.Body), 5000, "%s: the answer is no echo", name)
	}
}

// A kit cannot switch scripts on, by what it proposes nor by what it carries, and whatever
// it says of it: not on the shelf, not in its preview, not on a site.
func TestAKitCannotSwitchScriptsOn(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	dir := t.TempDir()
	yes := true
	write := func(list *kit.PackingList, files map[string]string) string {
		for i, e := range list.Items {
			b := []byte(files[e.Address().String()])
			list.Items[i].SHA256, list.Items[i].NormalizedDigest, list.Items[i].Bytes = item.DigestOf(
				b,
			), item.DigestOf(b), int64(len(b))
		}
		list.Settle()
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		text, err := list.Canonical()
		require.NoError(t, err)
		put := func(name string, text []byte) {
			w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store})
			require.NoError(t, err)
			_, err = w.Write(text)
			require.NoError(t, err)
		}
		put("packing-list.json", text)
		for _, e := range list.Items {
			put(e.Path, []byte(files[e.Address().String()]))
		}
		require.NoError(t, z.Close())
		p := filepath.Join(dir, list.Kit+".cpkit")
		require.NoError(t, os.WriteFile(p, b.Bytes(), 0o600))
		return p
	}
	page := kit.Entry{Kind: item.Page, Key: "home", Meta: item.Meta{Slug: "/"}}
	html := "<!doctype html><p>x<script>alert(1)</script>"
	proposing := &kit.PackingList{
		Kit:      "proposing",
		Version:  "1.0.0",
		Items:    []kit.Entry{page},
		Proposes: map[string]any{"setting/scripts": "approved"},
	}
	carrying := &kit.PackingList{
		Kit:     "carrying",
		Version: "1.0.0",
		Items:   []kit.Entry{page, {Kind: item.Setting, Key: "scripts", Meta: item.Meta{Portable: &yes}}},
	}
	for _, l := range []*kit.PackingList{proposing, carrying} {
		file := write(l, map[string]string{"page/home": html, "setting/scripts": `"approved"`})
		for _, act := range [][]string{{"kit", "import", file}, {"deliver", file, "larch-saddle"}} {
			r := s.Client(act...)
			assert.NotZero(t, r.Code, "%v: %s", act, r.Out)
			assert.Contains(t, r.Err, "each site's own", "%v", act)
		}
	}
	// One that is on the shelf from before, as its records may be: neither its preview nor a
	// delivery believes it.
	fine := &kit.PackingList{Kit: "fine", Version: "1.0.0", Items: []kit.Entry{page}}
	s.Must("kit", "import", write(fine, map[string]string{"page/home": html}))
	s.SQL(
		t,
		`UPDATE kit_versions SET list = JSON_SET(list, '$.proposes', JSON_OBJECT('setting/scripts', 'approved')) `+
			`WHERE list LIKE '%"kit":"fine"%'`,
	)
	var k api.Kit
	s.JSON(&k, "kit", "show", "fine@1.0.0")
	v := s.Visit(k.Preview + "/")
	require.Equal(t, 200, v.Status)
	assert.NotContains(t, v.Header.Get("Content-Security-Policy"), "script-src 'self'")
	var d api.Delivery
	s.Call("POST", "/api/v1/deliveries",
		map[string]string{"kit": "fine", "version": "1.0.0", "site": "larch-saddle", "policy": "unattended"}).
		Into(t, &d)
	require.Len(t, d.Plan.Settings, 1)
	assert.Equal(t, "skip", string(d.Plan.Settings[0].Decision))
	r := s.Call("PATCH", fmt.Sprintf("/api/v1/deliveries/%d", d.Id),
		map[string]any{"decisions": map[string]string{"propose:setting/scripts": "take"}})
	assert.Equal(t, 422, r.Status, "nobody can be asked to trust on a kit's word: %s", r.Body)
}

// Previews: a failed read is no blank page, a visitor who does not read blocks nobody, and
// what a page says cannot tell others where it is.
func TestPreviewsUnderFire(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	home := s.Visit(s.Live("kestrel-refuge") + "/")
	require.Equal(t, 200, home.Status)
	// One text is gone: the page says so, and is whole again when it is back.
	s.SQL(
		t,
		"CREATE TABLE hidden_docs AS SELECT * FROM docs WHERE digest IN (SELECT doc FROM items WHERE kind = "+
			"'part' AND item_key = 'site-header')",
	)
	s.SQL(t, "DELETE FROM docs WHERE digest IN (SELECT digest FROM hidden_docs)")
	s.Stop()
	s.Up() // nothing is remembered
	v := s.Visit(s.Live("kestrel-refuge") + "/")
	assert.Equal(t, 503, v.Status, "never a page without its header")
	assert.Equal(t, "no-store", v.Header.Get("Cache-Control"))
	out := filepath.Join(t.TempDir(), "out")
	r := s.Client("site", "publish", "kestrel-refuge", out)
	assert.NotZero(t, r.Code)
	assert.NoFileExists(t, filepath.Join(out, "index.html"))
	zip := s.Call("GET", "/api/v1/sites/kestrel-refuge/published", nil)
	assert.NotEqual(t, 200, zip.Status)
	r = s.Client("site", "outlet", "add", "kestrel-refuge", "main")
	assert.NoFileExists(t, filepath.Join(s.Data, "outlets", "kestrel-refuge", "main", "index.html"), r.Out)
	s.SQL(t, "INSERT INTO docs SELECT * FROM hidden_docs")
	v = s.Visit(s.Live("kestrel-refuge") + "/")
	assert.Equal(t, 200, v.Status)
	assert.Equal(t, string(home.Body), string(v.Body), "the failure was not kept")
	require.Eventually(t, func() bool {
		b, err := os.ReadFile(filepath.Join(s.Data, "outlets", "kestrel-refuge", "main", "index.html"))
		return err == nil && bytes.Contains(b, []byte("<header"))
	}, 60*time.Second, 200*time.Millisecond, "the outlet is tried again by itself")

	// Somebody who asks for much and reads nothing.
	s.Must("site", "adopt", siteWithABigPage(t), "--name", "big")
	for range 5 {
		c := s.DialPreview(t)
		fmt.Fprintf(c, "GET /big.html HTTP/1.1\r\nHost: big.localhost:%s\r\n\r\n", s.Preview)
		defer c.Close()
	}
	assert.Equal(t, 200, s.Visit(s.Live("big")+"/").Status, "it would wait for ever")

	// A template that wants to tell its address, and a form that leads away.
	for address, text := range map[string]string{"page/leak": `<!doctype html><html><head><meta name="referrer" ` +
		`content="unsafe-url"></head><body><a referrerpolicy="unsafe-url" ` +
		`href="https://elsewhere.example/">x</a></body></html>`,
		"form/away": `{"schema":{"properties":{"a":{"type":"string"}}},"confirmation":{"page":"https://elsewhere.` +
			`example/"}}`} {
		body := map[string]any{"content": text}
		if strings.HasPrefix(address, "page/") {
			body["meta"] = map[string]string{"slug": "/leak/"}
		}
		var e api.Edited
		s.Call("PUT", "/api/v1/sites/larch-saddle/item?address="+address, body).Into(t, &e)
		require.Equal(t, 200,
			s.Call("POST", fmt.Sprintf("/api/v1/sites/larch-saddle/drafts/%d/live", e.Draft), nil).Status)
	}
	leak := s.Visit(s.Live("larch-saddle") + "/leak/")
	require.Equal(t, 200, leak.Status)
	assert.NotContains(t, string(leak.Body), "unsafe-url")
	assert.Equal(t, "no-referrer", leak.Header.Get("Referrer-Policy"))
	req, err := http.NewRequest("POST", "http://127.0.0.1:"+s.Preview+"/_cp/form/away", nil)
	require.NoError(t, err)
	req.Host = "larch-saddle.localhost:" + s.Preview
	answer, err := http.DefaultTransport.RoundTrip(req)
	require.NoError(t, err)
	assert.Equal(t, 200, answer.StatusCode)
	assert.Empty(t, answer.Header.Get("Location"))
	assert.Contains(t, harness.Text(t, answer), "led to https://elsewhere.example/")
	for _, part := range strings.Split(s.Logged(), "\n") {
		assert.NotRegexp(t, `d\d+-[0-9a-f]{20}`, part, "no log tells a draft's host")
	}
}

func siteWithABigPage(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "index.html"), []byte("<!doctype html><p>home"), 0o644))
	require.NoError(
		t,
		os.WriteFile(filepath.Join(dir, "big.html"),
			[]byte("<!doctype html><p>"+strings.Repeat("a long text ", 1_000_000)), 0o644),
	)
	return dir
}
