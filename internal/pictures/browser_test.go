package pictures

import (
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/png"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"compactparcel/test/needs"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// bomb is a PNG of a few KB that is side × side px large: one bit each, all of them black.
func bomb(t *testing.T, side int) string {
	t.Helper()
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	row := make([]byte, 1+(side+7)/8)
	for range side {
		_, err := z.Write(row)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	out := bytes.NewBufferString("\x89PNG\r\n\x1a\n")
	chunk := func(kind string, b []byte) {
		require.NoError(t, binary.Write(out, binary.BigEndian, uint32(len(b))))
		out.WriteString(kind)
		out.Write(b)
		sum := crc32.NewIEEE()
		sum.Write([]byte(kind))
		sum.Write(b)
		require.NoError(t, binary.Write(out, binary.BigEndian, sum.Sum32()))
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, uint32(side)), uint32(side))
	chunk("IHDR", append(head, 1, 0, 0, 0, 0))
	chunk("IDAT", packed.Bytes())
	chunk("IEND", nil)
	return out.String()
}

// newBrowser gives a browser of the test's own.
func newBrowser(t *testing.T) *Browser {
	t.Helper()
	b, err := Find("auto", slog.New(slog.DiscardHandler))
	require.NoError(t, err, "Debian's package chromium is needed: make test installs it")
	needs.Sandbox(t, b.Check(context.Background()))
	t.Cleanup(b.Close)
	return b
}

// site answers a host's pages by their paths.
type site map[string]string

func (s site) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	text, ok := s[r.URL.Path]
	if to, leads := strings.CutPrefix(text, "→"); leads {
		http.Redirect(w, r, to, http.StatusFound)
		return
	}
	if !ok {
		w.WriteHeader(http.StatusNotFound)
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	if strings.HasSuffix(r.URL.Path, ".png") {
		w.Header().Set("Content-Type", "image/png")
	}
	if strings.HasSuffix(r.URL.Path, ".svg") {
		w.Header().Set("Content-Type", "image/svg+xml")
	}
	fmt.Fprint(w, text)
}

func shoot(b *Browser, s http.Handler, path string, width int) (*Shot, error) {
	return b.Shoot(context.Background(), View{Host: "hut.localhost:7", Path: path, Width: width, Serve: s})
}

func decoded(t *testing.T, s *Shot) image.Image {
	t.Helper()
	img, err := png.Decode(bytes.NewReader(s.PNG))
	require.NoError(t, err)
	return img
}

func TestAPageIsShotAsItIsAndAlwaysTheSame(t *testing.T) {
	b := newBrowser(t)
	s := site{"/": `<!doctype html><style>body{margin:0;background:#0000ff}div{height:1500px}` +
		`@keyframes a{from{opacity:0}to{opacity:1}}p{animation:a 9s}</style><p id=p></p><div></div>` +
		`<img src=/a.svg loading=lazy style="display:block"><script>p.textContent = Date.now() + " " + ` +
		`Math.random()</script>`,
		"/a.svg": `<svg xmlns="http://www.w3.org/2000/svg" width="100" height="20"><rect width="100" height="20" ` +
			`fill="#f00"/></svg>`,
		"/to/": "→/"}
	one, err := shoot(b, s, "/", 390)
	require.NoError(t, err)
	two, err := shoot(b, s, "/to/", 390)
	require.NoError(t, err)
	assert.Equal(t, one.PNG, two.PNG, "byte for byte, by a redirect too")
	img := decoded(t, one)
	assert.Equal(t, 390, img.Bounds().Dx())
	assert.Greater(t, img.Bounds().Dy(), 1500)
	r, _, _, _ := img.At(10, img.Bounds().Dy()-10).RGBA()
	assert.Equal(t, uint32(0xffff), r, "what loads when it is scrolled to is there")
	assert.False(t, one.Cut)
}

func TestNothingButThePreviewIsReached(t *testing.T) {
	b := newBrowser(t)
	var reached atomic.Int64
	other := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { reached.Add(1) }))
	defer other.Close()
	s := site{"/": `<!doctype html><title>p</title><img src="` + other.URL + `/a.png"><iframe src="` + other.URL +
		`"></iframe>` +
		`<link rel=stylesheet href="` + other.URL + `/a.css"><script src="` + other.URL + `/a.js"></script>` +
		`<script>fetch("` + other.URL + `").catch(()=>{}); navigator.sendBeacon("` + other.URL + `");` +
		`fetch("http://other.localhost:7/").then(() => { document.body.textContent = "OTHER" }).catch(()=>{});` +
		`try { new WebSocket("` + strings.Replace(other.URL, "http", "ws", 1) + `") } catch {}` +
		`new Worker(URL.createObjectURL(new Blob(["fetch('` + other.URL + `')"])));` +
		`open("` + other.URL + `"); alert(1); confirm(2); setTimeout(() => { location = "` + other.URL +
		`" }, 50)</script><p>stays</p>`}
	shot, err := shoot(b, s, "/", 1280)
	for i := 0; i < 2 && err != nil; i++ { // on a busy machine it may not come to rest in time
		shot, err = shoot(b, s, "/", 1280)
	}
	require.NoError(t, err)
	assert.NotEmpty(t, shot.PNG)
	assert.Zero(t, reached.Load())
}

