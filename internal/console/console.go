// Package console serves the web console from the service's own binary.
package console

import (
	"embed"
	"io/fs"
	"net/http"
	"path"
	"strings"
)

//go:embed all:dist
var files embed.FS

// Handler serves the console's files; every other address gives its one page, so
// that each view has an address that survives a reload. previews is where previews stand, as
// a source of a Content-Security-Policy: nothing else is framed, whatever a preview does.
func Handler(previews string) http.Handler {
	dist, err := fs.Sub(files, "dist")
	if err != nil {
		panic(err) // the folder is part of the binary
	}
	server := http.FileServerFS(dist)
	policy := "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob: " + previews +
		"; frame-src " + previews + "; font-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors " +
		"'none'; form-action 'self'"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		p := strings.TrimPrefix(path.Clean("/"+r.URL.Path), "/")
		if strings.HasPrefix(p, "assets/") {
			h.Set("Cache-Control", "public, max-age=31536000, immutable")
			server.ServeHTTP(w, r)
			return
		}
		if _, err := fs.Stat(dist, p); err == nil && p != "" && p != "index.html" {
			server.ServeHTTP(w, r)
			return
		}
		page, err := fs.ReadFile(dist, "index.html")
		if err != nil {
			http.Error(w, "The console is not built into this binary: run make build.", http.StatusServiceUnavailable)
			return
		}
		h.Set("Content-Type", "text/html; charset=utf-8")
		h.Set("Cache-Control", "no-cache")
		w.Write(page)
	})
}
