package render

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// History is a collection that knows where its pages stood before.
type History interface {
	// Former gives the addresses at which pages stood and no page stands now, with the page.
	Former() (map[string]item.Address, error)
}

// Redirect is an address that a page left, and where the page is now.
type Redirect struct{ From, To string }

// findFormer reads, once, which addresses were left.
func (r *Renderer) findFormer() error {
	h, ok := r.c.(History)
	if !ok || r.former != nil {
		return nil
	}
	left, err := h.Former()
	if err != nil {
		return err
	}
	r.former = map[string]string{}
	for from, a := range left {
		if h, ok := r.c.Find(a); ok {
			r.former[from] = r.Canonical(h.Meta.Slug)
		}
	}
	return nil
}

// RedirectAt gives the address to which the page went that stood at a slug; "" when none did. Who
// asks has seen that nothing else is there.
func (r *Renderer) RedirectAt(slug string) (string, error) {
	if err := r.findFormer(); err != nil {
		return "", err
	}
	if to, ok := r.former[slug]; ok {
		return to, nil
	}
	if !strings.HasSuffix(slug, "/") {
		return r.former[slug+"/"], nil
	}
	return "", nil
}

// Redirects lists all addresses that pages left, in order.
func (r *Renderer) Redirects() ([]Redirect, error) {
	if err := r.findFormer(); err != nil {
		return nil, err
	}
	var out []Redirect
	for from, to := range r.former {
		out = append(out, Redirect{from, to})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].From < out[j].From })
	return out, nil
}

// RedirectPage is a page that leads on, for servers that know no redirects: at once, with a
// canonical link (RFC 6596) for search engines, and a link for people.
func (r *Renderer) RedirectPage(x Redirect) []byte {
	to := markup.EscapeAttr(r.href(x.From, x.To))
	return fmt.Appendf(nil, "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Moved</title>"+
		"<link rel=\"canonical\" href=\"%s\"><meta http-equiv=\"refresh\" content=\"0; url=%s\">"+
		"<meta name=\"robots\" content=\"noindex\"></head>\n<body><p>This page has moved: <a href=\"%s\">%s</a></p>"+
		"</body></html>\n", to, to, to, to)
}
