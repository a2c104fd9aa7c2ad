package httpapi

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	description "compactparcel/api"
	"compactparcel/core/item"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

// maxKey is the longest Idempotency-Key, in bytes.
const maxKey = 200

// once answers a request that carries a key. One that was answered before gets that answer;
// one of which nobody knows what became of it is looked into.
func (s *Server) once(c *gin.Context, op description.Operation, p desk.Person, key string) {
	if len(key) > maxKey {
		s.fail(
			c,
			&desk.Problem{
				Type:    desk.BadInput,
				What:    "Idempotency-Key",
				Message: fmt.Sprintf("it has more than %d bytes", maxKey),
				Remedy:  desk.To(desk.NewIdempotencyKey),
			},
		)
		return
	}
	digest, err := requestDigest(c.Request, op)
	if err != nil {
		s.fail(c, err)
		return
	}
	ctx := c.Request.Context()
	keyed, answered, err := s.Desk.Store.BeginRequest(ctx, p.ID, key, digest, s.Desk.Now())
	switch {
	case errors.Is(err, store.ErrOtherRequest):
		s.fail(
			c,
			&desk.Problem{
				Type:    desk.BadInput,
				What:    "Idempotency-Key",
				Message: err.Error(),
				Remedy:  desk.To(desk.NewIdempotencyKey),
				Err:     err,
			},
		)
		return
	case errors.Is(err, store.ErrUnderWay):
		c.Header("Retry-After", "1")
		s.fail(
			c,
			&desk.Problem{
				Type:    desk.Waits,
				What:    "the request",
				Message: err.Error(),
				Remedy:  desk.To(desk.Retry),
				Err:     err,
			},
		)
		return
	case err != nil:
		s.fail(c, desk.Explain("the request", err))
		return
	case answered != nil:
		for k, v := range answered.Header {
			c.Header(k, v)
		}
		c.Header("Idempotency-Replayed", "true")
		c.Writer.WriteHeader(answered.Status)
		c.Writer.Write(answered.Body)
		c.Abort()
		return
	}
	ctx = store.WithRequest(ctx, keyed)
	w := &recorder{ResponseWriter: c.Writer, over: op.Secret}
	c.Writer, c.Request = w, c.Request.WithContext(ctx)
	broken := true // a handler that panics leaves nothing that is known
	defer func() { s.endRequest(ctx, c.GetString("request"), keyed, w, broken) }()
	if _, repeated := store.Repeated(ctx); repeated && !op.Repeatable {
		s.fail(
			c,
			&desk.Problem{
				Type:    desk.DoneBefore,
				What:    "the request",
				Message: "it was already done, and its answer is not kept",
				Remedy:  desk.To(desk.LookLater),
			},
		)
	} else {
		c.Next()
	}
	broken = false
}

// endRequest keeps what was answered, or lets go of the key.
func (s *Server) endRequest(ctx context.Context, request string, keyed *store.Keyed, w *recorder, broken bool) {
	finish, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	out := store.Answered{Status: w.Status(), Header: map[string]string{}, Body: w.body.Bytes()}
	for _, k := range []string{"Content-Type", "ETag", "Location"} {
		if v := w.Header().Get(k); v != "" {
			out.Header[k] = v
		}
	}
	if err := keyed.End(finish, out, w.over || broken); err != nil {
		s.Log.Warn("keeping the answer of a request", "request", request, "error", err)
	}
}

// requestDigest tells two requests apart. The body of an upload, which is not held in
// memory, counts by its length.
func requestDigest(r *http.Request, op description.Operation) (item.Digest, error) {
	var body []byte
	if op.MaxBody <= description.DefaultMaxBody {
		var err error
		if body, err = io.ReadAll(r.Body); err != nil {
			return "", brokenOff(err)
		}
		r.Body = io.NopCloser(bytes.NewReader(body))
	}
	head := fmt.Sprintf("%s %s %d %s\n", r.Method, r.URL.RequestURI(), r.ContentLength, r.Header.Get("If-Match"))
	return item.DigestOf(append([]byte(head), body...)), nil
}

// recorder keeps what is answered, as far as it is kept for a repeated request.
type recorder struct {
	gin.ResponseWriter
	body bytes.Buffer
	over bool // there is more than is kept
}

func (w *recorder) Write(b []byte) (int, error) {
	if w.body.Len()+len(b) > store.MaxAnswer {
		w.over = true
	} else {
		w.body.Write(b)
	}
	return w.ResponseWriter.Write(b)
}

func (w *recorder) WriteString(s string) (int, error) { return w.Write([]byte(s)) }