func TestPagesThatMisbehaveEndWithAReason(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes a minute: go test without -short")
	}
	b := newBrowser(t)
	s := site{"/calm": `<p>calm</p>`, "/loop": `<p>x</p><script>for(;;){}</script>`,
		"/high":     `<body style="margin:0"><div style="height:40000px;background:#0f0"></div>`,
		"/many":     `<script>const a=[]; for(;;) a.push(new Uint8Array(16<<20).fill(1))</script>`,
		"/bomb.png": bomb(t, 20_000),
		"/bomb":     `<p>x</p>` + strings.Repeat(`<img src="/bomb.png" width="90">`, 3),
		"/alert":    `<script>for (let i=0;i<50;i++) alert(i)</script><p>x</p>`}
	soon := func(path string) error { // one that misbehaves is not waited for as long as others
		b.Limits.Time, b.Limits.Rest = 4*time.Second, 2*time.Second
		defer func() { b.Limits = Usual }()
		_, err := shoot(b, s, path, 390)
		return err
	}
	high, err := shoot(b, s, "/high", 390)
	require.NoError(t, err)
	assert.True(t, high.Cut)
	assert.Equal(t, maxHeight, decoded(t, high).Bounds().Dy())
	for _, path := range []string{"/loop", "/many"} {
		t.Run(path, func(t *testing.T) {
			require.Error(t, soon(path), path)
			_, err := shoot(b, s, "/calm", 390)
			require.NoError(t, err, "after %s", path)
		})
	}
	_, err = shoot(b, s, "/alert", 390)
	require.NoError(t, err)
	if _, err = shoot(b, s, "/bomb", 390); err != nil {
		assert.ErrorIs(t, err, ErrMisbehaved, "a picture that is larger than memory is shown, or told")
	}
	_, err = shoot(b, s, "/calm", 390)
	require.NoError(t, err, "after the bomb")

	// Killed in the middle, it is started anew for the next.
	b.mu.Lock()
	pid := b.pid
	b.mu.Unlock()
	go func() {
		time.Sleep(300 * time.Millisecond)
		_ = syscall.Kill(pid, syscall.SIGKILL)
	}()
	_, err = shoot(b, s, "/loop", 390)
	require.Error(t, err)
	_, err = shoot(b, s, "/calm", 390)
	require.NoError(t, err)
}

// A page that takes all memory is told so, and the one beside it is shot all the same.
func TestANeighbourIsNotBlamed(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes a minute: go test without -short")
	}
	b := newBrowser(t)
	s := site{"/calm": `<p>calm</p><script>for (let i = 0; i < 4e9; i++);</script>`,
		"/many": `<script>const a=[]; for(;;) a.push(new Uint8Array(16<<20).fill(1))</script>`}
	var both sync.WaitGroup
	var calm, many error
	both.Go(func() { _, calm = shoot(b, s, "/calm", 390) })
	both.Go(func() { _, many = shoot(b, s, "/many", 390) })
	both.Wait()
	require.NoError(t, calm)
	require.Error(t, many)
}

// A page with many large files is given some of them, few at a time, and no more than a page may have.
func TestManyLargeFilesAreBounded(t *testing.T) {
	b := newBrowser(t)
	var now, most, sum atomic.Int64
	page := ""
	for i := range 6 {
		page += fmt.Sprintf(`<img src="/big%d.png">`, i)
	}
	h := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasPrefix(r.URL.Path, "/big") {
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprint(w, page)
			return
		}
		most.Store(max(most.Load(), now.Add(1)))
		defer now.Add(-1)
		w.Header().Set("Content-Type", "image/png")
		part := make([]byte, 1<<20)
		for range 30 {
			n, err := w.Write(part)
			sum.Add(int64(n))
			if err != nil {
				return
			}
		}
	})
	_, err := b.Shoot(context.Background(), View{Host: "big.localhost:1", Path: "/", Width: 390, Serve: h})
	require.NoError(t, err)
	assert.LessOrEqual(t, most.Load(), int64(2))
	assert.Less(t, sum.Load(), int64(6*25<<20))
}

func TestWhatNobodyWantsAtAWidthIsSeen(t *testing.T) {
	b := newBrowser(t)
	s := site{"/": `<!doctype html><html><body style="margin:0"><header ` +
		`style="position:fixed;top:0;left:0;right:0;height:90px">` +
		`<a href="#rooms">Rooms</a></header><main style="padding-top:100px"><div style="width:600px">wide</div>` +
		`<p style="width:120px;height:20px;overflow:hidden">Far too many words for so little room, and more</p>` +
		`<div style="height:900px"></div><h2 id="rooms">Rooms</h2><div style="height:900px"></div></main>`}
	narrow, err := shoot(b, s, "/", 390)
	require.NoError(t, err)
	assert.Equal(t, Seen{Wide: 210, Over: []Overflow{{"html > body > main > div:nth-of-type(1)", 210}},
		Cut:     narrow.Seen.Cut,
		Covered: []Covered{{"html > body > main > h2", "html > body > header", 90}}}, narrow.Seen)
	require.Len(t, narrow.Seen.Cut, 1)
	assert.Equal(t, "html > body > main > p", narrow.Seen.Cut[0].Path)
	wide, err := shoot(b, s, "/", 1280)
	require.NoError(t, err)
	assert.Zero(t, wide.Seen.Wide)
}
