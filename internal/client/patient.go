package client

import (
	"context"
	"crypto/rand"
	"errors"
	"io"
	"net/http"
	"syscall"
	"time"
)

// patient sends requests that change something with a key of their own, and sends them
// again when nobody knows what became of them: the service does them once.
type patient struct{ next http.RoundTripper }

// patience is how long the client waits before each further try.
var patience = []time.Duration{500 * time.Millisecond, time.Second, 2 * time.Second, 4 * time.Second}

// RoundTrip sends a request.
func (p patient) RoundTrip(r *http.Request) (*http.Response, error) {
	if r.Method == http.MethodGet || r.Method == http.MethodHead {
		return p.next.RoundTrip(r)
	}
	r = r.Clone(r.Context())
	r.Header.Set("Idempotency-Key", rand.Text())
	for try := 0; ; try++ {
		answer, err := p.next.RoundTrip(r)
		again := try < len(patience) && (r.Body == nil || r.Body == http.NoBody || r.GetBody != nil) &&
			isLost(answer, err, try)
		if !again {
			return answer, err
		}
		if answer != nil {
			_, _ = io.Copy(io.Discard, io.LimitReader(answer.Body, 1<<20))
			answer.Body.Close()
		}
		if err := pause(r.Context(), patience[try]); err != nil {
			return nil, err
		}
		if r.GetBody != nil {
			if r.Body, err = r.GetBody(); err != nil {
				return nil, err
			}
		}
	}
}

// isLost tells whether a request may have been done without an answer, or will be answered
// when it is sent again. A service that was not there at all at the first try is told at once.
func isLost(answer *http.Response, err error, try int) bool {
	switch {
	case err != nil:
		gone := errors.Is(err, syscall.ECONNREFUSED)
		return !errors.Is(err, context.Canceled) && !errors.Is(err, context.DeadlineExceeded) && (try > 0 || !gone)
	case answer.StatusCode == http.StatusServiceUnavailable:
		return true
	}
	return answer.StatusCode == http.StatusConflict && answer.Header.Get("Retry-After") != ""
}

func pause(ctx context.Context, d time.Duration) error {
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-t.C:
		return nil
	}
}
