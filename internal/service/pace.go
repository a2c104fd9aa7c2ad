package service

import (
	"errors"
	"io"
	"net/http"
	"time"
)

// How long the other side of a connection may do nothing, and how slow a body may be: so
// that nobody holds a connection by not reading, or by sending a byte now and then.
const (
	quietFor   = 30 * time.Second
	slowAfter  = 60 * time.Second // from then on a body has come at slowest
	slowestBps = 4 << 10          // bytes a second, on the whole
)

var errTooSlow = errors.New("the body comes too slowly")

// paced gives every read of a body and every write of an answer a deadline of its own.
func paced(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rc := http.NewResponseController(w)
		if r.Body != nil && r.Body != http.NoBody {
			r.Body = &pacedBody{ReadCloser: r.Body, rc: rc, since: time.Now()}
		}
		next.ServeHTTP(&pacedWriter{ResponseWriter: w, rc: rc}, r)
	})
}

type pacedBody struct {
	io.ReadCloser
	rc    *http.ResponseController
	since time.Time
	got   int64
}

func (b *pacedBody) Read(p []byte) (int, error) {
	now := time.Now()
	if d := now.Sub(b.since); d > slowAfter && b.got < int64(d.Seconds())*slowestBps {
		return 0, errTooSlow
	}
	if err := b.rc.SetReadDeadline(now.Add(quietFor)); err != nil && !errors.Is(err, http.ErrNotSupported) {
		return 0, err
	}
	n, err := b.ReadCloser.Read(p)
	b.got += int64(n)
	return n, err
}

type pacedWriter struct {
	http.ResponseWriter
	rc *http.ResponseController
}

// Write sends in pieces, so that a slow reader who does read is not cut off.
func (w *pacedWriter) Write(p []byte) (n int, err error) {
	for len(p) > 0 && err == nil {
		if err = w.rc.SetWriteDeadline(time.Now().Add(quietFor)); err != nil && !errors.Is(err, http.ErrNotSupported) {
			return n, err
		}
		var k int
		k, err = w.ResponseWriter.Write(p[:min(len(p), 256<<10)])
		n, p = n+k, p[k:]
	}
	return n, err
}

// Unwrap gives the writer itself to http.ResponseController.
func (w *pacedWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// Flush sends what is held.
func (w *pacedWriter) Flush() { w.rc.Flush() }
