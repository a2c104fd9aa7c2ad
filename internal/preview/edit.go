package preview

import (
	"crypto/rand"
	"net/http"
	"regexp"
	"strings"

	"compactparcel/core/outline"
)

// editKey is what the console calls a page by that it lets somebody edit, in the query.
var editKey = regexp.MustCompile(`^[0-9a-f]{16,64}$`)

// editable makes the answer to a request for a page to be edited: of a site or draft, for the console that made
// the key. Of the page's scripts none runs, since the editing script alone carries the nonce.
func (p *Previews) editable(r *http.Request, s *shown, a *answer) (*answer, error) {
	key := r.URL.Query().Get("edit")
	if key == "" || s.home != ofSite || !strings.HasPrefix(a.header.Get("Content-Type"), "text/html") {
		return a, nil
	}
	if !editKey.MatchString(key) {
		return textAnswer(http.StatusBadRequest, "This page can be edited from the console only."), nil
	}
	nonce := rand.Text()
	body, err := outline.Mark(a.body, nonce, key)
	if err != nil {
		return nil, err
	}
	outside, err := s.outside()
	if err != nil {
		return nil, err
	}
	elsewhere := ""
	if outside {
		elsewhere = " http: https:"
	}
	a.body = body
	a.header.Del("ETag")
	a.header.Set("Cache-Control", "no-store")
	a.header.Set("Content-Security-Policy", "default-src 'none'; img-src 'self' data: blob:"+elsewhere+
		"; media-src 'self'"+elsewhere+"; font-src 'self' data:"+elsewhere+
		"; style-src 'self' 'unsafe-inline'"+elsewhere+
		"; script-src 'nonce-"+nonce+"'; frame-src 'none'; connect-src 'none'; form-action 'none'; base-uri 'self'"+
		"; frame-ancestors "+strings.Join(p.Framers, " "))
	return a, nil
}
