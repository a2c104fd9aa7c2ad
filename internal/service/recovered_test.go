package service

import (
	"log/slog"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A handler that panics is answered for at every listener, and the next request is answered as ever.
func TestAPanicIsAnswered(t *testing.T) {
	h := recovered(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic("odd") }),
		slog.New(slog.DiscardHandler))
	w := httptest.NewRecorder()
	h.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/", nil))
	assert.Equal(t, http.StatusInternalServerError, w.Code)
	assert.Contains(t, w.Body.String(), "went wrong")
}
