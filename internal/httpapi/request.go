package httpapi

import (
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"os"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	"github.com/gin-gonic/gin"
)

func asProblem(err error) (*desk.Problem, bool) {
	var p *desk.Problem
	if errors.As(err, &p) {
		return p, true
	}
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		errors.As(tooLarge(large.Limit), &p)
		return p, true
	}
	return nil, false
}

// read reads a JSON body; a slip is answered, and ok is false.
func read[T any](s *Server, c *gin.Context) (v T, ok bool) {
	dec := json.NewDecoder(c.Request.Body) // its length is bounded by admit
	dec.DisallowUnknownFields()
	err := dec.Decode(&v)
	if err == nil && dec.More() {
		err = errors.New("there is something after the JSON value")
	}
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		s.fail(c, err)
		return v, false
	}
	if err != nil {
		s.fail(
			c,
			&desk.Problem{
				Type:    desk.BadInput,
				What:    "the request's body",
				Message: err.Error(),
				Remedy:  desk.To(desk.SeeInterface),
				Err:     err,
			},
		)
		return v, false
	}
	return v, true
}

// readIfAny is read for a body that may be left out.
func readIfAny[T any](s *Server, c *gin.Context) (v T, ok bool) {
	if c.Request.ContentLength == 0 {
		return v, true
	}
	return read[T](s, c)
}

// spool writes a request's body into a scratch file.
func (s *Server) spool(c *gin.Context, use func(f *os.File, size int64) error) error {
	return s.Desk.Scratch.With(func(f *os.File) error {
		n, err := io.Copy(f, c.Request.Body) // its length is bounded by admit
		if err != nil {
			return brokenOff(err)
		}
		return use(f, n)
	})
}

// brokenOff tells why a body was not read to its end.
func brokenOff(err error) error {
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		return tooLarge(large.Limit)
	case store.IsFull(err):
		return desk.Explain("the file", err)
	}
	return &desk.Problem{
		Type:    desk.BadInput,
		What:    "the file",
		Message: "it broke off",
		Remedy:  desk.To(desk.Retry),
		Err:     err,
	}
}

// etagNumber reads an If-Match of a counted version; 0 when there is none.
func etagNumber(v *string) (int, error) {
	if v == nil || *v == "" || *v == "*" {
		return 0, nil
	}
	n, err := strconv.Atoi(strings.Trim(*v, `"`))
	if err != nil || n < 1 {
		return 0, &desk.Problem{
			Type:    desk.Stale,
			Message: "the ETag " + *v + " is not one of ours",
			Remedy:  desk.To(desk.ReadAgain),
		}
	}
	return n, nil
}

func setETag(c *gin.Context, v any) {
	switch x := v.(type) {
	case int:
		c.Header("ETag", `"`+strconv.Itoa(x)+`"`)
	case item.Digest:
		c.Header("ETag", `"`+string(x)+`"`)
	}
}

func etagDigest(v *string) item.Digest {
	if v == nil {
		return ""
	}
	return item.Digest(strings.Trim(*v, `"`))
}

func value[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

// list gives an empty list for nil, so that JSON never says null for one.
func list[T any](in []T) []T {
	if in == nil {
		return []T{}
	}
	return in
}

func address(text string) (item.Address, error) {
	a, err := item.ParseAddress(text)
	if err != nil {
		return a, &desk.Problem{
			Type:    desk.BadInput,
			What:    text,
			Message: err.Error(),
			Remedy:  desk.Form("part/site-header"),
			Err:     err,
		}
	}
	return a, nil
}

// some gives a pointer to a value that is there, nil for an empty one.
func some[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}
