// Package preview shows sites, drafts, the library and kits as visitors would see
// them, each on an origin of its own, since a template is somebody else's HTML.
//
// A live site is at SITE.localhost, a draft at dN-TOKEN--SITE.localhost, where the
// token cannot be guessed; so cannot those of the library and of kits.
package preview

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"

	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// Previews serves previews.
type Previews struct {
	Store *store.Store
	Log   *slog.Logger
	// Pattern is the address of a preview; {host} stands for the site or draft.
	Pattern string
	// Framers are the origins that may show previews in a frame: the console's.
	Framers []string
	// InMaking gives a kit in the making as it would be sealed now.
	InMaking func(ctx context.Context, version int64) (item.Collection, error)
	// AsPlanned gives the site as a delivery's plan would leave it, or with base its items
	// as they were delivered; and the values of tokens that can be tried on.
	AsPlanned func(ctx context.Context, delivery int64, base bool) (item.Collection, map[string]string, error)
	// Secret makes the hosts of the library and of kits unguessable.
	Secret []byte

	answers answers
	sites   sites
	states  atomic.Int64 // how many were made

	mu    sync.Mutex
	cache map[string]*shown
}

func (p *Previews) address(host string) string { return strings.ReplaceAll(p.Pattern, "{host}", host) }

// Site is the address of a site's live state.
func (p *Previews) Site(name string) string { return p.address(name) }

// Draft is the address of a draft.
func (p *Previews) Draft(site string, id int64, token string) string {
	return p.address(fmt.Sprintf("d%d-%s--%s", id, token, site))
}

// Editing is the address at which a site, or one of its drafts, is edited in a sign-in: an origin on which nothing
// of the site's own ever runs. It cannot be guessed.
func (p *Previews) Editing(site string, draft int64, signIn string) string {
	in := p.token("sign-in " + signIn)[:6]
	return p.address(fmt.Sprintf("e%d-%s%s--%s", draft, in, p.editingToken(draft, site, in), site))
}

func (p *Previews) editingToken(draft int64, site, in string) string {
	return p.token(fmt.Sprintf("editing draft %d of %s in %s", draft, site, in))[:14]
}

// Revision is the address of a site as one of its revisions had it.
func (p *Previews) Revision(site string, rev int64) string {
	return p.address(fmt.Sprintf("r%d-%s--%s", rev, p.token(fmt.Sprintf("revision %d of %s", rev, site)), site))
}

func (p *Previews) token(of string) string {
	m := hmac.New(sha256.New, p.Secret)
	m.Write([]byte(of))
	return hex.EncodeToString(m.Sum(nil))[:20]
}

// Library is the address of the library.
func (p *Previews) Library() string { return p.address("library-" + p.token("library")) }

// Kit is the address of a sealed kit.
func (p *Previews) Kit(version int64) string {
	return p.address(fmt.Sprintf("k%d-%s--kits", version, p.token(fmt.Sprintf("kit %d", version))))
}

// Making is the address of a kit in the making.
func (p *Previews) Making(version int64) string {
	return p.address(fmt.Sprintf("m%d-%s--kits", version, p.token(fmt.Sprintf("making %d", version))))
}

// Planned is the address of a site as a delivery's plan would leave it.
func (p *Previews) Planned(delivery int64) string { return p.address(p.deliveryHost("p", delivery)) }

// Base is the address of a site with its items as a kit delivered them.
func (p *Previews) Base(delivery int64) string { return p.address(p.deliveryHost("b", delivery)) }

func (p *Previews) deliveryHost(side string, delivery int64) string {
	return fmt.Sprintf("%s%d-%s--deliveries", side, delivery, p.token(fmt.Sprintf("delivery %d", delivery)))
}

// Pick is the place below any of these where the elements of one piece can be picked.
func Pick(a item.Address) string { return render.AssetRoot + "pick/" + a.String() }

// Alone is the place below any of these where one piece stands by itself.
func Alone(a item.Address) string { return render.AssetRoot + "alone/" + a.String() }

func (p *Previews) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Header.Get("Service-Worker") == "script" { // it would go on answering in our place (Service Workers, 6.1)
		plain(w, http.StatusForbidden, "Previews have no service workers.")
		return
	}
	host, ok := p.host(r.Host)
	if !ok {
		plain(w, http.StatusNotFound, errNoPreview.Error())
		return
	}
	s, err := p.state(r.Context(), host)
	switch {
	case errors.Is(err, errNoPreview) || errors.Is(err, store.ErrNotFound):
		plain(w, http.StatusNotFound, errNoPreview.Error())
		return
	case err != nil:
		p.Log.Error("preview", "host", public(host), "error", err)
		unavailable(w)
		return
	}
	a, err := p.answer(r, s, editingHost.MatchString(host))
	if err != nil {
		p.Log.Error("preview", "host", public(host), "path", r.URL.Path, "error", err)
		unavailable(w)
		return
	}
	a.write(w, r)
}

// public is what a log may hold of a host: never the part that cannot be guessed.
func public(host string) string {
	before, behind, ok := strings.Cut(host, "--")
	if !ok {
		before, behind = host, ""
	}
	kind, _, secret := strings.Cut(before, "-")
	if ok && secret || strings.HasPrefix(host, "library-") {
		before = kind + "-…"
	}
	if !ok {
		return before
	}
	return before + "--" + behind
}

func plain(w http.ResponseWriter, status int, text string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.Header().Set("X-Content-Type-Options", "nosniff")
	w.WriteHeader(status)
	fmt.Fprintln(w, text)
}

// unavailable answers what failed here and now: it may be otherwise in a moment, so
// nobody keeps the answer.
func unavailable(w http.ResponseWriter) {
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Retry-After", "3")
	plain(w, http.StatusServiceUnavailable, "The preview cannot be shown at the moment; try again in a few seconds.")
}
