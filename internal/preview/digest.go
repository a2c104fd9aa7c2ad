package preview

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// ErrNotShown tells that an address is none of a preview that is there.
var ErrNotShown = errors.New("no preview is at this address")

// Digest tells what a page of a preview shows: equal pages have equal digests, on whichever host they stand.
// The addresses of files in a page hold the files' digests. Its error is ErrNotShown where no page is.
func (p *Previews) Digest(ctx context.Context, at string) (item.Digest, error) {
	u, err := url.Parse(at)
	if err != nil || u.Host == "" {
		return "", ErrNotShown
	}
	host, ok := p.host(u.Host)
	if !ok {
		return "", ErrNotShown
	}
	s, err := p.state(ctx, host)
	if errors.Is(err, errNoPreview) || errors.Is(err, store.ErrNotFound) {
		return "", ErrNotShown
	}
	if err != nil {
		return "", err
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return "", ErrNotShown
	}
	r.Host = u.Host
	a, err := p.answer(r, s, false)
	if err != nil {
		return "", err
	}
	if a.file != nil {
		a.file.Close()
		return "", ErrNotShown
	}
	if a.status != http.StatusOK && a.status != http.StatusNotFound ||
		!strings.HasPrefix(a.header.Get("Content-Type"), "text/html") {
		return "", ErrNotShown
	}
	sum := sha256.New()
	policy := strings.ReplaceAll(a.header.Get("Content-Security-Policy"), u.Host, "HOST")
	fmt.Fprintf(sum, "%d\n%s\n", a.status, policy)
	sum.Write(a.body)
	return item.Digest(hex.EncodeToString(sum.Sum(nil))), nil
}
