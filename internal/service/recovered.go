package service

import (
	"log/slog"
	"net/http"
	"runtime/debug"
)

// recovered answers a request whose handler panics with 500, at every listener alike, and goes on.
func recovered(next http.Handler, log *slog.Logger) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			switch err := recover(); err {
			case nil:
			case http.ErrAbortHandler: //nolint:errorlint // it is thrown, and never wrapped
				panic(err)
			default:
				log.Error("a handler panicked", "method", r.Method, "path", r.URL.Path, "error", err, "stack",
					string(debug.Stack()))
				http.Error(w, "Something went wrong here. Try again; if it stays, see the service's log.",
					http.StatusInternalServerError)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
