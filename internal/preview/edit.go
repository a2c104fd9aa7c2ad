package preview

import (
	"crypto/rand"
	"net/http"
	"strings"

	"compactparcel/core/outline"
)

// editable makes the answer to a request for a page to be edited. Of the page's scripts none runs, since the
// editing script alone carries the nonce; it knows what the console calls the page by from the address's fragment,
// which no request carries.
func (p *Previews) editable(r *http.Request, s *shown, a *answer) (*answer, error) {
	if !r.URL.Query().Has("edit") || !strings.HasPrefix(a.header.Get("Content-Type"), "text/html") {
		return a, nil
	}
	nonce := rand.Text()
	body, err := outline.Mark(a.body, nonce)
	if err != nil {
		return nil, err
	}
	policy, err := s.editingPolicy("'nonce-"+nonce+"'", p.Framers)
	if err != nil {
		return nil, err
	}
	a.body = body
	a.header.Del("ETag")
	a.header.Set("Cache-Control", "no-store")
	a.header.Set("Content-Security-Policy", policy)
	return a, nil
}

// editingPolicy says what pages may do at an origin for editing: show what visitors would see, and run nothing but
// the scripts that are named.
func (s *shown) editingPolicy(scripts string, framers []string) (string, error) {
	outside, err := s.outside()
	if err != nil {
		return "", err
	}
	elsewhere := ""
	if outside {
		elsewhere = " http: https:"
	}
	return "default-src 'none'; img-src 'self' data: blob:" + elsewhere +
		"; media-src 'self'" + elsewhere + "; font-src 'self' data:" + elsewhere +
		"; style-src 'self' 'unsafe-inline'" + elsewhere + "; script-src " + scripts +
		"; worker-src 'none'; frame-src 'none'; connect-src 'none'; form-action 'none'; base-uri 'self'" +
		"; frame-ancestors " + strings.Join(framers, " "), nil
}
